import { expect, test } from "vitest";
import { clashes, type Command } from "./commands";

const act = (id: string, key?: string): Command => ({ id, title: id, key, run: () => undefined });

test("two acts that claim one letter are named, Escape and acts without a letter are not", () => {
  expect(clashes({ job: [act("pens", "3"), act("undo", "U")], stop: [act("solid", "3"), act("put", "P")] })).toEqual(["3: pens / solid"]);
  expect(
    clashes({ job: [act("undo", "U"), act("redo", "Shift+U"), act("save")], stop: [act("leave", "Escape"), act("quiet")], over: [act("back", "Escape")] }),
  ).toEqual([]);
});
