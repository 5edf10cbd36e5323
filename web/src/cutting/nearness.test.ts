import { expect, test } from "vitest";
import { apart, distance, laid, snapped } from "./nearness";
import { ringsOf, type Point } from "./outlines";

const square: Point[] = [
  [0, 0],
  [10, 0],
  [10, 10],
  [0, 10],
];
const at = (x: number, y: number) => [laid(square, { x, y, turn: 0, flipped: false })];
const ROOM: [number, number, number, number] = [5, 5, 195, 95];

test("outlines that lie apart, touch and overlap", () => {
  expect(distance([square], at(12, 0))).toBeCloseTo(2);
  expect(distance([square], at(13, 14))).toBeCloseTo(5);
  expect(distance([square], at(5, 5))).toBe(-1);
  expect(apart([square], at(13, 14)).way).toEqual([3, 4]);
});

test("bars that cross without a corner in one another overlap", () => {
  const bar = (wide: number, high: number, x: number, y: number): Point[][] => [laid([[0, 0], [wide, 0], [wide, high], [0, high]], { x, y, turn: 0, flipped: false })]; // prettier-ignore
  expect(distance(bar(40, 4, 0, 18), bar(4, 40, 18, 0))).toBe(-1);
  expect(distance(bar(40, 4, 0, 18), bar(4, 10, 18, 0))).toBeCloseTo(8);
});

test("a part may lie in an opening of another", () => {
  const frame = ringsOf({ cut: "M0 0L40 0L40 40L0 40ZM5 5L5 35L35 35L35 5Z" });
  expect(frame.length).toBe(2);
  expect(distance(at(10, 10), frame)).toBeCloseTo(5);
  expect(distance(frame, at(10, 10))).toBeCloseTo(5);
  expect(distance(at(1, 10), frame)).toBe(-1);
});

test("a part lies turned over, then turned, then moved", () => {
  const [, corner] = laid(square, { x: 100, y: 50, turn: 90, flipped: true });
  expect(corner?.[0]).toBeCloseTo(100);
  expect(corner?.[1]).toBeCloseTo(40);
});

test("a circle's outline keeps to its radius, whichever way it is written", () => {
  for (const cut of ["M5 0A5 5 0 0 1 -5 0A5 5 0 0 1 5 0Z", "M5 0A5 5 0 0 0 -5 0A5 5 0 0 0 5 0Z"]) {
    const [points = []] = ringsOf({ cut });
    expect(points.length).toBeGreaterThan(50);
    for (const [x, y] of points) expect(Math.hypot(x, y)).toBeCloseTo(5, 6);
    expect(Math.max(...points.map(([, y]) => y))).toBeGreaterThan(4.99);
    expect(Math.min(...points.map(([, y]) => y))).toBeLessThan(-4.99);
  }
  // a quarter bulges away from the corner that a clockwise one would go round
  const [quarter = []] = ringsOf({ cut: "M10 0A10 10 0 0 1 0 10Z" });
  for (const [x, y] of quarter) expect(Math.hypot(x, y)).toBeCloseTo(10, 6);
});

test("a part snaps to the gap, and in line with its neighbour", () => {
  const { by, lines } = snapped(at(52.6, 40.7), [at(40, 40)], ROOM, 2, 1.5);
  expect(by[0]).toBeCloseTo(-0.59);
  expect(by[1]).toBeCloseTo(-0.7);
  expect(lines).toEqual([{ y: 40 }]);
  // too near, it is put off
  expect(snapped(at(51.2, 40), [at(40, 40)], ROOM, 2, 1.5).by[0]).toBeCloseTo(0.81);
});

test("out of reach nothing snaps, and the margin of the plate counts as a neighbour", () => {
  expect(snapped(at(70, 60), [at(40, 40)], ROOM, 2, 1.5).by).toEqual([0, 0]);
  expect(snapped(at(5.4, 60), [at(40, 40)], ROOM, 2, 1.5).by[0]).toBeCloseTo(-0.4);
});
