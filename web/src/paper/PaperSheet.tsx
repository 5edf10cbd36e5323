import { Suspense } from "react";
import type { Job, Sheet, Writing } from "../api/client";
import { frameOf, paperOf } from "./geometry";
import { PageBeneath } from "./PageBeneath";
import { AnnotationOnPaper } from "./AnnotationOnPaper";
import { part } from "../common/part";
import { Rulers } from "./Rulers";
import { PAD } from "./useZoom";
import { ViewOnPaper } from "./ViewOnPaper";
import { Written } from "./Written";
import * as texts from "./texts";

const PlateOnPaper = part(async () => (await import("./PlateOnPaper")).PlateOnPaper);

interface Props {
  job: Job;
  sheet: Sheet;
  writing: Writing | undefined;
  zoom: number;
  onPick?: (point: [number, number]) => void;
  children?: React.ReactNode;
}

/** A sheet as it is, to look at and to point at; nothing on it can be moved. Its children are drawn over it, in pixels. */
export function PaperSheet({ job, sheet, writing, zoom, onPick, children }: Props) {
  const paper = paperOf(job, sheet);
  const [width, height] = [paper.width * zoom, paper.height * zoom];
  const frame = frameOf(job, sheet);
  const pick = (event: React.MouseEvent<SVGGElement>) => {
    const box = event.currentTarget.querySelector(".paper")?.getBoundingClientRect();
    if (box) onPick?.([(event.clientX - box.left) / zoom, (box.bottom - event.clientY) / zoom]);
  };
  return (
    <>
      <div className="lift" style={{ left: PAD.left, top: PAD.top, width, height }} />
      <svg
        className={onPick ? "base pointed" : "base"}
        width={width + PAD.left + PAD.right}
        height={height + PAD.top + 4}
        role="img"
        aria-label={texts.sheet(sheet.name)}
      >
        <g transform={`translate(${PAD.left} ${PAD.top})`} onClick={pick}>
          <rect className="paper" width={width} height={height} />
          <PageBeneath sheet={sheet} width={width} height={height} />
          <Rulers paper={paper} zoom={zoom} />
          {!writing && frame && (
            <rect
              className="frame-line"
              x={frame[0] * zoom}
              y={(paper.height - frame[3]) * zoom}
              width={(frame[2] - frame[0]) * zoom}
              height={(frame[3] - frame[1]) * zoom}
            />
          )}
          {sheet.annotations_3d.map((field) => (
            <AnnotationOnPaper key={field.id} job={job} sheet={sheet} field={field} paper={paper} zoom={zoom} />
          ))}
          {sheet.cutting && (
            <Suspense>
              <PlateOnPaper job={job} sheet={sheet} paper={paper} zoom={zoom} />
            </Suspense>
          )}
          {sheet.views.map((view) => (
            <ViewOnPaper key={view.id} job={job} sheet={sheet.id} view={view} paper={paper} zoom={zoom} />
          ))}
          {writing && (
            <g className="furniture" transform={`translate(0 ${height}) scale(${zoom})`}>
              {!sheet.clean && Object.entries(writing.views).map(([id, own]) => <Written key={id} picture={own.marks} zoom={zoom} />)}
              <Written picture={writing.frame} zoom={zoom} />
            </g>
          )}
          {children}
        </g>
      </svg>
    </>
  );
}
