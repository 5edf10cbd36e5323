import { useRef, useState } from "react";
import type { EdgeOnSheet, Job, Schemas, Sheet, View } from "../api/client";
import { useDimension, useEdges, useOffspring, usePulls } from "../api/desk";
import { mm, type PaperSize } from "../paper/geometry";
import { useDeskMode, type Pick } from "../views/mode";
import { PullGhost } from "./PullGhost";
import { PAD } from "../paper/useZoom";
import * as paperTexts from "../paper/texts";

type Point = [number, number];
const REACH = 8;

/** Distance of a point from a segment, and the nearer end when it is close to one. */
function near(point: Point, edge: EdgeOnSheet, reach: number): { by: number; end: 0 | 1 | null } | null {
  const [x, y] = point;
  if (edge.shape === "circle") {
    const [cx = 0, cy = 0, r = 0] = edge.at;
    const off = Math.abs(Math.hypot(x - cx, y - cy) - r);
    const centre = Math.hypot(x - cx, y - cy);
    const by = Math.min(off, centre);
    return by <= reach ? { by, end: null } : null;
  }
  const [ax = 0, ay = 0, bx = 0, by = 0] = edge.at;
  const length = Math.hypot(bx - ax, by - ay) || 1e-9;
  const t = Math.max(0, Math.min(1, ((x - ax) * (bx - ax) + (y - ay) * (by - ay)) / length ** 2));
  const off = Math.hypot(x - ax - t * (bx - ax), y - ay - t * (by - ay));
  if (off > reach) return null;
  const ends = [Math.hypot(x - ax, y - ay), Math.hypot(x - bx, y - by)];
  const at = edge.ref.kind === "line" && Math.min(...ends) <= reach && length > 3 * reach ? (ends[0]! < ends[1]! ? 0 : 1) : null;
  // an end is a smaller mark than an edge: it goes first
  return { by: at === null ? off : off - reach, end: at };
}

function Shape({ edge, className, at }: { edge: Pick; className: string; at: (p: Point) => Point }) {
  if (edge.shape === "circle") {
    const [x, y] = at([edge.at[0] ?? 0, edge.at[1] ?? 0]);
    const r = at([(edge.at[0] ?? 0) + (edge.at[2] ?? 0), edge.at[1] ?? 0])[0] - x;
    return <circle className={className} cx={x} cy={y} r={r} />;
  }
  const [a, b] = [at([edge.at[0] ?? 0, edge.at[1] ?? 0]), at([edge.at[2] ?? 0, edge.at[3] ?? 0])];
  if (edge.ref.end === 0 || edge.ref.end === 1) {
    const [x, y] = edge.ref.end === 0 ? a : b;
    return <rect className={className} x={x - 4} y={y - 4} width={8} height={8} />;
  }
  return <line className={className} x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} />;
}

interface Props {
  job: Job;
  sheet: Sheet;
  view: View | null;
  paper: PaperSize;
  zoom: number;
  onMade: (view: string) => void;
  onNote: (place: Point, target: Point | null) => void;
  onRegion: (first: Point, second: Point) => void;
  onShift: (by: Point) => void;
  /** Two corners of an area of the sheet, mm. */
  onArea: (first: Point, second: Point) => void;
}

