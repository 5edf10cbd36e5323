import { describe, expect, it } from "vitest";
import type { Picture, View } from "../api/client";
import { boxOf, excess, inDrawing, inPlane, mm, onSheet, ratio, regionBetween, snap } from "./geometry";

const content = { kind: "projection", look: [0, 1, 0], up: [0, 0, 1], hidden: [] as string[] };
const view = {
  id: "v",
  source: "x",
  name: "front",
  content,
  scale: "1:2",
  anchor: [10, 20],
  place: [100, 50],
  classes: ["visible"],
  rotation: 0,
} as unknown as View;
const picture = {
  paths: [
    { edge_class: "visible", d: "", box: [0, 0, 40, 60], strokes: 1 },
    { edge_class: "hidden", d: "", box: [-500, 0, 40, 60], strokes: 1 },
  ],
} as unknown as Picture;

describe("a view on paper", () => {
  it("takes the box of the classes that it shows, at its scale about its anchor", () => {
    expect(boxOf(view, picture)).toEqual([95, 40, 115, 70]);
  });
  it("has no box before its lines are there", () => {
    expect(boxOf(view, undefined)).toBeNull();
    expect(boxOf({ ...view, classes: [] }, picture)).toBeNull();
  });
});

describe("a sheet", () => {
  it("tells by how much a box leaves it, side by side", () => {
    expect(excess([-3, 5, 425, 40], { width: 420, height: 297 })).toEqual([
      { side: "left", by: 3 },
      { side: "right", by: 5 },
    ]);
  });
});

it("turns a view about its anchor", () => {
  const [x, y] = onSheet({ ...view, rotation: 90 }, [30, 20]);
  expect([x, y].map((v) => Math.round(v * 1e6) / 1e6)).toEqual([100, 60]);
});

it("snaps an edge or a middle to the nearest line within reach", () => {
  expect(snap([10, 10, 30, 20], { x: [31], y: [100] }, 2)).toEqual({ by: [1, 0], at: { x: 31 } });
  expect(snap([10, 10, 30, 20], { x: [20.5, 31], y: [15.2] }, 2).by.map((v) => Math.round(v * 10) / 10)).toEqual([0.5, 0.2]);
  expect(snap([10, 10, 30, 20], { x: [50], y: [50] }, 2)).toEqual({ by: [0, 0], at: {} });
});

it("writes lengths without needless zeros and reads scales", () => {
  expect(mm(220)).toBe("220");
  expect(mm(0.12345)).toBe("0.123");
  expect(ratio("5:2")).toBe(2.5);
});

describe("an excerpt on paper", () => {
  const excerpt = {
    ...view,
    scale: "1:50",
    anchor: [8000, 4000],
    place: [200, 100],
    content: { kind: "drawing", excerpt: { space: "", unit: 1, region: [0, 0, 16000, 8000], angle: 0, off: ["B", "A"], styles: {} } },
  } as unknown as View;
  it("finds the drawing beneath a point of the sheet, turned or not", () => {
    expect(inPlane(excerpt, [200, 100]).map(Math.round)).toEqual([8000, 4000]);
    for (const turn of [0, 30, 90]) {
      const turned = { ...excerpt, turn };
      const [x, y] = inPlane(turned, onSheet(turned, [1234, 567]));
      expect([Math.round(x), Math.round(y)]).toEqual([1234, 567]);
    }
  });
  it("takes a distance on paper as one of the drawing", () => {
    expect(inDrawing(excerpt, [10, -4])).toEqual([500, -200]);
  });
  it("takes a rectangle whichever way it was drawn", () => {
    expect(regionBetween(excerpt, [220, 90], [200, 100])).toEqual([8000, 3500, 9000, 4000]);
  });
  it("has a box whatever its edge classes, and asks for new lines when layers change, in whatever order they are named", () => {
    const drawn = { paths: [{ edge_class: "drawn", d: "", box: [0, 0, 16000, 8000], strokes: 4 }] } as unknown as Picture;
    expect(boxOf({ ...excerpt, classes: [] }, drawn)).toEqual([40, 20, 360, 180]);
  });
});
