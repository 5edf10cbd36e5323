import { useEffect, useRef } from "react";
import { PartMenu } from "./PartMenu";
import { Stage } from "./stage";
import { useReview, type Review } from "./state";
import * as texts from "./texts";

/** The model to turn, cut and measure, with nothing over it; `onStage` is told the stage for whoever asks it what lies along a line. */
export function ReviewCanvas({ review, onStage }: { review: Review; onStage?: (stage: Stage | null) => void }) {
  const element = useRef<HTMLDivElement>(null);
  const tell = useRef(onStage);
  const title = useReview(review, (state) => state.model.title);
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
  return (
    <div className="review-canvas" data-own-keys role="application" aria-label={texts.n3dModel(title)} tabIndex={0} ref={element}>
      <PartMenu review={review} />
    </div>
  );
}
