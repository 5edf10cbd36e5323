import { memo, Suspense, useRef } from "react";
import type { Job, Sheet } from "../api/client";
import { AnnotationOnPaper } from "./AnnotationOnPaper";
import { frameOf, paperOf } from "./geometry";
import { part } from "../common/part";
import { useSeen } from "../common/useSeen";
import { PageBeneath } from "./PageBeneath";
import { ViewOnPaper } from "./ViewOnPaper";

const PlateOnPaper = part(async () => (await import("./PlateOnPaper")).PlateOnPaper);
const WIDTH = 122;
const HIGHEST = 130;

/** A sheet as it stands, small. */
export const Thumbnail = memo(function Thumbnail({ job, sheet }: { job: Job; sheet: Sheet }) {
  const paper = paperOf(job, sheet);
  const zoom = Math.min(WIDTH / paper.width, HIGHEST / paper.height);
  const frame = frameOf(job, sheet);
  const picture = useRef<SVGSVGElement>(null);
  const seen = useSeen(picture);
  return (
    <svg ref={picture} className="thumbnail" width={paper.width * zoom} height={paper.height * zoom} aria-hidden>
      {frame && (
        <rect
          className="frame-line"
          x={frame[0] * zoom}
          y={(paper.height - frame[3]) * zoom}
          width={(frame[2] - frame[0]) * zoom}
          height={(frame[3] - frame[1]) * zoom}
        />
      )}
      {seen && <PageBeneath sheet={sheet} width={paper.width * zoom} height={paper.height * zoom} />}
      {seen && sheet.annotations_3d.map((field) => <AnnotationOnPaper key={field.id} job={job} sheet={sheet} field={field} paper={paper} zoom={zoom} />)}
      {seen && sheet.cutting && (
        <Suspense>
          <PlateOnPaper job={job} sheet={sheet} paper={paper} zoom={zoom} />
        </Suspense>
      )}
      {seen && sheet.views.map((view) => <ViewOnPaper key={view.id} job={job} sheet={sheet.id} view={view} paper={paper} zoom={zoom} />)}
    </svg>
  );
});
