import { Segmented } from "antd";
import { useMemo, useState } from "react";
import { copyText, handOverData } from "../common/handOver";
import { Fact } from "../ticket/Ticket";
import { freeName, keptReading } from "./kept";
import { asCsv, asText, axesInWords, inWords, MEASURES, radiusInWords, type Measure, type Reading, type Unit } from "./measuring";
import { allReadings, useReview, type Review } from "./state";
import * as texts from "./texts";

/** What was measured, and how far it can be trusted. */
export function SolidMeasurePanel({ review }: { review: Review }) {
  const { model, set, keeper } = review.getState();
  const tool = useReview(review, (state) => state.tool);
  const own = useReview(review, (state) => state.readings);
  const kept = useReview(review, (state) => state.kept);
  const readings = useMemo(() => allReadings({ kept, readings: own }), [kept, own]);
  const held = new Set(kept.map((item) => item.id));
  const refusal = useReview(review, (state) => state.refusal);
  const unit = useReview(review, (state) => state.unit);
  const [copied, setCopied] = useState(false);
  const copy = async () => {
    await copyText(asText(readings, unit));
    setCopied(true);
    setTimeout(() => setCopied(false), 1500);
  };
  const keep = (reading: Reading) => keeper.keep(keptReading(reading, freeName(kept, "reading", MEASURES[reading.kind])));
  const remove = (rows: Reading[]) => {
    const ids = rows.map((row) => row.id);
    set({ readings: own.filter((row) => !ids.includes(row.id)) });
    const known = ids.filter((id) => held.has(id));
    if (known.length) keeper.forget(known);
  };
  const take = (name: Measure) => set({ tool: tool === name ? null : name, picks: [], refusal: "" });
  return (
    <>
      <div className="chips" role="group" aria-label={texts.whatToMeasure}>
        {(Object.keys(MEASURES) as Measure[]).map((name) => (
          <button key={name} type="button" aria-pressed={tool === name} onClick={() => take(name)}>
            {MEASURES[name]}
          </button>
        ))}
      </div>
      {refusal && (
        <p className="note warning" role="alert">
          {refusal}
        </p>
      )}
      <ul className="rows" aria-label={texts.readingsIn3d}>
        {readings.map((reading) => (
          <li key={reading.id} className="reading-row">
            <span>
              {reading.what} <strong>{inWords(reading, unit)}</strong>
              {radiusInWords(reading, unit) && <small className="soft">{radiusInWords(reading, unit)}</small>}
              {axesInWords(reading, unit) && <small className="soft">{axesInWords(reading, unit)}</small>}
            </span>
            {reading.coarse && (
              <em>
                ± {model.tolerance.toFixed(3)} {texts.mm2}
              </em>
            )}
            <span className="layer-acts">
              {held.has(reading.id) ? (
                <em>{texts.keptWord}</em>
              ) : (
                <button type="button" aria-label={texts.keepReading(inWords(reading, unit))} onClick={() => keep(reading)}>
                  {texts.keepIt}
                </button>
              )}
              {keeper.asNote && (
                <button
                  type="button"
                  aria-label={texts.asANoteOf(inWords(reading, unit))}
                  onClick={() => keeper.asNote?.(`${reading.what}: ${inWords(reading, unit)}`)}
                >
                  {texts.asANote}
                </button>
              )}
              <button type="button" aria-label={texts.remove(inWords(reading, unit))} onClick={() => remove([reading])}>
                {texts.remove2}
              </button>
            </span>
          </li>
        ))}
      </ul>
      {readings.length > 0 && (
        <p className="layer-acts">
          <button type="button" onClick={() => void copy()}>
            {copied ? texts.copied : texts.copyReadings}
          </button>
          <button type="button" onClick={() => handOverData(new Blob([asCsv(readings, model.tolerance)], { type: "text/csv" }), "readings.csv")}>
            {texts.saveReadings}
          </button>
          <button type="button" onClick={() => remove(readings)}>
            {texts.clearReadings}
          </button>
        </p>
      )}
      <Fact name={texts.unit}>
        <Segmented<Unit>
          size="small"
          aria-label={texts.unit}
          value={unit}
          onChange={(value) => set({ unit: value })}
          options={[
            { value: "mm", label: texts.mm2 },
            { value: "in", label: texts.inch },
            { value: "thou", label: <span title={texts.thousandths}>{texts.thou}</span> },
          ]}
        />
      </Fact>
      <p className="soft small tolerance">
        {model.tolerance > 0 ? texts.curvedSurfacesAreTrianglesThat(Number(model.tolerance.toFixed(4))) : texts.theModelSOwnTriangles}
      </p>
    </>
  );
}
