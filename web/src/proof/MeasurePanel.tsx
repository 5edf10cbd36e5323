import type { Points } from "../api/looks";
import { Fact, Note } from "../ticket/Ticket";
import { micro, microIn, type Measured } from "./MeasureOverlay";
import * as texts from "./texts";

/** What was measured between two places of the file. */
export function MeasurePanel({ measured, points }: { measured: Measured | null; points: Points | null | undefined }) {
  if (!points) return <p className="soft">{texts.readingTheEndsAndCentres}</p>;
  return (
    <>
      <p className="soft">{texts.pointAtTwoPlacesEnds}</p>
      {!!points.beyond && <Note tone="info" title={texts.thisSheetHasEndsAnd(points.beyond)} />}
      {measured && (
        <div aria-label={texts.measuredLength}>
          {measured.model !== null && (
            <Fact name={texts.model}>
              <strong>{microIn(measured.model)}</strong>
            </Fact>
          )}
          <Fact name={texts.onPaper}>{microIn(measured.paper)}</Fact>
          <Fact name={texts.acrossUp}>
            {micro(Math.abs(measured.to.x - measured.from.x))}, {microIn(Math.abs(measured.to.y - measured.from.y))}
          </Fact>
          <Fact name={texts.readBy}>{measured.model === null ? texts.noViewportHoldsBoth : texts.theViewport(measured.view, measured.ratio)}</Fact>
          <Fact name={texts.fromTo}>
            {measured.from.kind}, {measured.to.kind}
          </Fact>
        </div>
      )}
      {measured && measured.model === null && <Note tone="info" title={texts.noOneViewportHoldsBoth} />}
    </>
  );
}
