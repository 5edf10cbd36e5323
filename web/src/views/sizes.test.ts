import { afterEach, expect, test } from "vitest";
import { useJobUnit } from "../common/unit";
import { shownSize, size, sizeInJob, sizeOf, sizeShown } from "./sizes";

afterEach(() => useJobUnit.setState({ unit: "mm" }));

test("a size is read in the unit that it was typed in, else in the job's", async () => {
  expect(sizeOf("600 × 400")).toEqual([600, 400]);
  expect(sizeOf("24x18in")).toEqual([609.6, 457.2]);
  expect(sizeOf("24 in x 400 mm")).toEqual([609.6, 400]);
  expect(sizeOf("24 in × 18")).toEqual([609.6, 457.2]);
  expect(sizeOf("24")).toBeNull();
  useJobUnit.setState({ unit: "in" });
  expect(sizeShown("24 × 18")).toEqual([609.6, 457.2]);
  expect(sizeShown("600 x 400 mm")).toEqual([600, 400]);
  // what is a cutter's own is in millimetres in every job
  expect(await size("600 × 400")).toBe("600 × 400");
  expect(await sizeInJob("600 x 400 mm")).toBe("23.62205 × 15.74803");
  expect(shownSize(1219.2, 2438.4)).toBe("48 × 96");
  await expect(size("0 × 4")).rejects.toThrow();
});
