import { Checkbox, Segmented, Slider } from "antd";
import { Fact } from "../ticket/Ticket";
import { AXES, reach, type Axis, type Cut } from "./cutting";
import { NumberBox } from "./NumberBox";
import { useReview, type Review } from "./state";
import * as texts from "./texts";

/** The cutting plane: along which axis, where, tilted, which half goes, what becomes of the cut faces. */
export function CutPanel({ review }: { review: Review }) {
  const cut = useReview(review, (state) => state.look.cut);
  const { model, see } = review.getState();
  const put = (fields: Partial<Cut>) => cut && see({ cut: { ...cut, ...fields } });
  const begin = (along: Axis | "none") => {
    if (along === "none") return see({ cut: null });
    const [low, high] = reach(model.box3, along);
    const middle = Math.round(((low + high) / 2) * 100) / 100;
    see({ cut: { tilt: [0, 0], flip: false, filled: true, ghost: false, ...cut, along, offset: middle } });
  };
  const [low, high] = cut ? reach(model.box3, cut.along) : [0, 1];
  const others = cut ? AXES.filter((axis) => axis !== cut.along) : [];
  const step = Math.max(0.01, Math.round(((high - low) / 500) * 100) / 100);
  return (
    <>
      <Fact name={texts.across}>
        <Segmented
          size="small"
          aria-label={texts.cutAcross}
          value={cut?.along ?? "none"}
          onChange={(value) => begin(value as Axis | "none")}
          options={[{ value: "none", label: texts.noCut }, ...AXES.map((axis) => ({ value: axis, label: axis }))]}
        />
      </Fact>
      {cut && (
        <>
          <Fact name={texts.at}>
            <NumberBox label={texts.cutAt} value={cut.offset} digits={3} unit="mm" onValue={(offset) => put({ offset })} />
          </Fact>
          <Slider
            ariaLabelForHandle="Cut offset"
            min={low}
            max={high}
            step={step}
            value={cut.offset}
            onChange={(offset) => put({ offset })}
            tooltip={{ open: false }}
          />
          {others.map((axis, k) => (
            <Fact key={axis} name={`Tilt, ${axis}`}>
              <span className="pair">
                <Slider
                  ariaLabelForHandle={texts.tiltAbout(axis)}
                  min={-90}
                  max={90}
                  value={cut.tilt[k]}
                  onChange={(v) => put({ tilt: cut.tilt.map((old, n) => (n === k ? v : old)) as [number, number] })}
                  tooltip={{ open: false }}
                />
                <NumberBox
                  label={texts.tiltAboutDegrees(axis)}
                  value={cut.tilt[k] as number}
                  digits={1}
                  unit="°"
                  least={-90}
                  most={90}
                  onValue={(v) => put({ tilt: cut.tilt.map((old, n) => (n === k ? v : old)) as [number, number] })}
                />
              </span>
            </Fact>
          ))}
          <div className="ticks">
            <Checkbox checked={cut.flip} onChange={(event) => put({ flip: event.target.checked })}>
              {texts.flipSide}
            </Checkbox>
            <Checkbox checked={cut.filled} onChange={(event) => put({ filled: event.target.checked })}>
              {texts.fillCutFaces}
            </Checkbox>
            <Checkbox checked={cut.ghost} onChange={(event) => put({ ghost: event.target.checked })}>
              {texts.otherHalfTransparent}
            </Checkbox>
          </div>
        </>
      )}
    </>
  );
}