/** While a mode is on: takes every press on the desk and shows what it would do. */
export function ModeOverlay({ job, sheet, view, paper, zoom, onMade, onNote, onRegion, onShift, onArea }: Props) {
  const { mode, picks, kind, pick, begin } = useDeskMode();
  const offspring = useOffspring(job.id, sheet.id);
  const dimension = useDimension(job.id, sheet.id);
  const { data: edges } = useEdges(job, sheet.id, view, mode === "dimension");
  const { data: pulls } = usePulls(job, sheet.id, view, mode === "pull");
  const surface = useRef<SVGSVGElement>(null);
  const [start, setStart] = useState<Point | null>(null);
  const [here, setHere] = useState<Point | null>(null);
  const [over, setOver] = useState<Pick | null>(null);
  if (!mode) return null;

  const toSheet = (event: React.PointerEvent): Point => {
    const box = surface.current?.getBoundingClientRect();
    const [x, y] = [event.clientX - (box?.left ?? 0) - PAD.left, event.clientY - (box?.top ?? 0) - PAD.top];
    return [Math.round((x / zoom) * 100) / 100, Math.round((paper.height - y / zoom) * 100) / 100];
  };
  const at = ([x, y]: Point): Point => [PAD.left + x * zoom, PAD.top + (paper.height - y) * zoom];
  /** A stroke that is nearly level or upright is meant so. */
  const straight = ([ax, ay]: Point, [bx, by]: Point): Point => {
    const [dx, dy] = [Math.abs(bx - ax), Math.abs(by - ay)];
    if (dx < 0.08 * dy) return [ax, by];
    return dy < 0.08 * dx ? [bx, ay] : [bx, by];
  };
  const find = (point: Point): Pick | null => {
    let best: { by: number; pick: Pick } | null = null;
    for (const edge of edges ?? []) {
      const found = near(point, edge, REACH / zoom);
      if (found && (!best || found.by < best.by)) best = { by: found.by, pick: { ...edge, ref: { ...edge.ref, end: found.end } } };
    }
    return best?.pick ?? null;
  };
  const done = (placed: Schemas["Placed"]) => {
    begin(null);
    onMade(placed.view);
  };
  const place = (point: Point) => {
    const [first, second] = picks;
    if (!view || !first) return;
    dimension.mutate({ view: view.id, first: first.ref, second: second?.ref ?? null, at: point, kind }, { onSuccess: () => begin("dimension") });
  };
  const down = (event: React.PointerEvent) => {
    event.stopPropagation();
    event.currentTarget.setPointerCapture(event.pointerId);
    const point = toSheet(event);
    if (mode === "dimension") {
      const found = picks.length < 2 ? find(point) : null;
      if (found) pick(found);
      else place(point);
      return;
    }
    setStart(point);
    setHere(point);
  };
  const move = (event: React.PointerEvent) => {
    const point = toSheet(event);
    setHere(start && mode === "section" ? straight(start, point) : point);
    if (mode === "dimension") setOver(picks.length < 2 ? find(point) : null);
  };
  const up = (event: React.PointerEvent) => {
    const end = start && mode === "section" ? straight(start, toSheet(event)) : toSheet(event);
    if (!start) return;
    setStart(null);
    const far = Math.hypot(end[0] - start[0], end[1] - start[1]);
    if (mode === "note") {
      begin(null);
      return onNote(end, far > 2 ? start : null);
    }
    if (mode === "pull" && view && !offspring.isPending) {
      // a click says where it lies, a stroke how far it is pulled
      const place: Point = far * zoom < 5 ? end : [view.place[0] + end[0] - start[0], view.place[1] + end[1] - start[1]];
      if (Math.hypot(place[0] - view.place[0], place[1] - view.place[1]) * zoom < 5) return;
      return offspring.mutate({ kind: "pull", view: view.id, place }, { onSuccess: done });
    }
    if (mode === "area" && far * zoom >= 5) {
      begin(null);
      return onArea(start, end);
    }
    if (!view || far * zoom < 5) return;
    if (mode === "region" || mode === "shift") {
      begin(null);
      return mode === "region" ? onRegion(start, end) : onShift([end[0] - start[0], end[1] - start[1]]);
    }
    if (mode === "section") offspring.mutate({ kind: "section", view: view.id, start, end }, { onSuccess: done });
    if (mode === "detail") offspring.mutate({ kind: "detail", view: view.id, centre: start, radius: far }, { onSuccess: done });
  };
  const [a, b] = [start && at(start), here && at(here)];
  const far = start && here ? Math.hypot(here[0] - start[0], here[1] - start[1]) : 0;
  return (
    <svg ref={surface} className="mode-overlay" data-mode={mode} aria-label={`Drawing: ${mode}`} onPointerDown={down} onPointerMove={move} onPointerUp={up}>
      {picks.map((p, n) => (
        <Shape key={n} edge={p} className="picked" at={at} />
      ))}
      {over && <Shape edge={over} className="pick-over" at={at} />}
      {a && b && mode === "detail" && <circle className="rubber" cx={a[0]} cy={a[1]} r={far * zoom} />}
      {a && b && (mode === "region" || mode === "area") && (
        <rect className="rubber" x={Math.min(a[0], b[0])} y={Math.min(a[1], b[1])} width={Math.abs(b[0] - a[0])} height={Math.abs(b[1] - a[1])} />
      )}
      {mode === "pull" && view && here && pulls && (
        <PullGhost pulls={pulls} view={view} to={start ? [view.place[0] + here[0] - start[0], view.place[1] + here[1] - start[1]] : here} at={at} />
      )}
      {a && b && mode !== "detail" && mode !== "region" && mode !== "area" && mode !== "pull" && (
        <line className="rubber" x1={a[0]} y1={a[1]} x2={b[0]} y2={b[1]} />
      )}
      {a && b && (
        <text className="rubber-text" x={b[0] + 12} y={b[1] - 8}>
          {mm(far, 1)} {paperTexts.mm}
        </text>
      )}
    </svg>
  );
}
