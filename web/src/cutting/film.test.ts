import { describe, expect, it } from "vitest";
import { inTime, placeAt } from "./film";

describe("a film of the cutter", () => {
  it("finds where the head is", () => {
    const times = [0, 1, 1, 4];
    expect(placeAt(times, 0)).toBe(0);
    expect(placeAt(times, 0.5)).toBe(0);
    expect(placeAt(times, 1)).toBe(2);
    expect(placeAt(times, 9)).toBe(3);
  });
  it("says a time", () => {
    expect(inTime(7.25)).toBe("7.3 s");
    expect(inTime(234)).toBe("3 min 54 s");
    expect(inTime(8471)).toBe("2 h 21 min");
  });
});
