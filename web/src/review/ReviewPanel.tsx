import "./review.css";
import { Segmented } from "antd";
import { useState } from "react";
import { CutPanel } from "./CutPanel";
import { KeptPanel } from "./KeptPanel";
import { LookPanel } from "./LookPanel";
import { SolidMeasurePanel } from "./MeasurePanel";
import { PartsPanel } from "./PartsPanel";
import { ReviewBar } from "./ReviewBar";
import { useReview, type Review } from "./state";
import * as texts from "./texts";

export const PANELS = { views: texts.views, parts: texts.parts, look: texts.look, cut: texts.cut, measure: texts.measure, kept: texts.keptWord2 } as const;
export type Panel = keyof typeof PANELS;

/** The prepared views, in the file's order. */
export function ViewsPanel({ review }: { review: Review }) {
  const { choose } = review.getState();
  const views = useReview(review, (state) => state.views);
  const at = useReview(review, (state) => state.at);
  return (
    <ul className="rows" aria-label={texts.preparedViews}>
      {views.map((view) => (
        <li key={view.id}>
          <button type="button" className={view.id === at ? "row chosen" : "row"} aria-pressed={view.id === at} onClick={() => choose(view)}>
            <span>{view.name}</span>
            <em>{view.camera.perspective ? "perspective" : "parallel"}</em>
          </button>
        </li>
      ))}
    </ul>
  );
}

/** All that a reviewer does with a model, in one card; with `children` in the place of the list of views. */
export function ReviewPanel({
  review,
  first = "views",
  bar,
  orient,
  onPanel,
  children,
}: {
  review: Review;
  first?: Panel;
  bar?: React.ReactNode;
  orient?: React.ReactNode;
  /** Hears which panel is open, to open the same again. */
  onPanel?: (panel: Panel) => void;
  children?: React.ReactNode;
}) {
  const [panel, setPanel] = useState<Panel>(first);
  const { set } = review.getState();
  const choose = (name: Panel) => {
    setPanel(name);
    onPanel?.(name);
    set({ tool: null, picks: [], refusal: "", ...(name === "cut" ? {} : { plane: null }) });
  };
  return (
    <div className="review-panel">
      <ReviewBar review={review}>{bar}</ReviewBar>
      <Segmented
        block
        size="small"
        aria-label={texts.whatToDoWithThe}
        value={panel}
        onChange={(value) => choose(value as Panel)}
        options={Object.entries(PANELS).map(([value, label]) => ({ value, label }))}
      />
      {panel === "views" && (children ?? <ViewsPanel review={review} />)}
      {panel === "parts" && <PartsPanel review={review} />}
      {panel === "look" && (
        <>
          {orient}
          <LookPanel review={review} />
        </>
      )}
      {panel === "cut" && <CutPanel review={review} />}
      {panel === "kept" && <KeptPanel review={review} />}
      {panel === "measure" && <SolidMeasurePanel review={review} />}
    </div>
  );
}
