import { useMemo, useState } from "react";
import type { Points } from "../api/looks";
import type { PaperSize } from "../paper/geometry";
import { useJobUnit } from "../common/unit";
import { snapper, viewportAt, type Spot } from "./snap";
import * as texts from "./texts";

const REACH_PIXELS = 10;

export interface Measured {
  from: Spot;
  to: Spot;
  /** mm on paper, and of the model where a viewport holds both ends. */
  paper: number;
  model: number | null;
  view: string;
  ratio: string;
}

/** A length, mm, to a micrometre, or what comes to it in the job's unit. */
export const micro = (mm: number) => (useJobUnit.getState().unit === "in" ? (mm / 25.4).toFixed(5) : mm.toFixed(3));
export const microIn = (mm: number) => `${micro(mm)} ${useJobUnit.getState().unit}`;

/** What lies between two spots, read through the viewport that holds both. */
export function measure(points: Points, from: Spot, to: Spot): Measured {
  const paper = Math.hypot(to.x - from.x, to.y - from.y);
  const port = viewportAt(points, from.x, from.y);
  const same = port && viewportAt(points, to.x, to.y) === port ? port : undefined;
  return { from, to, paper, model: same ? paper * same.model : null, view: same?.name ?? "", ratio: same?.ratio ?? "" };
}

interface Props {
  points: Points;
  paper: PaperSize;
  zoom: number;
  measured: Measured | null;
  setMeasured: (measured: Measured | null) => void;
}

/** Takes two spots of the file itself, and shows the length between them. */
export function MeasureOverlay({ points, paper, zoom, measured, setMeasured }: Props) {
  const near = useMemo(() => snapper(points), [points]);
  const [first, setFirst] = useState<Spot | null>(null);
  const [over, setOver] = useState<Spot | null>(null);
  const spotAt = (event: React.PointerEvent<SVGSVGElement>) => {
    const box = event.currentTarget.getBoundingClientRect();
    return near((event.clientX - box.left) / zoom, (box.bottom - event.clientY) / zoom, REACH_PIXELS / zoom);
  };
  const take = (event: React.PointerEvent<SVGSVGElement>) => {
    const spot = spotAt(event);
    if (!spot) return;
    if (first) {
      setMeasured(measure(points, first, spot));
      setFirst(null);
    } else {
      setFirst(spot);
      setMeasured(null);
    }
  };
  const at = (spot: Spot) => ({ x: spot.x * zoom, y: (paper.height - spot.y) * zoom });
  const line = measured ? [at(measured.from), at(measured.to)] : first && over ? [at(first), at(over)] : null;
  const [a, b] = line ?? [];
  const label = measured ? microIn(measured.model ?? measured.paper) : "";
  return (
    <svg
      className="measuring"
      width={paper.width * zoom}
      height={paper.height * zoom}
      onPointerMove={(event) => setOver(spotAt(event))}
      onPointerDown={take}
      role="application"
      aria-label={texts.measureBetweenTwoPlaces}
    >
      {a && b && <line x1={a.x} y1={a.y} x2={b.x} y2={b.y} />}
      {[first, measured?.from, measured?.to].map((spot, index) => spot && <circle key={index} cx={at(spot).x} cy={at(spot).y} r={4.5} />)}
      {over && <circle className="over" cx={at(over).x} cy={at(over).y} r={7} data-kind={over.kind} />}
      {over && (
        <text className="kind" x={at(over).x + 11} y={at(over).y - 9}>
          {over.kind}
          {over.radius ? ` ⌀${micro(over.radius * 2 * (viewportAt(points, over.x, over.y)?.model ?? 1))}` : ""}
        </text>
      )}
      {a && b && measured && (
        <g transform={`translate(${(a.x + b.x) / 2} ${(a.y + b.y) / 2})`} className="length">
          <rect x={-label.length * 4.4 - 8} y={-13} width={label.length * 8.8 + 16} height={26} rx={4} />
          <text y={5}>{label}</text>
        </g>
      )}
    </svg>
  );
}
