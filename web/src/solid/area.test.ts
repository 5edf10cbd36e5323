import { describe, expect, it } from "vitest";
import { areaOf, atLines } from "./area";

describe("an area that is drawn", () => {
  it("lies at lines that are near, and else where it was drawn, whichever corner came first", () => {
    const lines = { x: [60, 200], y: [100, 190] };
    expect(atLines([61, 189], [199.5, 60], lines, 2)).toEqual([60, 60, 200, 190]);
    expect(atLines([199.5, 60], [61, 189], lines, 2)).toEqual([60, 60, 200, 190]);
    expect(atLines([70, 120], [90, 130], lines, 2)).toEqual([70, 120, 90, 130]);
  });
  it("is a 3D annotation's place and size", () => {
    const made = areaOf("s", "f", [61, 189], [199.5, 101], { x: [60, 200], y: [100, 190] }, 2);
    expect(made).toMatchObject({ annotation: "f", fields: { place: [60, 100], size: [140, 90] } });
  });
});
