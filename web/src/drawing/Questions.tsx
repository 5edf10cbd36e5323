import { Button } from "antd";
import type { Drawing, Job, Schemas } from "../api/client";
import { useSayLength } from "../api/drawings";
import { readLength, readScale, useEdit, useTrade } from "../api/queries";
import { mm, ratio } from "../paper/geometry";
import { Fact, Note, Section } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import * as texts from "./texts";

/** A drawing whose file names no unit: how large it would be in each. */
export function UnitQuestion({ name, candidates, onChoose }: { name: string; candidates: Drawing["candidates"]; onChoose: (mm: number) => void }) {
  const long = (value: number) => (value >= 10_000 ? `${mm(value / 1000, 2)} m` : texts.mm2(mm(value, 1)));
  return (
    <Note tone="warning" title={texts.givesNoUnitHowLarge(name)}>
      <div className="choices" role="group" aria-label={texts.unitOfTheDrawing}>
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
  const shown = unit ? (unit >= 1 ? `1:${mm(unit, 4)}` : `${mm(1 / unit, 4)}:1`) : texts.notKnown;
  const nearest = unit
    ? (trade?.scales ?? []).reduce((best, s) => (Math.abs(Math.log(ratio(s) * unit)) < Math.abs(Math.log(ratio(best) * unit)) ? s : best), "1:1")
    : null;
  const off = unit && nearest ? ratio(nearest) * unit - 1 : 0;
  const setScale = (scale: string) => edit.mutate({ kind: "set_unit", source, unit_mm: 1 / ratio(scale) });
  return (
    <>
      {page && (
        <Fact name={texts.drawnAt}>
          <TypedField label={texts.scaleOfThePage} value={shown} read={async (text) => (await readScale(text)).scale} onChange={setScale} />
        </Fact>
      )}
      {page && nearest && Math.abs(off) > 1e-6 && Math.abs(off) < 0.2 && (
        <Note tone="info" title={texts.isFromTheNearestOf(shown, mm(Math.abs(off) * 100, 2), nearest)}>
          <Button type="link" size="small" onClick={() => setScale(nearest)}>
            {texts.take} {nearest}
          </Button>
        </Note>
      )}
      <Section title={texts.aKnownLength}>
        {measured === null ? (
          <Button size="small" type={picking ? "primary" : "default"} onClick={onPick}>
            {texts.clickTwoPoints} <kbd>L</kbd>
          </Button>
        ) : (
          <>
            <p className="soft">
              {texts.theTwoPointsAre} {mm(measured * (unit ?? 1), 3)} {unit ? "mm" : page ? texts.mmOnThePage : "units"} {texts.apartHowLongIsIt}
            </p>
            <TypedField
              label={texts.itsRealLength}
              value=""
              read={async (text) => mm((await readLength(text)).mm, 6)}
              onChange={(text) => say.mutate({ measured, length_mm: Number(text) }, { onSuccess: onDone })}
              suffix={texts.mm3}
            />
          </>
        )}
      </Section>
    </>
  );
}
