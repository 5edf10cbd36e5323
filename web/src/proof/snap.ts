import type { Points } from "../api/looks";

export type Spot = { x: number; y: number; kind: "end" | "centre" | "crossing"; radius?: number };
type Stroke = Points["strokes"][number];
const CELL = 10;

const cellOf = (x: number, y: number) => `${Math.floor(x / CELL)} ${Math.floor(y / CELL)}`;

function put<T>(cells: Map<string, T[]>, x: number, y: number, what: T) {
  const key = cellOf(x, y);
  const own = cells.get(key);
  if (own) own.push(what);
  else cells.set(key, [what]);
}

/** Where two segments cross, if they do; ends count, a hair over them too, since a file's figures are rounded. */
export function crossing([ax, ay, bx, by]: Stroke, [cx, cy, dx, dy]: Stroke): [number, number] | null {
  const [ux, uy, vx, vy] = [bx - ax, by - ay, dx - cx, dy - cy];
  const turn = ux * vy - uy * vx;
  if (Math.abs(turn) < 1e-12 * Math.max(1, Math.hypot(ux, uy) * Math.hypot(vx, vy))) return null;
  const t = ((cx - ax) * vy - (cy - ay) * vx) / turn;
  const s = ((cx - ax) * uy - (cy - ay) * ux) / turn;
  const slack = 1e-6;
  return t < -slack || t > 1 + slack || s < -slack || s > 1 + slack ? null : [ax + t * ux, ay + t * uy];
}

/** A page's points by where they lie: the nearest to a place, ends and centres before crossings. */
export function snapper(points: Points) {
  const spots = new Map<string, Spot[]>();
  const strokes = new Map<string, Stroke[]>();
  for (const [x, y] of points.ends) put<Spot>(spots, x, y, { x, y, kind: "end" });
  for (const [x, y, radius] of points.centres) put<Spot>(spots, x, y, { x, y, kind: "centre", radius });
  for (const stroke of points.strokes) {
    const [x0, y0, x1, y1] = stroke;
    const steps = Math.max(1, Math.ceil((Math.hypot(x1 - x0, y1 - y0) / CELL) * 2));
    let last = "";
    for (let n = 0; n <= steps; n += 1) {
      const [x, y] = [x0 + ((x1 - x0) * n) / steps, y0 + ((y1 - y0) * n) / steps];
      const key = cellOf(x, y);
      if (key !== last) put(strokes, x, y, stroke);
      last = key;
    }
  }
  const around = <T>(cells: Map<string, T[]>, x: number, y: number, reach: number) => {
    const found: T[] = [];
    const n = Math.ceil(reach / CELL);
    for (let i = -n; i <= n; i += 1) for (let j = -n; j <= n; j += 1) found.push(...(cells.get(cellOf(x + i * CELL, y + j * CELL)) ?? []));
    return found;
  };
  return (x: number, y: number, reach: number): Spot | null => {
    let best: Spot | null = null;
    let least = reach;
    for (const spot of around(spots, x, y, reach)) {
      const off = Math.hypot(spot.x - x, spot.y - y);
      if (off <= least) [best, least] = [spot, off];
    }
    if (best) return best;
    const close = [...new Set(around(strokes, x, y, reach))].filter(([x0, y0, x1, y1]) => {
      const [ux, uy] = [x1 - x0, y1 - y0];
      const t = Math.min(1, Math.max(0, ((x - x0) * ux + (y - y0) * uy) / Math.max(ux * ux + uy * uy, 1e-12)));
      return Math.hypot(x0 + t * ux - x, y0 + t * uy - y) <= reach;
    });
    for (let i = 0; i < Math.min(close.length, 60); i += 1)
      for (let j = i + 1; j < Math.min(close.length, 60); j += 1) {
        const at = crossing(close[i] as Stroke, close[j] as Stroke);
        const off = at ? Math.hypot(at[0] - x, at[1] - y) : Infinity;
        if (at && off <= least) [best, least] = [{ x: at[0], y: at[1], kind: "crossing" }, off];
      }
    return best;
  };
}

/** Half the width of a wide line, mm: a view's box runs along the middle of its outermost strokes. */
const EDGE = 0.35;

/** The viewport that a place lies in: of several the last, which lies on top. */
export const viewportAt = (points: Points, x: number, y: number) =>
  points.viewports.findLast(({ box }) => x >= box[0] - EDGE && y >= box[1] - EDGE && x <= box[2] + EDGE && y <= box[3] + EDGE);
