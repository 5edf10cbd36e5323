import type { PlacedProfile, ProfilePicture } from "../api/cutting";

export type Point = [number, number];

/** So many points along an outline stand for it while a part is dragged; what counts is worked out by the server after it. */
const POINTS = 160;
const outlines = new Map<string, Point[]>();

/** Points along the outline of a profile, mm, in its own axes. */
export function outlineOf(profile: ProfilePicture): Point[] {
  const known = outlines.get(profile.cut);
  if (known) return known;
  const path = document.createElementNS("http://www.w3.org/2000/svg", "path");
  // the outline is the first contour
  path.setAttribute("d", profile.cut.slice(0, profile.cut.indexOf("Z") + 1));
  const length = path.getTotalLength();
  const found = Array.from({ length: POINTS }, (_, n) => path.getPointAtLength((length * n) / POINTS)).map((p): Point => [p.x, p.y]);
  outlines.set(profile.cut, found);
  return found;
}

/** Points where a part lies. */
export function laid(points: readonly Point[], { x, y, turn, flipped }: Pick<PlacedProfile, "x" | "y" | "turn" | "flipped">): Point[] {
  const angle = (turn * Math.PI) / 180;
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  return points.map(([px, py]) => {
    const own = flipped ? -px : px;
    return [x + own * cos - py * sin, y + own * sin + py * cos];
  });
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

function fromSegment([x, y]: Point, [ax, ay]: Point, [bx, by]: Point): number {
  const [dx, dy] = [bx - ax, by - ay];
  const size = dx * dx + dy * dy;
  const t = size ? Math.max(0, Math.min(1, ((x - ax) * dx + (y - ay) * dy) / size)) : 0;
  return Math.hypot(ax + t * dx - x, ay + t * dy - y);
}

/** How far two outlines are apart, mm, below nought where they overlap. */
export function distance(one: readonly Point[], other: readonly Point[]): number {
  if (one.some((point) => inside(point, other)) || other.some((point) => inside(point, one))) return -1;
  let least = Infinity;
  for (const [a, b] of [
    [one, other],
    [other, one],
  ] as const)
    for (const point of a) for (let n = 0; n < b.length; n++) least = Math.min(least, fromSegment(point, b[n] as Point, b[(n + 1) % b.length] as Point));
  return least;
}
