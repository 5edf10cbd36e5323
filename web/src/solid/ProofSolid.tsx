import { Button, Spin } from "antd";
import { useEffect, useMemo, useRef, useState } from "react";
import type { Job, Sheet } from "../api/client";
import { excerptOf } from "../api/content";
import { useEdit } from "../api/queries";
import { useProofSolids, useReviewOf, useSolidFile, type SolidSuffix } from "../api/solids";
import { ReviewCanvas } from "../review/ReviewCanvas";
import { ReviewPanel } from "../review/ReviewPanel";
import type { Rows } from "../review/model";
import type { Stage } from "../review/stage";
import { useReview, type Review } from "../review/state";
import type { PaperSize } from "../paper/geometry";
import { Section } from "../ticket/Ticket";
import { isShown, outline, sight } from "./onViews";
import { useKept } from "./useKeeper";
import * as texts from "./texts";

const FILES: Record<SolidSuffix, string> = { ".html": "HTML", ".glb": "glb", ".u3d": "U3D" };

interface Marks {
  review: Review;
  sheet: Sheet;
  source: string;
  orientation: Rows;
  paths: Record<string, string>;
  paper: PaperSize;
  zoom: number;
  stage: React.RefObject<Stage | null>;
}

/** The component that is chosen in 3D, marked on the sheet's views; one that is clicked on a view is chosen in 3D. */
function OnViews({ review, sheet, source, orientation, paths, paper, zoom, stage }: Marks) {
  const selected = useReview(review, (state) => state.selected);
  const { model, select } = review.getState();
  const views = useMemo(() => sheet.views.filter((view) => view.source === source && !excerptOf(view)), [sheet.views, source]);
  const outlines = useMemo(
    () => (selected === null ? [] : views.flatMap((view) => [outline(model, selected, view, paths, orientation)].filter((row) => row !== null))),
    [selected, views, model, paths, orientation],
  );
  const pick = (event: React.MouseEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    const at: [number, number] = [(event.clientX - box.left) / zoom, (box.bottom - event.clientY) / zoom];
    for (const view of [...views].reverse()) {
      const { point, look } = sight(view, at, orientation);
      const found = stage.current?.along(point, look, (node) => isShown(view, paths[node.name]));
      if (found) return select(found.name);
    }
    select(null);
  };
  return (
    <svg
      className="on-views"
      width={paper.width * zoom}
      height={paper.height * zoom}
      onClick={pick}
      role="img"
      aria-label={selected === null ? texts.nothingIsMarked : texts.markedOnViews(selected, outlines.length === 1 ? "1 view" : `${outlines.length} views`)}
    >
      {outlines.map((points, index) => (
        <polygon key={index} points={points.map(([x, y]) => `${x * zoom},${(paper.height - y) * zoom}`).join(" ")} />
      ))}
    </svg>
  );
}

/** The file's 3D at the proof: alive in its place on the page, or as large as the desk; and the card beside it. */
export function useProofSolid(job: Job, sheet: Sheet, key: string | null, paper: PaperSize, zoom: number) {
  const { data, error } = useProofSolids(job.id, sheet.id, key);
  const [number, setNumber] = useState(0);
  const [large, setLarge] = useState(true);
  const at = Math.min(number, Math.max(0, (data?.packs.length ?? 1) - 1));
  const { data: review, error: lost } = useReviewOf(data?.packs[at]);
  const file = useSolidFile(job.id, sheet.id);
  const stage = useRef<Stage | null>(null);
  const change = useEdit(job.id);
  const field = sheet.annotations_3d[at];
  const { mutate } = change;
  useKept(review, field, sheet, mutate);
  const densities = data?.densities[at];
  useEffect(() => {
    if (review && densities) review.getState().model.densities = densities;
  }, [review, densities]);
  const problem = error?.message ?? lost?.message ?? (data?.work?.state === "failed" ? data.work.error : "");
  if (!review) return { onPage: null, overDesk: null, panel: problem ? <p role="alert">{problem}</p> : <Spin description={texts.readingThe3dModelOut} /> };
  const { model } = review.getState();
  const [x0, y0, x1, y1] = model.box ?? [0, 0, paper.width, paper.height];
  const canvas = <ReviewCanvas review={review} onStage={(own) => (stage.current = own)} />;
  return {
    onPage: (
      <>
        {field && (
          <OnViews
            review={review}
            sheet={sheet}
            source={field.source}
            orientation={field.choices.orientation}
            paths={data?.paths[at] ?? {}}
            paper={paper}
            zoom={zoom}
            stage={stage}
          />
        )}
        {!large && (
          <div className="live" style={{ left: x0 * zoom, top: (paper.height - y1) * zoom, width: (x1 - x0) * zoom, height: (y1 - y0) * zoom }}>
            {canvas}
          </div>
        )}
      </>
    ),
    overDesk: large ? (
      <div className="over-desk">
        <div className="field-window" style={{ aspectRatio: `${x1 - x0} / ${y1 - y0}` }}>
          {canvas}
        </div>
      </div>
    ) : null,
    panel: (
      <>
        {(data?.names.length ?? 0) > 1 && (
          <div className="chips" role="group" aria-label={texts.n3dFields}>
            {data?.names.map((name, index) => (
              <button key={index} type="button" aria-pressed={index === at} onClick={() => setNumber(index)}>
                {name}
              </button>
            ))}
          </div>
        )}
        <ReviewPanel
          key={data?.packs[at]}
          review={review}
          bar={
            <button type="button" onClick={() => setLarge(!large)} aria-pressed={large}>
              {large ? texts.inItsPlaceOnThe : texts.fillTheDesk}
            </button>
          }
        />
        <Section title={texts.exportTheModel}>
          <span className="pair">
            {(Object.keys(FILES) as SolidSuffix[]).map((suffix) => (
              <Button
                key={suffix}
                size="small"
                loading={file.isPending && file.variables.suffix === suffix}
                onClick={() => file.mutate({ number: at, suffix })}
              >
                {FILES[suffix]}
              </Button>
            ))}
          </span>
        </Section>
      </>
    ),
  };
}
