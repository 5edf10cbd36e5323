import type { Points } from "../api/looks";
import { Fact, Note } from "../ticket/Ticket";
import { micro, type Measured } from "./MeasureOverlay";

/** What was measured between two places of the file. */
export function MeasurePanel({ measured, points }: { measured: Measured | null; points: Points | null | undefined }) {
  if (!points) return <p className="soft">Reading the ends and centres of the file …</p>;
  return (
    <>
      <p className="soft">Point at two places: ends, centres and crossings of the file itself take hold.</p>
      {!!points.beyond && <Note tone="info" title={`This sheet has ${points.beyond} ends and strokes more than take hold here: the first ones of the file do.`} />}
      {measured && (
        <div aria-label="Measured length">
          {measured.model !== null && (
            <Fact name="Model">
              <strong>{micro(measured.model)} mm</strong>
            </Fact>
          )}
          <Fact name="On paper">{micro(measured.paper)} mm</Fact>
          <Fact name="Across, up">
            {micro(Math.abs(measured.to.x - measured.from.x))}, {micro(Math.abs(measured.to.y - measured.from.y))} mm
          </Fact>
          <Fact name="Read by">{measured.model === null ? "no viewport holds both" : `the ${measured.view} viewport, ${measured.ratio}`}</Fact>
          <Fact name="From, to">
            {measured.from.kind}, {measured.to.kind}
          </Fact>
        </div>
      )}
      {measured && measured.model === null && <Note tone="info" title="No one viewport holds both places, so only the paper is measured." />}
    </>
  );
}
