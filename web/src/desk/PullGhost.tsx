import type { Schemas, View } from "../api/client";

type Point = [number, number];

/** Which view a pull to a place gives, and where it then lies: in line with its parent, but for a pictorial one. */
export function pulledTo(pulls: readonly Schemas["PullView"][], view: View, to: Point) {
  const away: Point = [to[0] - view.place[0], to[1] - view.place[1]];
  const along = (p: Schemas["PullView"]) => p.toward[0] * away[0] + p.toward[1] * away[1];
  const found = pulls.reduce<Schemas["PullView"] | null>((best, p) => (best && along(best) >= along(p) ? best : p), null);
  if (!found) return null;
  const far = along(found);
  const place: Point = found.straight ? [view.place[0] + found.toward[0] * far, view.place[1] + found.toward[1] * far] : to;
  return { pull: found, place };
}

interface Props {
  pulls: readonly Schemas["PullView"][];
  view: View;
  to: Point;
  at: (point: Point) => Point;
}

/** What is being pulled: its box where it would lie, and its name. */
export function PullGhost({ pulls, view, to, at }: Props) {
  const found = pulledTo(pulls, view, to);
  if (!found) return null;
  const { pull, place } = found;
  const [x0, y1] = at([place[0] + pull.box[0], place[1] + pull.box[1]]);
  const [x1, y0] = at([place[0] + pull.box[2], place[1] + pull.box[3]]);
  const [a, b] = [at([view.place[0], view.place[1]]), at(place)];
  return (
    <g className="pull-ghost" data-view={pull.name}>
      <line className="rubber" x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} />
      <rect className="rubber" x={x0} y={y0} width={x1 - x0} height={y1 - y0} />
      <text className="rubber-text" x={x0 + 6} y={y0 + 18}>
        {pull.name}
      </text>
    </g>
  );
}
