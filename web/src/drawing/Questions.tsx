import { Button } from "antd";
import type { Drawing, Job, Schemas } from "../api/client";
import { useSayLength } from "../api/drawings";
import { readLength, readScale, useEdit, useTrade } from "../api/queries";
import { mm, ratio } from "../sheets/geometry";
import { Fact, Note, Section } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";

/** A drawing whose file names no unit: how large it would be in each. */
export function UnitQuestion({ name, candidates, onChoose }: { name: string; candidates: Drawing["candidates"]; onChoose: (mm: number) => void }) {
  const long = (value: number) => (value >= 10_000 ? `${mm(value / 1000, 2)} m` : `${mm(value, 1)} mm`);
  return (
    <Note tone="warning" title={`${name} gives no unit. How large is it?`}>
      <div className="choices" role="group" aria-label="Unit of the drawing">
        {candidates.map((unit) => (
          <button key={unit.name} type="button" onClick={() => onChoose(unit.mm)}>
            <strong>{unit.name}</strong>
            <span>
              {long(unit.width)} × {long(unit.height)}
            </span>
          </button>
        ))}
      </div>
    </Note>
  );
}

interface Props {
  job: Job;
  source: string;
  facts: Schemas["DrawingFacts"];
  unit: number | null;
  measured: number | null;
  picking: boolean;
  onPick: () => void;
  onDone: () => void;
}

/** How large a drawing really is: the scale of a page, or a length between two points. */
export function ScaleQuestion({ job, source, facts, unit, measured, picking, onPick, onDone }: Props) {
  const say = useSayLength(job.id, source);
  const edit = useEdit(job.id);
  const { data: trade } = useTrade();
  const page = facts.kind === "pdf";
  const shown = unit ? (unit >= 1 ? `1:${mm(unit, 4)}` : `${mm(1 / unit, 4)}:1`) : "not known";
  const nearest = unit ? (trade?.scales ?? []).reduce((best, s) => (Math.abs(Math.log(ratio(s) * unit)) < Math.abs(Math.log(ratio(best) * unit)) ? s : best), "1:1") : null;
  const off = unit && nearest ? ratio(nearest) * unit - 1 : 0;
  const setScale = (scale: string) => edit.mutate({ kind: "set_unit", source, unit_mm: 1 / ratio(scale) });
  return (
    <>
      {page && (
        <Fact name="Drawn at">
          <TypedField label="Scale of the page" value={shown} read={async (text) => (await readScale(text)).scale} onChange={setScale} />
        </Fact>
      )}
      {page && nearest && Math.abs(off) > 1e-6 && Math.abs(off) < 0.2 && (
        <Note tone="info" title={`${shown} is ${mm(Math.abs(off) * 100, 2)} % from ${nearest}, the nearest of ISO 5455.`}>
          <Button type="link" size="small" onClick={() => setScale(nearest)}>
            Take {nearest}
          </Button>
        </Note>
      )}
      <Section title="A known length">
        {measured === null ? (
          <Button size="small" type={picking ? "primary" : "default"} onClick={onPick}>
            Click two points <kbd>L</kbd>
          </Button>
        ) : (
          <>
            <p className="soft">The two points are {mm(measured * (unit ?? 1), 3)} {unit ? "mm" : page ? "mm on the page" : "units"} apart. How long is it really?</p>
            <TypedField
              label="Its real length"
              value=""
              read={async (text) => mm((await readLength(text)).mm, 6)}
              onChange={(text) => say.mutate({ measured, length_mm: Number(text) }, { onSuccess: onDone })}
              suffix="mm"
            />
          </>
        )}
      </Section>
    </>
  );
}
