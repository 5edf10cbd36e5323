import { useCompared } from "../api/looks";
import { dayOf } from "../issue/IssueRow";
import { Fact, Note } from "../ticket/Ticket";
import type { Place } from "./Readings";

type Compared = NonNullable<ReturnType<typeof useCompared>["data"]>;

/** What changed since the sheet was sent last. */
export function ComparePanel({ compared, problem, onGo }: { compared: Compared | undefined; problem: string; onGo: (place: Place) => void }) {
  if (problem) return <Note tone="info" title={problem} />;
  if (!compared?.ready) return <p className="soft">Comparing with the last issue …</p>;
  const rows = [...compared.gone.map((box) => ({ box, what: "gone" })), ...compared.came.map((box) => ({ box, what: "new" }))] as { box: Place; what: "gone" | "new" }[];
  return (
    <>
      <Fact name="Issued">
        {dayOf(compared.sent)}, {compared.purpose}
        {compared.revision && `, revision ${compared.revision}`}
      </Fact>
      <p className="legend">
        <span className="both">as it was</span> <span className="gone">removed since</span> <span className="came">added since</span>
      </p>
      {!rows.length && <Note tone="info" title="No difference from the last issue." />}
      <ul className="rows" aria-label="Differences">
        {rows.map(({ box, what }, index) => (
          <li key={index}>
            <button type="button" className="row" onClick={() => onGo(box)}>
              <span className={`tint ${what}`}>{what}</span>
              <em>
                x {box[0].toFixed(1)}, y {box[1].toFixed(1)} · {(box[2] - box[0]).toFixed(1)} × {(box[3] - box[1]).toFixed(1)} mm
              </em>
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}
