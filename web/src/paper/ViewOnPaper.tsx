import type { Job, View } from "../api/client";
import { usePicture } from "../api/queries";
import type { PaperSize } from "./geometry";
import { ViewStrokes } from "./ViewStrokes";

/** A view's lines on a small picture of its sheet. */
export function ViewOnPaper({ job, sheet, view, paper, zoom }: { job: Job; sheet: string; view: View; paper: PaperSize; zoom: number }) {
  const { data } = usePicture(job, sheet, view);
  if (!data?.picture) return null;
  const [px, py] = view.place;
  return (
    <g transform={`translate(${px * zoom} ${(paper.height - py) * zoom})`}>
      <ViewStrokes view={view} picture={data.picture} zoom={zoom} />
    </g>
  );
}
