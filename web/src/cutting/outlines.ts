import type { ProfilePicture } from "../api/cutting";

export type Point = [number, number];

/** How far, mm, chords may be from the arcs and curves that they stand for. */
export const CHORD = 0.004;
const CURVE_PIECES = 24;
const outlines = new Map<string, Point[][]>();

function alongArc([ax, ay]: Point, radius: number, sweep: number, [bx, by]: Point): Point[] {
  const [mx, my, dx, dy] = [(ax + bx) / 2, (ay + by) / 2, bx - ax, by - ay];
  const half = Math.hypot(dx, dy) / 2;
  if (!half) return [];
  const off = Math.sqrt(Math.max(0, radius * radius - half * half)) / (2 * half);
  // the centre of the lesser arc is on the left of one that runs counter-clockwise, y up
  const way = sweep ? 1 : -1;
  const [cx, cy] = [mx - dy * off * way, my + dx * off * way];
  const from = Math.atan2(ay - cy, ax - cx);
  let turn = Math.atan2(by - cy, bx - cx) - from;
  if (way * turn <= 1e-12) turn += way * 2 * Math.PI;
  const pieces = Math.max(2, Math.ceil(Math.abs(turn) / (2 * Math.acos(Math.max(0, 1 - CHORD / radius)))));
  return Array.from({ length: pieces }, (_, n): Point => {
    const angle = from + (turn * (n + 1)) / pieces;
    return [cx + radius * Math.cos(angle), cy + radius * Math.sin(angle)];
  });
}

function alongCurve(a: Point, b: Point, c: Point, d: Point): Point[] {
  return Array.from({ length: CURVE_PIECES }, (_, n): Point => {
    const t = (n + 1) / CURVE_PIECES;
    const s = 1 - t;
    const at = (k: 0 | 1) => s * s * s * a[k] + 3 * s * s * t * b[k] + 3 * s * t * t * c[k] + t * t * t * d[k];
    return [at(0), at(1)];
  });
}

function ringOf(path: string): Point[] {
  const points: Point[] = [];
  for (const [, letter, rest] of path.matchAll(/([MLAC])([^MLAC]*)/g)) {
    const v = (rest ?? "")
      .trim()
      .split(/[\s,]+/)
      .map(Number);
    const last = points.at(-1) ?? [0, 0];
    const pair = (k: number): Point => [v[k] ?? 0, v[k + 1] ?? 0];
    if (letter === "A") points.push(...alongArc(last, v[0] ?? 0, v[4] ?? 0, pair(5)));
    else if (letter === "C") points.push(...alongCurve(last, pair(0), pair(2), pair(4)));
    else points.push(pair(0));
  }
  return points;
}

/** The corners of a profile's outline, then of its openings, mm, and points along their curves, from its path: M, L, A and C, as
 * our server writes them. */
export function ringsOf(profile: Pick<ProfilePicture, "cut">): Point[][] {
  const known = outlines.get(profile.cut);
  if (known) return known;
  const rings = profile.cut
    .split("Z")
    .filter((path) => path.trim())
    .map(ringOf);
  outlines.set(profile.cut, rings);
  return rings;
}
