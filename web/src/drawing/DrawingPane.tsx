import { useEffect, useRef, useState } from "react";
import type { Picture, Region } from "../api/client";
import { mm } from "../paper/geometry";
import { DrawnStrokes } from "../paper/DrawnStrokes";
import { useRoom } from "../common/useRoom";
import * as texts from "./texts";

type Point = [number, number];
export type PaneMode = "region" | "length" | null;

interface Props {
  picture: Picture | null | undefined;
  waiting: string;
  /** A box about everything, in the drawing's units. */
  box: Region;
  /** Millimetres of a unit; 1 while nobody has said it. */
  unit: number;
  unitName: string;
  off: readonly string[];
  mode: PaneMode;
  region: Region | null;
  onRegion: (region: Region) => void;
  onLength: (measured: number) => void;
  /** Places that a press near them means, in the drawing's units. */
  snaps: { ends: readonly Point[]; centres: readonly Point[] } | undefined;
  /** What of the drawing is on the screen, whenever that changes. */
  onLook: (shown: Region) => void;
  /** Counts up when the whole drawing is to be shown. */
  turn: number;
  onWhole: () => void;
}

const MARGIN = 28;
const STEP = 1.25;
/** So near, in pixels, a press means the place. */
const REACH = 9;

/** The end or the centre that is nearest to a point, within reach. */
function nearest(point: Point, snaps: Props["snaps"], reach: number): { point: Point; on: "end" | "centre" } | null {
  let best: { by: number; point: Point; on: "end" | "centre" } | null = null;
  for (const [on, places] of [
    ["end", snaps?.ends],
    ["centre", snaps?.centres],
  ] as const)
    for (const place of places ?? []) {
      const by = Math.hypot(place[0] - point[0], place[1] - point[1]);
      if (by < reach && (!best || by < best.by)) best = { by, point: place, on };
    }
  return best;
}

