import { expect, test } from "vitest";
import { folded, seen } from "./folding";

const square = (x0: number, x1: number): [number, number][][] => [
  [
    [x0, 0],
    [x1, 0],
    [x1, 10],
    [x0, 10],
  ],
];
const neutral = 2.88;
const allowance = (Math.PI / 2) * neutral;
/** An angle: 20 flat, a quarter turn up about 2 mm, 30 flat. */
const strips = [
  { parent: -1, start: [0, 0], along: [0, 1], across: [-1, 0], neutral: 0, radius: 0, up: true, areas: [square(0, 20)] },
  { parent: 0, start: [20, 0], along: [0, 1], across: [1, 0], neutral, radius: 2, up: true, areas: [square(20, 20 + allowance)] },
  { parent: 1, start: [20 + allowance, 0], along: [0, 1], across: [1, 0], neutral: 0, radius: 0, up: true, areas: [square(20 + allowance, 50 + allowance)] },
] as unknown as Parameters<typeof folded>[0];

const corners = (share: number) =>
  folded(strips, share)
    .filter((facet) => facet.strip === 2)
    .flatMap((facet) => facet.rings.flat());

test("folded wholly, the flange stands upright where the model has it", () => {
  for (const [x, , z] of corners(1)) {
    expect(x).toBeCloseTo(22, 6);
    expect(z).toBeGreaterThan(2 - 1e-6);
  }
  expect(Math.max(...corners(1).map(([, , z]) => z))).toBeCloseTo(32, 6);
});

test("unfolded, all of it lies flat and as long as the pattern", () => {
  expect(Math.max(...corners(0).map(([x]) => x))).toBeCloseTo(50 + allowance, 6);
  expect(corners(0).every(([, , z]) => Math.abs(z) < 1e-9)).toBe(true);
});

test("half folded, the flange stands at half the angle", () => {
  const [a, b] = [corners(0.5)[0]!, corners(0.5)[1]!];
  expect(Math.atan2(b[2] - a[2], b[0] - a[0])).toBeCloseTo(Math.PI / 4, 6);
});

test("a bend is shown by facets that hang together", () => {
  const bend = folded(strips, 1).filter((facet) => facet.strip === 1);
  expect(bend.length).toBe(8);
});

test("from above the pattern is seen as it lies", () => {
  expect(seen([3, 4, 5], { turn: 0, lift: Math.PI / 2 }).map((v) => Math.round(v * 1e6) / 1e6)).toEqual([3, 4, 5]);
});
