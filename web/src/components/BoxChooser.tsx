import type { Schemas, Vector } from "../api/client";
import { useTrade } from "../api/queries";
import * as texts from "./texts";

type Viewpoint = Schemas["ViewpointView"];

const W = 46;
const H = 37;

/** First-angle places of the six faces around the front (ISO 5456-2): what is seen from the left lies at the right. */
const FACES: Record<string, [number, number]> = {
  front: [1, 1],
  left: [2, 1],
  right: [0, 1],
  rear: [3, 1],
  top: [1, 2],
  bottom: [1, 0],
};

/** The front's corners, for the pictorial views from there. */
const CORNERS: Record<string, [number, number]> = {
  iso: [2, 1],
  "iso left": [1, 1],
  "iso below": [2, 2],
  "iso below left": [1, 2],
};

const CORNER_WORDS: Record<string, string> = {
  iso: texts.isometricFromAboveRight,
  "iso left": texts.isometricFromAboveLeft,
  "iso below": texts.isometricFromBelowRight,
  "iso below left": texts.isometricFromBelowLeft,
};

const same = (a: readonly number[], b: readonly number[]) => a.every((v, i) => Math.abs(v - (b[i] ?? 0)) < 1e-9);

interface Props {
  look: Vector;
  up: Vector;
  onChoose: (viewpoint: Viewpoint) => void;
  /** How the views lie about the front; first-angle without it. */
  arrangement?: "first" | "third";
}

/** The part's box unfolded as the arrangement lays out its views; the corners are the pictorial ones. */
export function BoxChooser({ look, up, onChoose, arrangement = "first" }: Props) {
  const { data: trade } = useTrade();
  if (!trade) return null;
  // third angle: what is seen from one side lies on that side, so the net is turned about the front
  const laid = ([column, row]: [number, number]): [number, number] => (arrangement === "first" ? [column, row] : [2 - column, 2 - row]);
  const act = (viewpoint: Viewpoint) => ({
    role: "radio" as const,
    "aria-checked": same(viewpoint.look, look) && same(viewpoint.up, up),
    tabIndex: 0,
    onClick: () => onChoose(viewpoint),
    onKeyDown: (event: React.KeyboardEvent) => {
      if (event.key !== "Enter" && event.key !== " ") return;
      event.preventDefault();
      onChoose(viewpoint);
    },
  });
  return (
    <svg
      className="box-chooser"
      viewBox={`${arrangement === "first" ? -6 : -6 - W} -4 ${4 * W + 12} ${3 * H + 8}`}
      role="radiogroup"
      aria-label={texts.viewDirection}
    >
      {trade.viewpoints
        .filter((viewpoint) => !viewpoint.pictorial)
        .map((viewpoint) => {
          const [column, row] = laid(FACES[viewpoint.name] ?? [0, 0]);
          return (
            <g key={viewpoint.name} className="face" aria-label={viewpoint.name} {...act(viewpoint)}>
              <rect x={column * W} y={row * H} width={W} height={H} />
              <text x={column * W + W / 2} y={row * H + H / 2 + 3.5}>
                {viewpoint.name}
              </text>
            </g>
          );
        })}
      {trade.viewpoints
        .filter((viewpoint) => viewpoint.pictorial)
        .map((viewpoint) => {
          const [column, row] = CORNERS[viewpoint.name] ?? [0, 0];
          const words = CORNER_WORDS[viewpoint.name] ?? viewpoint.name;
          return (
            <g key={viewpoint.name} className="corner" aria-label={words} {...act(viewpoint)}>
              <title>{words}</title>
              <circle cx={column * W} cy={row * H} r={6} />
            </g>
          );
        })}
    </svg>
  );
}
