import * as three from "three";
import { describe, expect, it } from "vitest";
import { extent, gapOf } from "./bodies";
import { towardFront, quarter, upAxis, upTurn } from "./orienting";
import { beyond, shifted, tilted, begun, planeOf, withCut } from "./cutting";
import { matrixOf, UPRIGHT, type Camera, type Rows } from "./model";
import { roughened } from "./coarse";
import { crossing } from "./cutEdges";
import { DISPLAY, displayOf, MODES } from "./parts";

const placed = (x: number, y: number, z: number, turn = 0) => new three.Matrix4().makeRotationZ(turn).setPosition(x, y, z);
function box(x: number, y: number, z: number): three.BufferGeometry {
  const geometry = new three.BoxGeometry(x, y, z);
  geometry.computeBoundingBox();
  geometry.computeBoundingSphere();
  return geometry;
}

describe("whole parts", () => {
  it("have the surface and volume of the handbook's box and ball", () => {
    const own = extent(box(20, 30, 40), placed(100, 5, -7, 0.4));
    expect(own.area).toBeCloseTo(2 * (20 * 30 + 30 * 40 + 20 * 40), 6);
    expect(own.volume).toBeCloseTo(24000, 6);
    expect(own.closed).toBe(true);
    const ball = new three.SphereGeometry(10, 96, 64);
    ball.computeBoundingBox();
    expect(extent(ball, placed(0, 0, 0)).volume / ((4 / 3) * Math.PI * 1000)).toBeCloseTo(1, 2);
  });

  it("are said to be open where a face is missing", () => {
    const open = box(20, 30, 40);
    open.setIndex([...(open.getIndex()?.array ?? [])].slice(6));
    expect(extent(open, placed(0, 0, 0)).closed).toBe(false);
  });

  it("are as far apart as boxes are: face to face, edge to edge, corner to corner, and 0 where they meet", () => {
    const one = box(10, 10, 10);
    expect(gapOf(one, placed(0, 0, 0), one, placed(17, 3, 0))?.distance).toBeCloseTo(7, 9);
    expect(gapOf(one, placed(0, 0, 0), one, placed(13, 14, 0))?.distance).toBeCloseTo(5, 9);
    expect(gapOf(one, placed(0, 0, 0), one, placed(12, 13, 16))?.distance).toBeCloseTo(Math.hypot(2, 3, 6), 9);
    // an edge that is turned toward a face
    expect(gapOf(one, placed(0, 0, 0), one, placed(20, 0, 0, Math.PI / 4))?.distance).toBeCloseTo(15 - Math.hypot(5, 5), 9);
    expect(gapOf(one, placed(0, 0, 0), one, placed(6, 3, 0))?.distance).toBe(0);
    const far = gapOf(one, placed(0, 0, 0), one, placed(17, 3, 0));
    expect(far && far.from.distanceTo(far.to)).toBeCloseTo(7, 9);
    expect(gapOf(one, placed(0, 0, 0), one, placed(17, 3, 0), 6)).toBeNull();
  });

  it("are as far apart as every pair of triangles says", () => {
    const ball = new three.IcosahedronGeometry(6, 2);
    ball.computeBoundingBox();
    ball.setIndex([...Array(ball.getAttribute("position").count).keys()]);
    const there = placed(15, 4, -3, 0.7);
    const found = gapOf(ball, placed(0, 0, 0), ball, there)?.distance ?? 0;
    const corners = (at: three.Matrix4) =>
      [...Array(ball.getAttribute("position").count).keys()].map((k) =>
        new three.Vector3().fromBufferAttribute(ball.getAttribute("position"), k).applyMatrix4(at),
      );
    const [a, b] = [corners(placed(0, 0, 0)), corners(there)];
    const byCorners = Math.min(...a.map((p) => Math.min(...b.map((q) => p.distanceTo(q)))));
    expect(found).toBeLessThanOrEqual(byCorners + 1e-9);
    expect(found).toBeGreaterThan(byCorners - 1);
    // balls of 6 mm whose triangles lie within their surface
    expect(found).toBeGreaterThan(Math.hypot(15, 4, 3) - 12);
  });
});

