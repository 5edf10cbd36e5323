import type { Job, Sheet } from "../api/client";
import { useAnnotationPoster, type Field } from "../api/solids";
import type { PaperSize } from "./geometry";

/** A 3D annotation as it lies on its sheet, to look at: its picture, in pixels. */
export function AnnotationOnPaper({ job, sheet, field, paper, zoom }: { job: Job; sheet: Sheet; field: Field; paper: PaperSize; zoom: number }) {
  const { data } = useAnnotationPoster(job, sheet, field);
  const [x, y] = field.place;
  const [w, h] = field.size;
  const box = { x: x * zoom, y: (paper.height - y - h) * zoom, width: w * zoom, height: h * zoom };
  return (
    <>
      {data?.poster && <image href={data.poster} {...box} preserveAspectRatio="none" />}
      {field.frame && <rect className="frame-line" {...box} />}
    </>
  );
}
