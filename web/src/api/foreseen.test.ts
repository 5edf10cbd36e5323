import { describe, expect, it } from "vitest";
import type { Edit, Job } from "./client";
import { foreseen } from "./foreseen";

const job = {
  document: {
    sheets: [
      {
        id: "s",
        name: "One",
        furniture: [],
        views: [{ id: "v", scale: "1:1", classes: [] }],
        annotations_3d: [{ id: "f", size: [1, 2], views: [{ id: "a", name: "A" }] }],
      },
      { id: "t", furniture: [], views: [] },
    ],
  },
} as unknown as Job;
const after = (edit: unknown) => foreseen(job, edit as Edit).document.sheets as unknown as Record<string, unknown>[];

describe("what an edit will have done", () => {
  it("shows lists that were handed on whole", () => {
    const [one, two] = after({ kind: "change_sheet", sheet: "s", fields: { furniture: ["title block"] } });
    expect(one?.furniture).toEqual(["title block"]);
    expect(two?.furniture).toEqual([]);
  });
  it("shows the edges of the view alone", () => {
    const [one] = after({ kind: "change_view", sheet: "s", view: "v", fields: { classes: ["visible"], scale: "2:1" } });
    expect(one?.views).toEqual([{ id: "v", scale: "1:1", classes: ["visible"] }]);
  });
  it("shows what of a 3D annotation was handed on, and a prepared view among the others", () => {
    const size = after({ kind: "change_annotation_3d", sheet: "s", annotation: "f", fields: { size: [3, 2] } })[0] as { annotations_3d: unknown };
    expect(size.annotations_3d).toMatchObject([{ size: [3, 2] }]);
    const view = (id: string) =>
      after({ kind: "change_prepared_view", sheet: "s", annotation: "f", view: { id, name: "B" } })[0] as { annotations_3d: { views: unknown }[] };
    expect(view("a").annotations_3d[0]?.views).toEqual([{ id: "a", name: "B" }]);
    expect(view("b").annotations_3d[0]?.views).toHaveLength(2);
  });
  it("has a pen set or a pack as it was handed on, in its place, so that the next change is made from it", () => {
    const held = {
      document: {
        ...job.document,
        pens: [
          { id: "a", name: "A" },
          { id: "b", name: "B" },
        ],
        packs: [],
      },
    } as unknown as Job;
    const named = (pens: unknown) => foreseen(held, { kind: "keep_pens", pens } as Edit).document.pens.map(({ name }) => name);
    expect(named({ id: "a", name: "New" })).toEqual(["New", "B"]);
    expect(named({ id: "c", name: "C" })).toEqual(["A", "B", "C"]);
    expect(foreseen(held, { kind: "keep_pack", pack: { id: "p", name: "P" } } as Edit).document.packs).toMatchObject([{ name: "P" }]);
  });
  it("leaves to the answer what has to be read or worked out", () => {
    expect(after({ kind: "change_sheet", sheet: "s", fields: { format: "a2" } })).toEqual(job.document.sheets);
    expect(foreseen(job, { kind: "remove_sheet", sheet: "s" })).toBe(job);
  });
});
