import { Segmented, Switch } from "antd";
import { atHeight, uprighted } from "./camera";
import { HINTS } from "./measuring";
import { NumberBox } from "./NumberBox";
import { take, useReview, type Manner, type Review, type Tool } from "./state";
import * as texts from "./texts";

const hint = (tool: Tool | null, manner: Manner) =>
  tool === "face"
    ? texts.clickTheFace
    : tool === "mark"
      ? texts.clickWhereTheMark
      : tool
        ? HINTS[tool]
        : manner === "walk"
          ? texts.walkHint
          : texts.inspectHint;

/** What the hand does with the model, and how: beside the picture, so that nothing lies over it. */
export function ReviewBar({ review, children }: { review: Review; children?: React.ReactNode }) {
  const manner = useReview(review, (state) => state.manner);
  const upright = useReview(review, (state) => state.upright);
  const walk = useReview(review, (state) => state.walk);
  const tool = useReview(review, (state) => state.tool);
  const { set, see, fit, showAll, model } = review.getState();
  const put = (fields: Partial<typeof walk>) => {
    const next = { ...walk, ...fields };
    set({ walk: next });
    if (next.level) see({ camera: atHeight(review.getState().look.camera, model.box3.min.z + next.eye) });
  };
  const stand = (on: boolean) => {
    set({ upright: on });
    if (on) see({ camera: uprighted(review.getState().look.camera) });
  };
  return (
    <div className="review-bar">
      <Segmented<Manner>
        size="small"
        block
        aria-label={texts.manner}
        value={manner}
        onChange={(value) => take(review, value)}
        options={[
          { value: "inspect", label: texts.inspect },
          { value: "walk", label: texts.walk },
        ]}
      />
      {manner === "inspect" ? (
        <label className="bar-row">
          <Switch size="small" checked={upright} onChange={stand} aria-label={texts.keepUpright} /> {texts.keepUpright}
        </label>
      ) : (
        <div className="walk-row">
          <NumberBox label={texts.speed} value={walk.speed} digits={2} unit="m/s" least={0.001} most={200} onValue={(speed) => put({ speed })} />
          <NumberBox label={texts.eyeHeight} value={walk.eye} digits={1} unit="mm" least={0} most={1e6} onValue={(eye) => put({ eye })} />
          <label className="bar-row">
            <Switch size="small" checked={walk.level} onChange={(level) => put({ level })} aria-label={texts.stayAtThisHeight} /> {texts.stayAtThisHeight}
          </label>
        </div>
      )}
      <div className="chips">
        <button type="button" onClick={() => fit()} title={texts.theWholeInThePicture}>
          {texts.fit} <kbd>F</kbd>
        </button>
        <button type="button" onClick={showAll} title={texts.undoesHiding}>
          {texts.showAll} <kbd>A</kbd>
        </button>
        {children}
      </div>
      <p className="soft small review-hint" aria-live="polite">
        {hint(tool, manner)}
      </p>
    </div>
  );
}
