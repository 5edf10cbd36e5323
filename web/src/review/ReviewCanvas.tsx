import { useEffect, useRef } from "react";
import { HINTS } from "./measuring";
import { Stage } from "./stage";
import { switched, useReview, type Hand, type Review } from "./state";
import * as texts from "./texts";

const HANDS: Record<Hand, string> = { turn: texts.turn, spin: texts.spin, pan: texts.pan, zoom: texts.zoom, walk: texts.walk };
const TELL: Record<Hand, string> = {
  turn: texts.dragToTurnShiftDrag,
  spin: texts.dragToSpinThePicture,
  pan: texts.dragToPan,
  zoom: texts.dragUpOrDownTo,
  walk: texts.dragToLookAboutWheel,
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
    <div className="review-canvas" data-own-keys role="application" aria-label={texts.n3dModel(title)} tabIndex={0} ref={element}>
      <div className="hands" role="radiogroup" aria-label={texts.whatTheHandDoes}>
        {(Object.keys(HANDS) as Hand[]).map((name) => (
          <button key={name} type="button" role="radio" aria-checked={hand === name} onClick={() => take(name)}>
            {HANDS[name]}
          </button>
        ))}
        <button type="button" onClick={() => fit()}>
          {texts.showAll}
        </button>
        {children}
      </div>
      <p className="review-hint soft">{tool ? HINTS[tool] : TELL[hand]}</p>
    </div>
  );
}
