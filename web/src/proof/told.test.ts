import { afterEach, expect, test } from "vitest";
import { useJobUnit } from "../common/unit";
import { told } from "./told";

afterEach(() => useJobUnit.setState({ unit: "mm" }));

test("a check's lengths are told in the job's unit, widths of lines as they were chosen", () => {
  const length = "width 215.9000 for 215.9 mm";
  expect(told(length, "length")).toBe(length);
  useJobUnit.setState({ unit: "in" });
  expect(told(length, "length")).toBe("width 8.5 for 8.5 in");
  expect(told("431.8000 × 279.4000 mm", "format")).toBe("17 × 11 in");
  expect(told("⌀14.9997 for 15 mm", "length")).toBe("⌀0.59054 for 0.59055 in");
  expect(told("15.000 mm²", "size")).toBe("15.000 mm²");
  expect(told("off 0.03 µm", "length")).toBe("off 0.03 µm");
  expect(told("thinnest 0.25 mm", "printing")).toBe("thinnest 0.25 mm");
  expect(told("12.50 mm of contours lie on others", "cut-twice")).toBe("0.49213 in of contours lie on others");
});
