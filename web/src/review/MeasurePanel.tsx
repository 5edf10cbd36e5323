import { Segmented } from "antd";
import { useState } from "react";
import { copyText, handOverData } from "../common/handOver";
import { Fact } from "../ticket/Ticket";
import { asCsv, asText, axesInWords, inWords, MEASURES, type Measure, type Unit } from "./measuring";
import { useReview, type Review } from "./state";
import * as texts from "./texts";

/** What was measured, and how far it can be trusted. */
export function SolidMeasurePanel({ review }: { review: Review }) {
  const { model, set } = review.getState();
  const tool = useReview(review, (state) => state.tool);
  const readings = useReview(review, (state) => state.readings);
  const refusal = useReview(review, (state) => state.refusal);
  const unit = useReview(review, (state) => state.unit);
  const [copied, setCopied] = useState(false);
  const copy = async () => {
    await copyText(asText(readings, unit));
    setCopied(true);
    setTimeout(() => setCopied(false), 1500);
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
              {axesInWords(reading, unit) && <small className="soft">{axesInWords(reading, unit)}</small>}
            </span>
            {reading.coarse && (
              <em>
                ± {model.tolerance.toFixed(3)} {texts.mm2}
              </em>
            )}
            <button
              type="button"
              className="as-file"
              aria-label={texts.remove(inWords(reading, unit))}
              onClick={() => set({ readings: readings.filter((own) => own.id !== reading.id) })}
            >
              {texts.remove2}
            </button>
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
          <button type="button" onClick={() => set({ readings: [] })}>
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
