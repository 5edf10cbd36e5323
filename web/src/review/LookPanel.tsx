import { Segmented, Select } from "antd";
import { Fact } from "../ticket/Ticket";
import { frameOf, rollOf, spanAtTarget, withRoll } from "./camera";
import { LIGHTS } from "./lights";
import { triple, vector, type Triple } from "./model";
import { NumberBox } from "./NumberBox";
import { MODES } from "./parts";
import { switched, useReview, type Review } from "./state";
import * as texts from "./texts";

const BACKGROUNDS: Record<string, string> = {
  "#ffffff": texts.white,
  "#e9e6df": texts.stone,
  "#c9d6dd": texts.sky,
  "#8d9499": texts.grey,
  "#1d2a33": texts.ink,
  "#000000": texts.black,
};

/** How the model is drawn, and from where: the camera can be read and typed. */
export function LookPanel({ review }: { review: Review }) {
  const look = useReview(review, (state) => state.look);
  const kept = useReview(review, (state) => state.kept);
  const { see, keep } = review.getState();
  const { camera } = look;
  const put = (fields: Partial<typeof camera>) => {
    const next = { ...camera, ...fields };
    // a camera that stands on its target, or whose up lies along the look, sees nothing
    const along = vector(next.target).sub(vector(next.position));
    if (along.length() < 1e-6) return;
    if (along.clone().cross(vector(next.up)).length() < 1e-9 * along.length()) next.up = triple(frameOf(camera).up);
    see({ camera: next });
  };
  const three = (name: "position" | "target", words: string) => (
    <Fact name={words}>
      <span className="triple">
        {(["x", "y", "z"] as const).map((axis, k) => (
          <NumberBox
            key={axis}
            label={`${words} ${axis}`}
            value={camera[name][k] as number}
            onValue={(v) => put({ [name]: camera[name].map((old, n) => (n === k ? v : old)) as Triple })}
          />
        ))}
      </span>
    </Fact>
  );
  return (
    <>
      <Fact name={texts.display}>
        <Select
          size="small"
          aria-label={texts.display}
          value={look.mode}
          onChange={(mode) => see({ mode })}
          options={Object.entries(MODES).map(([value, { word }]) => ({ value, label: word }))}
        />
      </Fact>
      <Fact name={texts.light}>
        <Select
          size="small"
          aria-label={texts.light}
          value={look.lighting}
          onChange={(lighting) => see({ lighting })}
          options={Object.entries(LIGHTS).map(([value, label]) => ({ value, label }))}
        />
      </Fact>
      <Fact name={texts.background}>
        <Select
          size="small"
          aria-label={texts.background}
          value={look.background}
          onChange={(background) => see({ background })}
          options={Object.entries({ ...BACKGROUNDS, [look.background]: BACKGROUNDS[look.background] ?? look.background }).map(([value, label]) => ({
            value,
            label,
          }))}
        />
      </Fact>
      <Fact name={texts.projection}>
        <Segmented
          size="small"
          aria-label={texts.projection}
          value={camera.perspective ? "perspective" : "parallel"}
          onChange={(value) => switched(review, value === "perspective")}
          options={[
            { value: "perspective", label: texts.perspective },
            { value: "parallel", label: texts.parallel },
          ]}
        />
      </Fact>
      {three("position", texts.camera2)}
      {three("target", texts.target)}
      <Fact name={texts.roll}>
        <NumberBox
          label={texts.roll}
          value={rollOf(camera)}
          digits={1}
          unit="°"
          least={-180}
          most={180}
          onValue={(v) => see({ camera: withRoll(camera, v) })}
        />
      </Fact>
      <Fact name={texts.angleOfView}>
        <NumberBox
          label={texts.angleOfView}
          value={camera.span}
          unit={camera.perspective ? "°" : "mm"}
          least={0.001}
          most={camera.perspective ? 169 : 1e7}
          onValue={(v) => put({ span: v })}
        />
      </Fact>
      {camera.perspective && (
        <p className="soft small">
          {spanAtTarget(camera).toFixed(1)} {texts.mmAcrossAtTheTarget}
        </p>
      )}
      <div className="chips" role="group" aria-label={texts.savedCameras}>
        {kept.map((own) => (
          <button key={own.name} type="button" onClick={() => see({ camera: own.camera })}>
            {own.name}
          </button>
        ))}
        <button type="button" onClick={keep}>
          {texts.saveThisCamera}
        </button>
      </div>
    </>
  );
}
