import { useState } from "react";
import { useRemnant, type CutList } from "../api/cutting";
import type { Edit, Job } from "../api/client";
import { useJobUnit } from "../common/unit";
import { Fact, Section } from "../ticket/Ticket";
import { TypedField } from "../ticket/TypedField";
import { shownSize, sizeInJob, sizeShown } from "../views/sizes";
import { length, numberOrNone, wholeOrNone } from "../views/typing";
import * as texts from "./texts";

type Stock = CutList["plates"][number];

interface Props {
  job: Job;
  list: CutList;
  plate: number;
  edit: (edit: Edit) => void;
}

interface StockProps {
  own: Stock;
  change: (fields: Partial<Stock>) => void;
}

/** The size and the outline of a plate. */
function Outline({ job, list, at, own, change }: StockProps & { job: Job; list: CutList; at: number }) {
  const remnant = useRemnant(job.id, list.id);
  const unit = useJobUnit((state) => state.unit);
  const drawings = job.document.sources.filter((source) => source.drawing);
  return (
    <>
      <Fact name={texts.plateSize}>
        <TypedField
          label={texts.plateSize}
          value={shownSize(own.width, own.height)}
          read={sizeInJob}
          suffix={unit}
          onChange={(text) => {
            const [width, height] = sizeShown(text) ?? [own.width, own.height];
            change({ width, height, remnant: [] });
          }}
        />
      </Fact>
      {(drawings.length > 0 || own.remnant.length > 0) && (
        <Fact name={texts.outline}>
          <select
            aria-label={texts.outline}
            value={own.remnant.length ? "kept" : ""}
            onChange={(event) => remnant.mutate({ plate: at, source: event.target.value })}
          >
            <option value="">{texts.wholePlate}</option>
            {own.remnant.length > 0 && <option value="kept">{texts.remnantKept}</option>}
            {drawings.map((source) => (
              <option key={source.id} value={source.id}>
                {texts.outlineOf(source.name)}
              </option>
            ))}
          </select>
        </Fact>
      )}
    </>
  );
}

function StockFields({ own, change }: StockProps) {
  return (
    <>
      <Fact name={texts.thickness}>
        <TypedField
          label={texts.thickness}
          value={String(own.thickness)}
          length
          read={length}
          suffix={texts.mm}
          onChange={(v) => change({ thickness: Number(v) })}
        />
      </Fact>
      <Fact name={texts.material}>
        <TypedField label={texts.material} value={own.material} read={async (text) => text.trim()} onChange={(material) => change({ material })} />
      </Fact>
      <Fact name={texts.density}>
        <TypedField
          label={texts.density}
          value={own.density ? String(own.density) : ""}
          read={numberOrNone}
          suffix={texts.gramsPerCm}
          onChange={(v) => change({ density: Number(v) })}
        />
      </Fact>
      <Fact name={texts.edgeMargin}>
        <TypedField label={texts.edgeMargin} value={String(own.edge)} length read={length} suffix={texts.mm} onChange={(v) => change({ edge: Number(v) })} />
      </Fact>
      <Fact name={texts.grain}>
        <select aria-label={texts.grain} value={own.grain} onChange={(event) => change({ grain: event.target.value as Stock["grain"] })}>
          {(Object.keys(texts.grains) as (keyof typeof texts.grains)[]).map((way) => (
            <option key={way} value={way}>
              {texts.grains[way]}
            </option>
          ))}
        </select>
      </Fact>
      <Fact name={texts.platesThereAre}>
        <TypedField
          label={texts.platesThereAre}
          value={own.count === null ? "" : String(own.count)}
          read={wholeOrNone}
          suffix={own.count === null ? texts.asManyAsItTakes : ""}
          onChange={(v) => change({ count: v ? Number(v) : null })}
        />
      </Fact>
      <Fact name={texts.price}>
        <TypedField
          label={texts.price}
          value={own.price === null ? "" : String(own.price)}
          read={numberOrNone}
          onChange={(v) => change({ price: v ? Number(v) : null })}
        />
      </Fact>
    </>
  );
}

/** The stock that plates are of: the kinds that there are, used in their order. */
export function StockFacts({ job, list, plate, edit }: Props) {
  const [chosen, setChosen] = useState<number | null>(null);
  const count = list.plates.length;
  const at = Math.min(chosen ?? plate, count - 1);
  const own = list.plates[at];
  if (!own) return null;
  const keep = (plates: readonly Stock[]) => edit({ kind: "change_cut_list", cut_list: list.id, fields: { plates: [...plates] } });
  const used = job.document.sheets.some((sheet) => sheet.cutting?.cut_list === list.id && sheet.cutting.plate >= at);
  return (
    <Section title={texts.plate}>
      {count > 1 && (
        <Fact name={texts.kindOfPlate}>
          <select aria-label={texts.kindOfPlate} value={at} onChange={(event) => setChosen(Number(event.target.value))}>
            {list.plates.map((_, n) => (
              <option key={n} value={n}>
                {texts.kindOf(n + 1, count)}
              </option>
            ))}
          </select>
        </Fact>
      )}
      <Outline job={job} list={list} at={at} own={own} change={(fields) => keep(list.plates.map((other, n) => (n === at ? { ...other, ...fields } : other)))} />
      <StockFields own={own} change={(fields) => keep(list.plates.map((other, n) => (n === at ? { ...other, ...fields } : other)))} />
      <p className="layer-acts">
        <button
          type="button"
          onClick={() => {
            keep([...list.plates, { ...own, count: null }]);
            setChosen(count);
          }}
        >
          {texts.addAKind}
        </button>
        {count > 1 && !used && (
          <button
            type="button"
            onClick={() => {
              keep(list.plates.filter((_, n) => n !== at));
              setChosen(null);
            }}
          >
            {texts.removeThisKind}
          </button>
        )}
      </p>
    </Section>
  );
}
