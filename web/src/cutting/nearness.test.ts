import { describe, expect, it } from "vitest";
import { distance, inside, laid, type Point } from "./nearness";

const square: Point[] = [
  [0, 0],
  [10, 0],
  [10, 10],
  [0, 10],
];
const at = (x: number, y: number, turn = 0, flipped = false) => laid(square, { x, y, turn, flipped });

describe("how near parts are", () => {
  it("tells the gap between two", () => {
    expect(distance(at(0, 0), at(12, 0))).toBeCloseTo(2);
    expect(distance(at(0, 0), at(13, 14))).toBeCloseTo(5);
  });
  it("tells that they overlap, one inside the other too", () => {
    expect(distance(at(0, 0), at(5, 5))).toBeLessThan(0);
    expect(distance(at(0, 0), [[2, 2], [3, 2], [3, 3]])).toBeLessThan(0); // prettier-ignore
  });
  it("turns a part and turns it over", () => {
    const [, second] = at(0, 0, 90);
    expect(second?.[0]).toBeCloseTo(0);
    expect(second?.[1]).toBeCloseTo(10);
    expect(at(0, 0, 0, true)[1]?.[0]).toBeCloseTo(-10);
  });
  it("knows what is inside", () => {
    expect(inside([5, 5], square)).toBe(true);
    expect(inside([15, 5], square)).toBe(false);
  });
});
