import "../review/review.css";
import { useRef, useState } from "react";
import type { Job, Sheet } from "../api/client";
import { useAnnotationPoster, type Field } from "../api/solids";
import { SNAP_PIXELS, mm, snap, type Box, type PaperSize, type SnapLines } from "../paper/geometry";
import { useDeskMode } from "../views/mode";
import { PAD } from "../paper/useZoom";
import * as texts from "./texts";

const SLACK = 3;
const LEAST = 10;

interface Props {
  job: Job;
  sheet: Sheet;
  field: Field;
  paper: PaperSize;
  zoom: number;
  lines: SnapLines;
  selected: boolean;
  onSelect: () => void;
  onOpen: () => void;
  onMove: (by: [number, number]) => void;
  onSize: (place: [number, number], size: [number, number]) => void;
}

interface Grip {
  x: number;
  y: number;
  /** Which sides follow the hand: −1 left or bottom, 1 right or top, 0 none; [0, 0] moves it all. */
  sides: [number, number];
  by: [number, number];
}

const tenth = (v: number) => Math.round(v * 10) / 10;
const fine = (v: number) => Math.round(v * 1e4) / 1e4;

/** What of a field follows the hand, where it has it: all of it, or the corner that is pulled. */
function follows({ place: [x, y], size: [w, h] }: Field, { sides, by }: Grip): Box {
  const [left, bottom] = [x + by[0], y + by[1]];
  if (sides[0] === 0 && sides[1] === 0) return [left, bottom, left + w, bottom + h];
  const corner: [number, number] = [left + (sides[0] > 0 ? w : 0), bottom + (sides[1] > 0 ? h : 0)];
  return [...corner, ...corner];
}

/** A 3D annotation on the desk: its picture, to select, drag, and pull larger at its corners. */
export function AnnotationLayer({ job, sheet, field, paper, zoom, lines, selected, onSelect, onOpen, onMove, onSize }: Props) {
  const { data, error } = useAnnotationPoster(job, sheet, field);
  const mode = useDeskMode((state) => state.mode);
  const grip = useRef<Grip | null>(null);
  const [by, setBy] = useState<Grip | null>(null);
  const shift = by?.by ?? [0, 0];
  const sides = by?.sides ?? [0, 0];
  const whole = sides[0] === 0 && sides[1] === 0;
  const [x, y] = [field.place[0] + (whole || sides[0] < 0 ? shift[0] : 0), field.place[1] + (whole || sides[1] < 0 ? shift[1] : 0)];
  const [w, h] = [field.size[0] + sides[0] * shift[0], field.size[1] + sides[1] * shift[1]];
  const down = (event: React.PointerEvent, pulled: [number, number]) => {
    if (event.button !== 0 || mode) return;
    event.stopPropagation();
    onSelect();
    grip.current = { x: event.clientX, y: event.clientY, sides: pulled, by: [0, 0] };
    event.currentTarget.setPointerCapture(event.pointerId);
  };
  const move = (event: React.PointerEvent) => {
    const from = grip.current;
    if (!from) return;
    const [dx, dy] = [event.clientX - from.x, event.clientY - from.y];
    if (!by && Math.hypot(dx, dy) < SLACK) return;
    const limit = (side: number, v: number, size: number) => (side ? side * Math.max(LEAST - size, side * v) : v);
    from.by = [tenth(limit(from.sides[0], dx / zoom, field.size[0])), tenth(limit(from.sides[1], -dy / zoom, field.size[1]))];
    if (!event.altKey) {
      const near = snap(follows(field, from), lines, SNAP_PIXELS / zoom);
      from.by = [from.by[0] + near.by[0], from.by[1] + near.by[1]];
    }
    setBy({ ...from });
  };
  const up = () => {
    grip.current = null;
    if (by) {
      if (whole) onMove(by.by);
      else onSize([fine(x), fine(y)], [fine(w), fine(h)]);
    }
    setBy(null);
  };
  const hear = (pulled: [number, number]) => ({
    onPointerDown: (event: React.PointerEvent) => down(event, pulled),
    onPointerMove: move,
    onPointerUp: up,
    onPointerCancel: up,
  });
  const told = error?.message ?? (data?.work?.state === "failed" ? data.work.error : data && !data.stale ? "" : texts.makingThe3dModel);
  return (
    <div
      className={`field-layer ${selected ? "selected" : ""} ${field.frame ? "framed" : ""}`}
      data-id={field.id}
      style={{
        left: PAD.left + x * zoom,
        top: PAD.top + (paper.height - y - h) * zoom,
        width: w * zoom,
        height: h * zoom,
        pointerEvents: mode ? "none" : undefined,
      }}
      aria-label={texts.n3dField(field.name)}
      role="button"
      tabIndex={0}
      onDoubleClick={onOpen}
      onKeyDown={(event) => event.key === "Enter" && onSelect()}
      {...hear([0, 0])}
    >
      {data?.poster && (
        <img
          src={data.poster}
          alt={`${field.name}, ${field.views.find((view) => view.id === field.default)?.name ?? field.views[0]?.name}`}
          draggable={false}
        />
      )}
      {told && <p className="soft">{told}</p>}
      {selected &&
        (
          [
            [-1, -1],
            [1, -1],
            [-1, 1],
            [1, 1],
          ] as [number, number][]
        ).map((corner) => (
          <span
            key={corner.join()}
            className="field-corner"
            style={{ left: corner[0] < 0 ? 0 : "100%", top: corner[1] > 0 ? 0 : "100%" }}
            aria-label={texts.pullTheFieldLarger}
            {...hear(corner)}
          />
        ))}
      {by && (
        <em className="field-size">
          {mm(x, 2)}, {mm(y, 2)} · {mm(w, 2)} × {mm(h, 2)} {texts.mm}
        </em>
      )}
    </div>
  );
}
