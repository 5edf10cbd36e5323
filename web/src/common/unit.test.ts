import { afterEach, expect, test } from "vitest";
import { inUnit, sizeInUnit, useJobUnit, withUnit } from "./unit";

afterEach(() => useJobUnit.setState({ unit: "mm" }));

test("lengths are shown in the job's unit", () => {
  expect(sizeInUnit(841, 594)).toBe("841 × 594 mm");
  useJobUnit.setState({ unit: "in" });
  expect(sizeInUnit(279.4, 215.9)).toBe("11 × 8.5 in");
  expect(inUnit(1, 2)).toBe("0.039");
});

test("a bare number is read in the job's unit, one with a unit as it stands", () => {
  expect(withUnit("3")).toBe("3");
  useJobUnit.setState({ unit: "in" });
  expect(withUnit(" 3 ")).toBe("3in");
  expect(withUnit("8 1/2")).toBe("8 1/2in");
  expect(withUnit("-0.5")).toBe("-0.5in");
  expect(withUnit("3 mm")).toBe("3 mm");
  expect(withUnit("1'-0\"")).toBe("1'-0\"");
  expect(withUnit("x")).toBe("x");
});
