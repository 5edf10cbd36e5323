import { useCompared } from "../api/looks";
import { dayOf } from "../common/dates";
import { inUnit, sizeInUnit } from "../common/unit";
import { Fact, Note } from "../ticket/Ticket";
import type { Place } from "./Readings";
import * as texts from "./texts";

type Compared = NonNullable<ReturnType<typeof useCompared>["data"]>;

/** What changed since the sheet was sent last. */
export function ComparePanel({ compared, problem, onGo }: { compared: Compared | undefined; problem: string; onGo: (place: Place) => void }) {
  if (problem) return <Note tone="info" title={problem} />;
  if (!compared?.ready) return <p className="soft">{texts.comparingWithTheLastIssue}</p>;
  const rows = [...compared.gone.map((box) => ({ box, what: texts.gone })), ...compared.came.map((box) => ({ box, what: texts.newWord }))] as {
    box: Place;
    what: "gone" | "new";
  }[];
  return (
    <>
      <Fact name={texts.issued}>
        {dayOf(compared.sent)}, {compared.purpose}
        {compared.revision && texts.revision(compared.revision)}
      </Fact>
      <p className="legend">
        <span className="both">{texts.asItWas}</span> <span className="gone">{texts.removedSince}</span> <span className="came">{texts.addedSince}</span>
      </p>
      {!rows.length && <Note tone="info" title={texts.noDifferenceFromTheLast} />}
      <ul className="rows" aria-label={texts.differences}>
        {rows.map(({ box, what }, index) => (
          <li key={index}>
            <button type="button" className="row" onClick={() => onGo(box)}>
              <span className={`tint ${what}`}>{what}</span>
              <em>
                {texts.x} {inUnit(box[0], 1)}, y {inUnit(box[1], 1)} · {sizeInUnit(box[2] - box[0], box[3] - box[1], 1)}
              </em>
            </button>
          </li>
        ))}
      </ul>
    </>
  );
}
