import type { Schemas } from "../api/client";

type Strip = Schemas["PatternStrip"];
export type Vector = [number, number, number];
export type Point = [number, number];

/** A piece of the sheet in space: rings of points on side A, by the even-odd rule, and the strip that it is of. */
export interface Facet {
  strip: number;
  rings: Vector[][];
  out: Vector;
}

interface Frame {
  place: Vector;
  along: Vector;
  across: Vector;
  out: Vector;
}

const plus = (a: Vector, b: Vector, by = 1): Vector => [a[0] + by * b[0], a[1] + by * b[1], a[2] + by * b[2]];
const times = (a: Vector, by: number): Vector => [a[0] * by, a[1] * by, a[2] * by];
const dot = (a: Point, b: Point) => a[0] * b[0] + a[1] * b[1];
/** So many facets show a bend of a quarter turn. */
const FACETS = 8;

/** Where a place of a strip lies, folded by a share of each bend, and which way side A looks there. The neutral fibre keeps its
 * length: a bend that is half done has twice its radius. */
function moved(strip: Strip, frame: Frame, a: number, s: number, share: number): { place: Vector; out: Vector; across: Vector } {
  const flat = plus(plus(frame.place, frame.along, a), frame.across, s);
  if (!strip.neutral || share < 1e-3) return { place: flat, out: frame.out, across: frame.across };
  const way = strip.up ? 1 : -1;
  const turn = (s / strip.neutral) * share;
  const radius = strip.neutral / share + (strip.radius - strip.neutral);
  const centre = plus(frame.place, frame.out, way * radius);
  const out = plus(times(frame.out, Math.cos(turn)), frame.across, -way * Math.sin(turn));
  const across = plus(times(frame.across, Math.cos(turn)), frame.out, way * Math.sin(turn));
  return { place: plus(plus(centre, frame.along, a), out, -way * radius), out, across };
}

/** A ring cut to where one of its coordinates is at least, or at most, a bound (Sutherland and Hodgman). */
function cut(ring: readonly Point[], bound: number, least: boolean): Point[] {
  const inside = ([, s]: Point) => (least ? s >= bound : s <= bound);
  return ring.flatMap((b, n) => {
    const a = ring[(n + ring.length - 1) % ring.length]!;
    const share = (bound - a[1]) / (b[1] - a[1]);
    const crossing: Point = [a[0] + (b[0] - a[0]) * share, bound];
    if (inside(b)) return inside(a) ? [b] : [crossing, b];
    return inside(a) ? [crossing] : [];
  });
}

/** The pieces of a pattern folded by a share, 0 flat to 1 as the model is. */
export function folded(strips: readonly Strip[], share: number): Facet[] {
  const frames: Frame[] = [];
  const found: Facet[] = [];
  strips.forEach((strip, number) => {
    const parent = strips[strip.parent];
    const above = frames[strip.parent];
    if (!parent || !above) {
      frames.push({ place: [strip.start[0], strip.start[1], 0], along: [...strip.along, 0], across: [...strip.across, 0], out: [0, 0, 1] });
    } else {
      const beside: Point = [strip.start[0] - parent.start[0], strip.start[1] - parent.start[1]];
      const at = moved(parent, above, dot(beside, parent.along), dot(beside, parent.across), share);
      const turned = (d: Point) => plus(times(above.along, dot(d, parent.along)), at.across, dot(d, parent.across));
      frames.push({ place: at.place, along: turned(strip.along), across: turned(strip.across), out: at.out });
    }
    const frame = frames[number]!;
    for (const area of strip.areas) {
      const own = area.map((ring) =>
        ring.map(([x, y]): Point => {
          const d: Point = [x - strip.start[0], y - strip.start[1]];
          return [dot(d, strip.along), dot(d, strip.across)];
        }),
      );
      const reach = own.flatMap((ring) => ring.map(([, s]) => s));
      const low = Math.min(...reach);
      const high = Math.max(...reach);
      const count = strip.neutral ? Math.max(1, Math.ceil(((high - low) / strip.neutral / (Math.PI / 2)) * FACETS)) : 1;
      for (let n = 0; n < count; n++) {
        const from = low + ((high - low) * n) / count;
        const to = low + ((high - low) * (n + 1)) / count;
        const rings = count === 1 ? own : own.map((ring) => cut(cut(ring, from, true), to, false)).filter((ring) => ring.length > 2);
        if (!rings.length) continue;
        found.push({
          strip: number,
          rings: rings.map((ring) => ring.map(([a, s]) => moved(strip, frame, a, s, share).place)),
          out: moved(strip, frame, 0, (from + to) / 2, share).out,
        });
      }
    }
  });
  return found;
}

/** A direction to look from: turned about the vertical, then lifted, radians. */
export interface Eye {
  turn: number;
  lift: number;
}

/** A point as the eye sees it: right, up, and how near it is. */
export function seen([x, y, z]: Vector, { turn, lift }: Eye): Vector {
  const across = x * Math.cos(turn) + y * Math.sin(turn);
  const away = -x * Math.sin(turn) + y * Math.cos(turn);
  return [across, away * Math.sin(lift) + z * Math.cos(lift), -away * Math.cos(lift) + z * Math.sin(lift)];
}
