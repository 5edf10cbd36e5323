import * as three from "three";
import { describe, expect, it } from "vitest";
import type { Model } from "../review/model";
import { Pictures } from "../review/pictures";
import type { Look } from "../review/state";
import { captured, fresh, shownBy } from "./captured";

const node = (name: string, path: string) => ({ name, parent: "", matrix: [], meshes: [0], materials: [], path });
const model: Model = {
  title: "Press",
  nodes: [node("Bolt", "Frame/Bolt"), node("Bolt (2)", "Frame/Bolt (2)"), node("Cheek", "Cheek")],
  meshes: [],
  views: [],
  unit: "mm",
  tolerance: 0,
  first: 0,
  groups: [],
  size: 1,
  worlds: new Map(),
  box3: new three.Box3(new three.Vector3(), new three.Vector3(1, 1, 1)),
  pictures: new Pictures(new Map()),
};
const look: Look = {
  camera: { position: [0, -9, 0], target: [0, 0, 0], up: [0, 0, 1], perspective: false, span: 4 },
  background: "#ffffff",
  lighting: "CAD",
  mode: "Solid",
  states: { "Bolt (2)": null, Cheek: 0.3 },
  own: { Bolt: "Wireframe" },
  cuts: [],
};

describe("a prepared view made of what is seen", () => {
  it("comes back as it was: hidden, faded, and parts drawn in a way of their own", () => {
    const view = captured(fresh("v", "View"), look, model);
    expect(view.hidden).toEqual(["Frame/Bolt (2)"]);
    expect(view.faded).toEqual({ Cheek: 0.3 });
    expect(view.drawn).toEqual({ "Frame/Bolt": "Wireframe" });
    expect(shownBy(view, model, 1)).toEqual(look);
  });
  it("takes what is said of an assembly for all in it, the nearest first", () => {
    const view = { ...fresh("v", "View"), drawn: { Frame: "Transparent" as const, "Frame/Bolt": "Solid" as const } };
    expect(shownBy(view, model, 1).own).toEqual({ Bolt: "Solid", "Bolt (2)": "Transparent" });
  });
});
