import { Segmented } from "antd";
import { Fact } from "../ticket/Ticket";
import { MEASURES, told, type Measure } from "./measuring";
import { useReview, type Review } from "./state";

/** What was measured, and how far it can be trusted. */
export function SolidMeasurePanel({ review }: { review: Review }) {
  const { model, set } = review.getState();
  const tool = useReview(review, (state) => state.tool);
  const readings = useReview(review, (state) => state.readings);
  const refusal = useReview(review, (state) => state.refusal);
  const unit = useReview(review, (state) => state.unit);
  const take = (name: Measure) => set({ tool: tool === name ? null : name, picks: [], refusal: "" });
  return (
    <>
      <div className="chips" role="group" aria-label="What to measure">
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
      <ul className="rows" aria-label="Readings in 3D">
        {readings.map((reading) => (
          <li key={reading.id} className="reading-row">
            <span>
              {reading.what} <strong>{told(reading, unit)}</strong>
            </span>
            {reading.coarse && <em>± {model.tolerance.toFixed(3)} mm</em>}
            <button type="button" className="as-file" aria-label={`Remove ${told(reading, unit)}`} onClick={() => set({ readings: readings.filter((own) => own.id !== reading.id) })}>
              Remove
            </button>
          </li>
        ))}
      </ul>
      <Fact name="Unit">
        <Segmented
          size="small"
          aria-label="Unit"
          value={unit}
          onChange={(value) => set({ unit: value as "mm" | "in" })}
          options={[
            { value: "mm", label: "mm" },
            { value: "in", label: "inch" },
          ]}
        />
      </Fact>
      <p className="soft small tolerance">
        {model.tolerance > 0
          ? `Curved surfaces are triangles that lie within ${Number(model.tolerance.toFixed(4))} mm of the part. Ends, edges, plane faces and circles are the part's own, to 0.001 mm.`
          : "The model's own triangles, measured as they are."}
      </p>
    </>
  );
}
