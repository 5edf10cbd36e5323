import { Spin } from "antd";
import { useMemo } from "react";
import { usePartEdges, type Choices } from "../api/metal";
import { seen, type Eye, type Vector } from "./folding";
import { boxAbout, useTurning } from "./turning";
import * as texts from "./texts";

const drawn = (points: readonly Vector[], eye: Eye) =>
  `M${points
    .map((place) => seen(place, eye))
    .map(([x, y]) => `${x.toFixed(2)} ${(-y).toFixed(2)}`)
    .join("L")}`;

interface Props {
  source: string;
  component: string;
  place: Vector | null;
  /** A place of the edge that was picked. */
  onSlit: (place: NonNullable<Choices["slit"]>) => void;
}

/** A part that has no flat pattern: its edges, the place that this is about, and those along which it may be slit. */
export function PartPicture({ source, component, place, onSlit }: Props) {
  const { data, error } = usePartEdges(source, component);
  const { eye, hands } = useTurning();
  const edges = data?.edges;
  const middle = useMemo(() => edges?.flatMap((edge) => edge.points) ?? [], [edges]);
  const failed = data?.work?.state === "failed" ? data.work.error : error?.message;
  if (failed || edges?.length === 0) return null;
  if (!edges) return <Spin description={texts.readingEdges} />;
  const points = middle.map((own) => seen(own, eye));
  const size = Math.max(...[0, 1, 2].map((axis) => range(middle, axis)));
  const mark = place && seen(place, eye);
  const slits = edges.filter((edge) => edge.slit);
  return (
    <figure className="folded whole">
      <svg role="img" aria-label={texts.partWithPlace} viewBox={boxAbout(mark ? [...points, mark] : points, size * 0.08)} {...hands}>
        <path className="part-edges" d={edges.map((edge) => drawn(edge.points, eye)).join("")} />
        {slits.map((edge, index) => {
          const d = drawn(edge.points, eye);
          return (
            <g key={index} className="slit-edge">
              <path d={d} />
              <path className="pattern-grip" d={d} onClick={() => onSlit(between(edge.points))}>
                <title>{texts.slitAlong}</title>
              </path>
            </g>
          );
        })}
        {mark && (
          <g className="part-place" transform={`translate(${mark[0]} ${-mark[1]})`}>
            <circle r={size * 0.03} />
            <circle className="dot" r={size * 0.007} />
          </g>
        )}
      </svg>
      <figcaption>
        {slits.length > 0 ? texts.pickWhereToSlit : texts.theRingIsThePlace} <span>{texts.dragToTurn}</span>
      </figcaption>
    </figure>
  );
}

const range = (points: readonly Vector[], axis: number) =>
  points.reduce((most, p) => Math.max(most, p[axis]!), -Infinity) - points.reduce((least, p) => Math.min(least, p[axis]!), Infinity);

const between = (points: readonly Vector[]): Vector => {
  const [a, b] = [points[0]!, points.at(-1)!];
  return [(a[0] + b[0]) / 2, (a[1] + b[1]) / 2, (a[2] + b[2]) / 2];
};
