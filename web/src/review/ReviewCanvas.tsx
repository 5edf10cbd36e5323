import { useEffect, useRef } from "react";
import { HINTS } from "./measuring";
import { Stage } from "./stage";
import { switched, useReview, type Hand, type Review } from "./state";

const HANDS: Record<Hand, string> = { turn: "Turn", spin: "Spin", pan: "Pan", zoom: "Zoom", walk: "Walk" };
const TELL: Record<Hand, string> = {
  turn: "Drag to turn, Shift-drag to pan, wheel to zoom",
  spin: "Drag to spin the picture about its middle",
  pan: "Drag to pan",
  zoom: "Drag up or down to zoom",
  walk: "Drag to look about, wheel or arrow keys to go",
};

/** The model to turn, cut and measure; `onStage` is told the stage for whoever asks it what lies along a line. */
export function ReviewCanvas({ review, onStage, children }: { review: Review; onStage?: (stage: Stage | null) => void; children?: React.ReactNode }) {
  const element = useRef<HTMLDivElement>(null);
  const tell = useRef(onStage);
  const hand = useReview(review, (state) => state.hand);
  const tool = useReview(review, (state) => state.tool);
  const title = useReview(review, (state) => state.model.title);
  const { set, fit } = review.getState();
  useEffect(() => {
    if (!element.current) return;
    const stage = new Stage(element.current, review);
    const told = tell.current;
    told?.(stage);
    return () => {
      told?.(null);
      stage.dispose();
    };
  }, [review]);
  const take = (name: Hand) => {
    set({ hand: name });
    if (name === "walk" && !review.getState().look.camera.perspective) switched(review, true);
  };
  return (
    <div className="review-canvas" data-own-keys role="application" aria-label={`3D model ${title}`} tabIndex={0} ref={element}>
      <div className="hands" role="radiogroup" aria-label="What the hand does">
        {(Object.keys(HANDS) as Hand[]).map((name) => (
          <button key={name} type="button" role="radio" aria-checked={hand === name} onClick={() => take(name)}>
            {HANDS[name]}
          </button>
        ))}
        <button type="button" onClick={() => fit()}>
          Show all
        </button>
        {children}
      </div>
      <p className="review-hint soft">{tool ? HINTS[tool] : TELL[hand]}</p>
    </div>
  );
}
