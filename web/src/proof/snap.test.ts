import { describe, expect, it } from "vitest";
import type { Points } from "../api/looks";
import { crossing, snapper, viewportAt } from "./snap";

const points: Points = {
  beyond: 0,
  ends: [
    [10, 10],
    [200, 10],
  ],
  centres: [[50, 50, 8]],
  strokes: [
    [10, 10, 200, 10],
    [100, 0, 100, 300],
    [0, 0, 300, 300],
  ],
  viewports: [
    { name: "front", ratio: "1:2", box: [0, 0, 120, 120], model: 2 },
    { name: "detail", ratio: "2:1", box: [90, 0, 120, 20], model: 0.5 },
  ],
};

describe("what a measuring hand holds on to", () => {
  it("takes the nearest end or centre, and else the nearest crossing", () => {
    const at = snapper(points);
    expect(at(11, 10.5, 3)).toMatchObject({ x: 10, y: 10, kind: "end" });
    expect(at(49, 51, 3)).toMatchObject({ x: 50, y: 50, kind: "centre", radius: 8 });
    expect(at(101, 9, 3)).toMatchObject({ x: 100, y: 10, kind: "crossing" });
    expect(at(100.5, 99, 3)).toMatchObject({ x: 100, y: 100, kind: "crossing" });
    expect(at(60, 200, 3)).toBeNull();
  });

  it("crosses segments only where both are", () => {
    expect(crossing([0, 0, 10, 0], [5, -5, 5, 5])).toEqual([5, 0]);
    expect(crossing([0, 0, 4, 0], [5, -5, 5, 5])).toBeNull();
    expect(crossing([0, 0, 10, 0], [0, 1, 10, 1])).toBeNull();
  });

  it("reads by the viewport that lies on top", () => {
    expect(viewportAt(points, 100, 10)?.name).toBe("detail");
    expect(viewportAt(points, 20, 20)?.name).toBe("front");
    expect(viewportAt(points, 250, 20)).toBeUndefined();
  });
});