describe("turns", () => {
  const camera: Camera = { position: [100, -100, 80], target: [0, 0, 0], up: [0, 0, 1], perspective: true, span: 30 };
  const after = (turn: Rows, v: [number, number, number]) =>
    new three.Vector3(...v)
      .applyMatrix4(matrixOf(turn))
      .toArray()
      .map((n) => Math.round(n * 1e9) / 1e9 + 0);
  it("bring a face to the front, with what was up still up", () => {
    const right = towardFront(new three.Vector3(1, 0, 0), camera);
    expect(after(right, [1, 0, 0])).toEqual([0, -1, 0]);
    expect(after(right, [0, 0, 1])).toEqual([0, 0, 1]);
    const top = towardFront(new three.Vector3(0, 0, 1), camera);
    expect(after(top, [0, 0, 1])).toEqual([0, -1, 0]);
  });
  it("turn a back that was clicked from behind", () => {
    expect(after(towardFront(new three.Vector3(-1, 0, 0), camera), [1, 0, 0])).toEqual([0, -1, 0]);
  });
  it("come round after four quarters, and name the axis that is up", () => {
    const once = quarter("x");
    expect(after(once, [0, 1, 0])).toEqual([0, 0, 1]);
    expect(upAxis(once)).toBe("y");
    expect(upAxis(UPRIGHT)).toBe("z");
    expect(after(quarter("x", true), after(once, [1, 2, 3]) as [number, number, number])).toEqual([1, 2, 3]);
    expect(upAxis(upTurn(UPRIGHT, "x", true))).toBe("-x");
  });
});

describe("planes", () => {
  const around = new three.Box3(new three.Vector3(-50, -20, 0), new three.Vector3(50, 20, 30));
  it("begin with the cut face toward the viewer", () => {
    const look = new three.Vector3(-1, 1, -1);
    for (const axis of ["x", "y", "z"] as const) expect(planeOf(begun(axis, around, look), new three.Vector3()).normal.dot(look)).toBeLessThan(0);
  });
  it("are moved along their normal, no further than the model", () => {
    const cut = begun("x", around, new three.Vector3(-1, 0, 0));
    expect(shifted(cut, around, 12).offset).toBe(12);
    expect(shifted({ ...cut, flip: true }, around, 12).offset).toBe(-12);
    expect(shifted(cut, around, 900).offset).toBe(50);
  });
  it("are tilted so that the handle goes where it is dragged", () => {
    const cut = begun("z", around, new three.Vector3(0, 0, -1));
    for (const which of [0, 1] as const) {
      const arm = which === 0 ? new three.Vector3(0, 20, 0) : new three.Vector3(50, 0, 0);
      const made = tilted(cut, around, which, arm, 5);
      expect(made.tilt[which]).not.toBe(0);
      expect(made.tilt[1 - which]).toBe(0);
      // the plane has come up under the arm
      expect(planeOf(made, new three.Vector3()).normal.dot(arm)).toBeLessThan(0);
    }
  });
  it("keep each its own tilt, and take away what lies beyond any of them", () => {
    const x = { ...begun("x", around, new three.Vector3(-1, 0, 0)), tilt: [0, 15] as [number, number] };
    const both = withCut([x], begun("z", around, new three.Vector3(0, 0, -1)));
    expect(both.map((cut) => cut.along)).toEqual(["x", "z"]);
    expect(both[0]?.tilt).toEqual([0, 15]);
    const middle = around.getCenter(new three.Vector3());
    expect(beyond(both, middle, [40, 0, 1])).toBe(true);
    expect(beyond(both, middle, [-40, 0, 29])).toBe(true);
    expect(beyond(both, middle, [-40, 0, 1])).toBe(false);
  });
  it("meet a box in its outline", () => {
    const ends = crossing(box(20, 30, 40), placed(0, 0, 0), new three.Plane(new three.Vector3(0, 0, 1), -5));
    let length = 0;
    for (let k = 0; k < ends.length; k += 6) length += Math.hypot(...[0, 1, 2].map((n) => (ends[k + n] as number) - (ends[k + 3 + n] as number)));
    expect(length).toBeCloseTo(100, 6);
    expect(ends.filter((_, k) => k % 3 === 2).every((z) => Math.abs(z - 5) < 1e-9)).toBe(true);
  });
});

describe("displays", () => {
  it("are the standard's modes by faces and edges, and read back", () => {
    for (const [faces, row] of Object.entries(DISPLAY))
      for (const [edges, mode] of Object.entries(row)) {
        if (!mode) continue;
        expect(MODES).toHaveProperty(mode);
        expect(displayOf(mode)).toEqual({ faces, edges });
      }
    expect(displayOf("ShadedIllustration")).toBeNull();
  });
});

describe("a model that moves", () => {
  it("is drawn with about so many triangles, none of them beyond the part", () => {
    const ball = new three.SphereGeometry(10, 96, 64);
    ball.computeBoundingBox();
    for (const wanted of [40, 300, 2000]) {
      const rough = roughened(ball, wanted);
      const count = rough.index.length / 3;
      expect(count).toBeGreaterThan(wanted / 3);
      expect(count).toBeLessThan(wanted * 3);
      expect(rough.shading.length).toBe(count);
      for (let k = 0; k < rough.positions.length; k += 3)
        expect(Math.hypot(rough.positions[k] as number, rough.positions[k + 1] as number, rough.positions[k + 2] as number)).toBeLessThanOrEqual(10.001);
    }
  });
});