/** A drawing to look at: drag to move it, wheel to come nearer, and pick a rectangle or two points on it. */
export function DrawingPane({ picture, waiting, box, unit, unitName, off, mode, region, onRegion, onLength, snaps, onLook, turn, onWhole }: Props) {
  const frame = useRef<HTMLDivElement>(null);
  const room = useRoom(frame);
  const [look, setLook] = useState<{ scale: number; x: number; y: number } | null>(null);
  const [start, setStart] = useState<Point | null>(null);
  const [here, setHere] = useState<Point | null>(null);
  const [on, setOn] = useState<"end" | "centre" | null>(null);
  const hand = useRef<{ x: number; y: number; from: { scale: number; x: number; y: number } } | null>(null);
  useEffect(() => setLook(null), [turn]);
  const [w, h] = [Math.max(box[2] - box[0], 1e-9), Math.max(box[3] - box[1], 1e-9)];
  const whole = Math.min((room.width - 2 * MARGIN) / w, (room.height - 2 * MARGIN - 64) / h);
  // x and y are the drawing's point that is shown in the middle
  const at = look ?? { scale: whole, x: (box[0] + box[2]) / 2, y: (box[1] + box[3]) / 2 };
  const latest = useRef(at);
  useEffect(() => {
    latest.current = at;
  });
  useEffect(() => {
    const [halfWidth, halfHeight] = [room.width / 2 / at.scale, room.height / 2 / at.scale];
    if (room.width) onLook([at.x - halfWidth, at.y - halfHeight, at.x + halfWidth, at.y + halfHeight]);
  }, [at.x, at.y, at.scale, room.width, room.height, onLook]);
  /** A free corner of an area lies on a round figure, within a pixel. */
  const rounded = (point: Point): Point => {
    if (mode !== "region") return point;
    const step = 10 ** Math.floor(Math.log10(1 / at.scale));
    return [Math.round(point[0] / step) * step, Math.round(point[1] / step) * step];
  };
  /** The place that a press near it means: a centre or an end, else the press itself. */
  const snapped = (event: { clientX: number; clientY: number; altKey?: boolean }): { point: Point; on: "end" | "centre" | null } => {
    const point = toDrawing(event);
    if (event.altKey) return { point: rounded(point), on: null };
    return nearest(point, snaps, REACH / at.scale) ?? { point: rounded(point), on: null };
  };
  const toDrawing = (event: { clientX: number; clientY: number }): Point => {
    const rect = frame.current?.getBoundingClientRect();
    const [px, py] = [event.clientX - (rect?.left ?? 0) - room.width / 2, event.clientY - (rect?.top ?? 0) - room.height / 2];
    return [at.x + px / at.scale, at.y - py / at.scale];
  };
  useEffect(() => {
    const element = frame.current;
    if (!element) return;
    const wheel = (event: WheelEvent) => {
      event.preventDefault();
      const now = latest.current;
      const rect = element.getBoundingClientRect();
      const [px, py] = [event.clientX - rect.left - rect.width / 2, event.clientY - rect.top - rect.height / 2];
      const scale = now.scale * (event.deltaY < 0 ? STEP : 1 / STEP);
      setLook({ scale, x: now.x + px / now.scale - px / scale, y: now.y - py / now.scale + py / scale });
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => element.removeEventListener("wheel", wheel);
  }, []);
  const down = (event: React.PointerEvent) => {
    event.currentTarget.setPointerCapture(event.pointerId);
    if (mode === "length" && start) {
      const end = snapped(event).point;
      setStart(null);
      onLength(Math.hypot(end[0] - start[0], end[1] - start[1]));
    } else if (mode) {
      setStart(snapped(event).point);
      setHere(snapped(event).point);
    } else hand.current = { x: event.clientX, y: event.clientY, from: at };
  };
  const move = (event: React.PointerEvent) => {
    if (mode) {
      const found = snapped(event);
      setHere(found.point);
      setOn(found.on);
    }
    const held = hand.current;
    if (!held) return;
    setLook({ ...held.from, x: held.from.x - (event.clientX - held.x) / held.from.scale, y: held.from.y + (event.clientY - held.y) / held.from.scale });
  };
  const up = (event: React.PointerEvent) => {
    hand.current = null;
    if (mode !== "region" || !start) return;
    const end = snapped(event).point;
    setStart(null);
    const picked: Region = [Math.min(start[0], end[0]), Math.min(start[1], end[1]), Math.max(start[0], end[0]), Math.max(start[1], end[1])];
    if ((picked[2] - picked[0]) * at.scale > 4 && (picked[3] - picked[1]) * at.scale > 4) onRegion(picked);
  };
  const px = ([x, y]: Point): Point => [room.width / 2 + (x - at.x) * at.scale, room.height / 2 - (y - at.y) * at.scale];
  const rect = (r: Region) => {
    const [x0, y0] = px([r[0], r[3]]);
    return { x: x0, y: y0, width: (r[2] - r[0]) * at.scale, height: (r[3] - r[1]) * at.scale };
  };
  const rubber: Region | null =
    start && here ? [Math.min(start[0], here[0]), Math.min(start[1], here[1]), Math.max(start[0], here[0]), Math.max(start[1], here[1])] : null;
  const size = (r: Region) => `${mm((r[2] - r[0]) * unit, 1)} × ${mm((r[3] - r[1]) * unit, 1)} ${unitName}`;
  return (
    <div className={`drawing-pane ${mode ? "picks" : ""}`} data-mode={mode ?? undefined} ref={frame} data-scale={at.scale} data-x={at.x} data-y={at.y}>
      <svg width={room.width} height={room.height} onPointerDown={down} onPointerMove={move} onPointerUp={up} role="img" aria-label={texts.theDrawing}>
        <rect className="paper" width={room.width} height={room.height} />
        {picture && (
          <g transform={`translate(${room.width / 2} ${room.height / 2}) scale(${at.scale}) translate(${-at.x} ${at.y})`}>
            <DrawnStrokes picture={picture} scale={at.scale} zoom={2} thinnest={0.6} off={off} />
          </g>
        )}
        {region && <rect className="region" {...rect(region)} />}
        {rubber && mode === "region" && <rect className="rubber" {...rect(rubber)} />}
        {start && here && mode === "length" && <line className="rubber" x1={px(start)[0]} y1={px(start)[1]} x2={px(here)[0]} y2={px(here)[1]} />}
        {rubber && start && here && (
          <text className="rubber-text" x={px(here)[0] + 10} y={px(here)[1] - 8}>
            {mode === "region" ? size(rubber) : `${mm(Math.hypot(here[0] - start[0], here[1] - start[1]) * unit, 2)} ${unitName}`}
          </text>
        )}
        {mode &&
          here &&
          on &&
          (on === "end" ? (
            <rect className="snapped" x={px(here)[0] - 5} y={px(here)[1] - 5} width={10} height={10} />
          ) : (
            <circle className="snapped" cx={px(here)[0]} cy={px(here)[1]} r={6} />
          ))}
        {!picture && (
          <text className="waiting" x={room.width / 2} y={room.height / 2}>
            {waiting}
          </text>
        )}
      </svg>
      <p className="hint soft">
        {mode === "region" ? texts.dragARectangleOverWhat : mode === "length" ? texts.clickOneEndOfA : texts.dragToMoveWheelTo}
        <button type="button" onClick={onWhole}>
          {texts.wholeDrawing} <kbd>F</kbd>
        </button>
      </p>
    </div>
  );
}
