import { Segmented, Select } from "antd";
import { Fact } from "../ticket/Ticket";
import { frameOf, rollOf, spanAtTarget, withRoll } from "./camera";
import { LightChoice } from "./LightChoice";
import { triple, vector, type Triple } from "./model";
import { NumberBox } from "./NumberBox";
import { DISPLAY, displayOf, MODES, type Edges, type Faces } from "./parts";
import { HIGHLIGHTS, switched, useReview, type Review } from "./state";
import * as texts from "./texts";

const BACKGROUNDS: Record<string, string> = {
  "#ffffff": texts.white,
  "#e9e6df": texts.stone,
  "#c9d6dd": texts.sky,
  "#8d9499": texts.grey,
  "#1d2a33": texts.ink,
  "#000000": texts.black,
};

const EDGES: Record<Edges, string> = { none: texts.none, sharp: texts.sharp, all: texts.allEdges };

/** How the model is drawn, and from where: the camera can be read and typed. */
export function LookPanel({ review }: { review: Review }) {
  const look = useReview(review, (state) => state.look);
  const highlight = useReview(review, (state) => state.highlight);
  const { see, set } = review.getState();
  const shown = displayOf(look.mode);
  const display = (faces: Faces | "boxes", edges: Edges) => {
    if (faces === "boxes") return see({ mode: "BoundingBox" });
    // the nearest that a reader has: one more edge where there would be nothing, none where edges are not to be had
    see({ mode: DISPLAY[faces][edges] || DISPLAY[faces].all });
  };
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
      <div>
        <span className="soft small">{texts.faces}</span>
        <Segmented<Faces | "boxes">
          size="small"
          aria-label={texts.faces}
          value={look.mode === "BoundingBox" ? "boxes" : (shown?.faces ?? ("" as Faces))}
          onChange={(faces) => display(faces, shown?.edges ?? "none")}
          options={[
            { value: "full", label: texts.full },
            { value: "see", label: texts.seeThrough },
            { value: "none", label: texts.none },
            { value: "boxes", label: texts.boxes },
          ]}
        />
      </div>
      <Fact name={texts.edges}>
        <Segmented<Edges>
          size="small"
          aria-label={texts.edges}
          value={shown?.edges ?? ("" as Edges)}
          disabled={look.mode === "BoundingBox"}
          onChange={(edges) => display(shown?.faces ?? "full", edges)}
          options={(["none", "sharp", "all"] as Edges[]).map((edges) => ({
            value: edges,
            label: EDGES[edges],
            disabled: !!shown && !DISPLAY[shown.faces][edges],
            title: shown && !DISPLAY[shown.faces][edges] ? texts.noReaderShows : undefined,
          }))}
        />
      </Fact>
      {!shown && look.mode !== "BoundingBox" && <p className="soft small">{texts.asTheFileHasIt(MODES[look.mode]?.word ?? look.mode)}</p>}
      <LightChoice value={look.lighting} onValue={(lighting) => see({ lighting })} />
      <Fact name={texts.outline}>
        <span className="swatches" role="radiogroup" aria-label={texts.outlineOfWhatIsSelected}>
          {HIGHLIGHTS.map((colour, n) => (
            <button
              key={colour}
              type="button"
              role="radio"
              aria-checked={colour === highlight}
              aria-label={texts.highlightNames[n]}
              title={texts.highlightNames[n]}
              style={{ background: colour }}
              onClick={() => set({ highlight: colour })}
            />
          ))}
        </span>
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
    </>
  );
}
