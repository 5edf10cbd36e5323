import { Segmented, Select } from "antd";
import { Fact } from "../ticket/Ticket";
import { frameOf, rollOf, spanAtTarget, withRoll } from "./camera";
import { LIGHTS } from "./lights";
import { triple, vector, type Triple } from "./model";
import { NumberBox } from "./NumberBox";
import { MODES } from "./parts";
import { switched, useReview, type Review } from "./state";

const BACKGROUNDS: Record<string, string> = { "#ffffff": "White", "#e9e6df": "Stone", "#c9d6dd": "Sky", "#8d9499": "Grey", "#1d2a33": "Ink", "#000000": "Black" };

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
          <NumberBox key={axis} label={`${words} ${axis}`} value={camera[name][k] as number} onValue={(v) => put({ [name]: camera[name].map((old, n) => (n === k ? v : old)) as Triple })} />
        ))}
      </span>
    </Fact>
  );
  return (
    <>
      <Fact name="Display">
        <Select size="small" aria-label="Display" value={look.mode} onChange={(mode) => see({ mode })} options={Object.entries(MODES).map(([value, { word }]) => ({ value, label: word }))} />
      </Fact>
      <Fact name="Light">
        <Select size="small" aria-label="Light" value={look.lighting} onChange={(lighting) => see({ lighting })} options={Object.entries(LIGHTS).map(([value, label]) => ({ value, label }))} />
      </Fact>
      <Fact name="Background">
        <Select
          size="small"
          aria-label="Background"
          value={look.background}
          onChange={(background) => see({ background })}
          options={Object.entries({ ...BACKGROUNDS, [look.background]: BACKGROUNDS[look.background] ?? look.background }).map(([value, label]) => ({ value, label }))}
        />
      </Fact>
      <Fact name="Projection">
        <Segmented
          size="small"
          aria-label="Projection"
          value={camera.perspective ? "perspective" : "parallel"}
          onChange={(value) => switched(review, value === "perspective")}
          options={[
            { value: "perspective", label: "Perspective" },
            { value: "parallel", label: "Parallel" },
          ]}
        />
      </Fact>
      {three("position", "Camera")}
      {three("target", "Target")}
      <Fact name="Roll">
        <NumberBox label="Roll" value={rollOf(camera)} digits={1} unit="°" least={-180} most={180} onValue={(v) => see({ camera: withRoll(camera, v) })} />
      </Fact>
      <Fact name="Angle of view">
        <NumberBox label="Angle of view" value={camera.span} unit={camera.perspective ? "°" : "mm"} least={0.001} most={camera.perspective ? 169 : 1e7} onValue={(v) => put({ span: v })} />
      </Fact>
      {camera.perspective && <p className="soft small">{spanAtTarget(camera).toFixed(1)} mm across at the target</p>}
      <div className="chips" role="group" aria-label="Saved cameras">
        {kept.map((own) => (
          <button key={own.name} type="button" onClick={() => see({ camera: own.camera })}>
            {own.name}
          </button>
        ))}
        <button type="button" onClick={keep}>
          Save this camera
        </button>
      </div>
    </>
  );
}
