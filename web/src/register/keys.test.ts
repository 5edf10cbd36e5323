import { expect, it } from "vitest";
import type { Drawing } from "../api/register";
import { chosenOf, keyOf } from "./keys";

const row = (job: number, sheet: string) => ({ job, sheet, job_number: `000${job}`, about: { name: sheet.toUpperCase() } }) as Drawing;

it("keeps what was chosen on other pages, and names what is shown", () => {
  const before = [{ job: 1, sheet: "a:b", called: "0001 A:B" }];
  const chosen = chosenOf(["1:a:b", "2:top", "9:gone"], before, [row(2, "top"), row(2, "left")]);
  expect(chosen.map((own) => own.called)).toEqual(["0001 A:B", "0002 TOP"]);
  expect(chosen.map(keyOf)).toEqual(["1:a:b", "2:top"]);
});
