import type { PlacedProfile } from "../api/cutting";
import type { Point } from "./outlines";

/** Points where a part lies. */
export function laid(points: readonly Point[], { x, y, turn, flipped }: Pick<PlacedProfile, "x" | "y" | "turn" | "flipped">): Point[] {
  const angle = (turn * Math.PI) / 180;
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  return points.map(([px, py]) => {
    const own = flipped ? -px : px;
    return [x + own * cos - py * sin, y + own * sin + py * cos];
  });
}

/** From mm on the plate to mm in a part's own axes, which is turned by so many degrees. */
export function inPart([dx, dy]: Point, turn: number): Point {
  const angle = (-turn * Math.PI) / 180;
  return [dx * Math.cos(angle) - dy * Math.sin(angle), dx * Math.sin(angle) + dy * Math.cos(angle)];
}

export function inside([x, y]: Point, ring: readonly Point[]): boolean {
  let found = false;
  for (let n = 0, last = ring.length - 1; n < ring.length; last = n++) {
    const [ax, ay] = ring[n] as Point;
    const [bx, by] = ring[last] as Point;
    if (ay > y !== by > y && x < ((bx - ax) * (y - ay)) / (by - ay) + ax) found = !found;
  }
  return found;
}

/** From a point to the nearest of a segment. */
function toSegment([x, y]: Point, [ax, ay]: Point, [bx, by]: Point): Point {
  const [dx, dy] = [bx - ax, by - ay];
  const size = dx * dx + dy * dy;
  const t = size ? Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / size)) : 0;
  return [ax + t * dx - x, ay + t * dy - y];
}

export type Box = [number, number, number, number];

export function boxOf(points: readonly Point[]): Box {
  const box: Box = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [x, y] of points) {
    box[0] = Math.min(box[0], x);
    box[1] = Math.min(box[1], y);
    box[2] = Math.max(box[2], x);
    box[3] = Math.max(box[3], y);
  }
  return box;
}

/** How far two boxes are apart at least, mm. */
export const boxesApart = (a: Box, b: Box) => Math.hypot(Math.max(0, a[0] - b[2], b[0] - a[2]), Math.max(0, a[1] - b[3], b[1] - a[3]));

export interface Apart {
  /** mm, below nought where they overlap. */
  away: number;
  /** From the one to the other where they are nearest. */
  way: Point;
}

/** Whether two segments cross. */
function crosses(a: Point, b: Point, c: Point, d: Point): boolean {
  const side = ([px, py]: Point, [qx, qy]: Point, [x, y]: Point) => (qx - px) * (y - py) - (qy - py) * (x - px);
  return side(a, b, c) * side(a, b, d) < 0 && side(c, d, a) * side(c, d, b) < 0;
}

type Ring = readonly Point[];
/** The outline of a part, then its openings. */
export type Rings = readonly Ring[];

const within = (one: Ring, other: Ring) => one.every((point) => inside(point, other));

/** The rings of two parts that are to be held apart, none where they overlap: a part may lie in an opening of another. */
function facing(one: Rings, other: Rings): [Ring, Ring] | null {
  const [a, b] = [one[0] ?? [], other[0] ?? []];
  const [aIn, bIn] = [a.some((point) => inside(point, b)), b.some((point) => inside(point, a))];
  if (!aIn && !bIn) return [a, b];
  const host = aIn && other.slice(1).find((opening) => within(a, opening));
  if (host) return [a, host];
  const own = bIn && one.slice(1).find((opening) => within(b, opening));
  return own ? [own, b] : null;
}

/** How far two parts are apart. */
export function apart(first: Rings, second: Rings): Apart {
  const pair = facing(first, second);
  if (!pair) return { away: -1, way: [0, 0] };
  const [one, other] = pair;
  const least: Apart = { away: Infinity, way: [0, 0] };
  for (let k = 0; k < one.length; k++)
    for (let n = 0; n < other.length; n++)
      if (crosses(one[k] as Point, one[(k + 1) % one.length] as Point, other[n] as Point, other[(n + 1) % other.length] as Point))
        return { away: -1, way: [0, 0] };
  for (const [a, b, sign] of [
    [one, other, 1],
    [other, one, -1],
  ] as const)
    for (const point of a)
      for (let n = 0; n < b.length; n++) {
        const [dx, dy] = toSegment(point, b[n] as Point, b[(n + 1) % b.length] as Point);
        const away = Math.hypot(dx, dy);
        if (away < least.away) {
          least.away = away;
          least.way = [dx * sign, dy * sign];
        }
      }
  return least;
}

export const distance = (one: Rings, other: Rings): number => apart(one, other).away;

/** So much further than the gap a part is put, mm: its outline is known by chords alone. */
const SPARE = 0.01;

export interface Snap {
  by: Point;
  /** Where it is aligned: an x or a y, mm. */
  lines: { x?: number; y?: number }[];
}

/** The least move, within reach, that puts an edge in line with an edge, or the middle with the middle, of others. */
function inLine(box: Box, others: readonly Box[], axis: 0 | 1, reach: number): { by: number; at: number } | null {
  const edges = (own: Box) => [own[axis], own[axis + 2] as number];
  const middle = (own: Box) => [(own[axis] + (own[axis + 2] as number)) / 2];
  let found: { by: number; at: number } | null = null;
  for (const marks of [edges, middle])
    for (const there of others.flatMap(marks))
      for (const here of marks(box)) if (Math.abs(there - here) < Math.abs(found?.by ?? reach)) found = { by: there - here, at: there };
  return found;
}

/** Where a part that is dragged snaps to: the gap from what it is nearest to, else edges and middles in line with others. */
export function snapped(moved: Rings, others: readonly Rings[], room: Box, gap: number, reach: number): Snap {
  const box = boxOf(moved[0] ?? []);
  const boxes = others.map((other) => boxOf(other[0] ?? []));
  const near = others
    .filter((_, n) => boxesApart(box, boxes[n] as Box) < gap + reach)
    .map((other) => apart(moved, other))
    .filter((own) => own.away > 0 && Math.abs(own.away - gap) < reach)
    .sort((a, b) => Math.abs(a.away - gap) - Math.abs(b.away - gap))[0];
  if (near) {
    const share = (near.away - gap - SPARE) / near.away;
    const by: Point = [near.way[0] * share, near.way[1] * share];
    // along what it touches it may still be in line with others
    const axis = Math.abs(by[0]) > Math.abs(by[1]) ? 1 : 0;
    const square = Math.min(Math.abs(near.way[0]), Math.abs(near.way[1])) < 1e-6;
    const line = square ? inLine(box, [...boxes, room], axis, reach) : null;
    if (!line) return { by, lines: [] };
    by[axis] = line.by;
    return { by, lines: [axis ? { y: line.at } : { x: line.at }] };
  }
  const [x, y] = [inLine(box, [...boxes, room], 0, reach), inLine(box, [...boxes, room], 1, reach)];
  return { by: [x?.by ?? 0, y?.by ?? 0], lines: [...(x ? [{ x: x.at }] : []), ...(y ? [{ y: y.at }] : [])] };
}
