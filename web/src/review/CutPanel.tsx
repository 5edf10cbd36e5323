import { Button, Checkbox, Slider, Switch } from "antd";
import { newId } from "../common/ids";
import { Fact } from "../ticket/Ticket";
import { frameOf } from "./camera";
import { AXES, begun, reach, withCut, type Axis, type Cut } from "./cutting";
import { freeName } from "./kept";
import { NumberBox } from "./NumberBox";
import { useReview, type Review } from "./state";
import * as texts from "./texts";

const short = (value: number) => Number(value.toFixed(2)).toString();

/** Up to three cutting planes, each with its own offset and tilt; which half goes, what becomes of the cut faces. */
export function CutPanel({ review }: { review: Review }) {
  const cuts = useReview(review, (state) => state.look.cuts);
  const plane = useReview(review, (state) => state.plane);
  const { model, see, set, keeper } = review.getState();
  const put = (cut: Cut) => see({ cuts: withCut(review.getState().look.cuts, cut) });
  const all = (fields: Partial<Cut>) => see({ cuts: cuts.map((cut) => ({ ...cut, ...fields })) });
  const turnOn = (axis: Axis, on: boolean) => {
    if (!on) {
      see({ cuts: cuts.filter((cut) => cut.along !== axis) });
      return set({ plane: cuts.find((cut) => cut.along !== axis)?.along ?? null });
    }
    const fresh = begun(axis, model.box3, frameOf(review.getState().look.camera).look);
    const [first] = cuts;
    put(first ? { ...fresh, filled: first.filled, ghost: first.ghost, hatched: first.hatched } : fresh);
    set({ plane: axis });
  };
  const keep = () => {
    const { kept, look } = review.getState();
    keeper.keep({ kind: "section", id: newId(), name: freeName(kept, "section", texts.sectionWord), cuts: look.cuts });
  };
  const some = (name: "filled" | "hatched" | "ghost") => cuts.some((cut) => cut[name]);
  return (
    <>
      {AXES.map((axis) => {
        const cut = cuts.find((own) => own.along === axis);
        return (
          <div key={axis} className={cut ? "cut-row on" : "cut-row"}>
            <label className="bar-row">
              <Switch size="small" checked={!!cut} aria-label={texts.cutAcrossAxis(axis)} onChange={(on) => turnOn(axis, on)} /> {texts.across} {axis}
              {cut && (
                <button type="button" className="as-file" aria-pressed={plane === axis} onClick={() => set({ plane: plane === axis ? null : axis })}>
                  {texts.handles}
                </button>
              )}
            </label>
            {cut && <OneCut review={review} cut={cut} put={put} />}
          </div>
        );
      })}
      {cuts.length > 0 && (
        <>
          <div className="ticks">
            <Checkbox checked={some("filled")} onChange={(event) => all({ filled: event.target.checked })}>
              {texts.fillCutFaces}
            </Checkbox>
            <Checkbox
              checked={some("hatched")}
              disabled={!some("filled")}
              title={some("filled") ? texts.hatchIsOurs : texts.fillThemFirst}
              onChange={(event) => all({ hatched: event.target.checked })}
            >
              {texts.hatchThem}
            </Checkbox>
            <Checkbox checked={some("ghost")} onChange={(event) => all({ ghost: event.target.checked })}>
              {texts.otherHalfTransparent}
            </Checkbox>
          </div>
          <span className="pair">
            <Button size="small" onClick={keep}>
              {texts.keepThisSection}
            </Button>
            {keeper.asSection && (
              <Button
                size="small"
                disabled={cuts.length > 1}
                title={cuts.length > 1 ? texts.oneSectionAtATime : undefined}
                onClick={() => cuts[0] && keeper.asSection?.(cuts[0])}
              >
                {texts.onTheSheet}
              </Button>
            )}
          </span>
        </>
      )}
    </>
  );
}

function OneCut({ review, cut, put }: { review: Review; cut: Cut; put: (cut: Cut) => void }) {
  const { model } = review.getState();
  const [low, high] = reach(model.box3, cut.along);
  const others = AXES.filter((axis) => axis !== cut.along);
  const step = Math.max(0.01, Math.round(((high - low) / 500) * 100) / 100);
  const tilt = (n: number, v: number) => put({ ...cut, tilt: cut.tilt.map((old, k) => (k === n ? v : old)) as [number, number] });
  return (
    <>
      <Fact name={texts.at}>
        <NumberBox
          label={texts.cutAtAxis(cut.along)}
          value={cut.offset}
          digits={3}
          unit="mm"
          least={low}
          most={high}
          onValue={(offset) => put({ ...cut, offset })}
        />
      </Fact>
      <Slider
        ariaLabelForHandle={texts.cutOffset(cut.along)}
        min={low}
        max={high}
        step={step}
        value={cut.offset}
        onChange={(offset) => put({ ...cut, offset })}
        tooltip={{ open: false }}
      />
      <p className="limits soft small">
        <span>{short(low)}</span>
        <span>{short(high)}</span>
      </p>
      {others.map((axis, k) => (
        <Fact key={axis} name={texts.tilt(axis)}>
          <NumberBox
            label={texts.tiltOf(cut.along, axis)}
            value={cut.tilt[k] as number}
            digits={1}
            unit="°"
            least={-90}
            most={90}
            onValue={(v) => tilt(k, v)}
          />
        </Fact>
      ))}
      <Checkbox checked={cut.flip} onChange={(event) => put({ ...cut, flip: event.target.checked })}>
        {texts.flipSide}
      </Checkbox>
    </>
  );
}
