import * as three from "three";
import { describe, expect, it } from "vitest";
import { extent, gapOf } from "./bodies";
import { towardFront, quarter, upAxis, upTurn } from "./orienting";
import { beyond, shifted, tilted, begun, planeOf, withCut } from "./cutting";
import { matrixOf, UPRIGHT, type Camera, type Edge, type Mesh, type Rows, type Triple } from "./model";
import { roughened } from "./coarse";
import { cutBorders, cutCorners } from "./cutCorners";
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

/** A box from the origin, with its faces and edges as the viewer has them. */
function boxed(x: number, y: number, z: number): Mesh {
  const geometry = box(x, y, z);
  geometry.translate(x / 2, y / 2, z / 2);
  const corner = (n: number): Triple => [n & 1 ? x : 0, n & 2 ? y : 0, n & 4 ? z : 0];
  const edges: Edge[] = [];
  const segments: number[] = [];
  for (let n = 0; n < 8; n++)
    for (const bit of [1, 2, 4])
      if (!(n & bit)) {
        const ends: [Triple, Triple] = [corner(n), corner(n | bit)];
        edges.push({ kind: "line", length: Math.hypot(...ends[1].map((v, k) => v - (ends[0][k] as number))), ends });
        segments.push(...ends[0], ...ends[1]);
      }
  // three's box has its sides in the order x+, x-, y+, y-, z+, z-, two triangles each
  const sides: [Triple, Triple][] = [
    [
      [x, 0, 0],
      [1, 0, 0],
    ],
    [
      [0, 0, 0],
      [-1, 0, 0],
    ],
    [
      [0, y, 0],
      [0, 1, 0],
    ],
    [
      [0, 0, 0],
      [0, -1, 0],
    ],
    [
      [0, 0, z],
      [0, 0, 1],
    ],
    [
      [0, 0, 0],
      [0, 0, -1],
    ],
  ];
  return {
    geometry,
    faceOf: Uint16Array.from([...Array(12).keys()].map((k) => k >> 1)),
    faces: sides.map(([point, direction]) => ({ kind: "plane" as const, point, direction, area: 1 })),
    segments: Float32Array.from(segments),
    edgeOf: Uint16Array.from(edges.map((_, n) => n)),
    edges,
  };
}

describe("cut faces", () => {
  it("have corners and borders that are exact", () => {
    const mesh = boxed(150, 60.3, 40);
    const plane = { normal: new three.Vector3(0, 0, 1), point: new three.Vector3(0, 0, 17.7) };
    const corners = cutCorners(mesh, placed(0, 0, 0), [plane]).map(({ at }) => at.toArray());
    expect(corners).toHaveLength(4);
    for (const [x, y, z] of corners) {
      expect(Math.min(Math.abs(x), Math.abs(x - 150))).toBeLessThan(1e-9);
      expect(Math.min(Math.abs(y), Math.abs(y - 60.3))).toBeLessThan(1e-9);
      expect(z).toBeCloseTo(17.7, 9);
    }
    const lengths = cutBorders(mesh, placed(0, 0, 0), [plane]).map(({ ends }) => ends[0].distanceTo(ends[1]));
    expect(lengths.sort((a, b) => a - b).map((own) => Number(own.toFixed(9)))).toEqual([60.3, 60.3, 150, 150]);
  });

  it("so have those of a part that is turned, and of a plane that leans", () => {
    const mesh = boxed(150, 60, 40);
    const normal = new three.Vector3(0, 1, 1).normalize();
    const found = cutCorners(mesh, placed(5, 6, 7, 0.4), [{ normal, point: new three.Vector3(5, 6, 37) }]);
    for (const { at } of found) expect(normal.dot(at.clone().sub(new three.Vector3(5, 6, 37)))).toBeCloseTo(0, 9);
    // an edge whose ends lie on both sides has one corner
    const side = (end: Triple) => normal.dot(new three.Vector3(...end).applyMatrix4(placed(5, 6, 7, 0.4)).sub(new three.Vector3(5, 6, 37))) > 0;
    expect(found).toHaveLength(mesh.edges.filter((edge) => side(edge.ends[0]) !== side(edge.ends[1])).length);
  });

  it("take circles where the plane meets them, by hand", () => {
    const steps = 48;
    const at = (n: number): Triple => [5 * Math.cos((2 * Math.PI * n) / steps), 5 * Math.sin((2 * Math.PI * n) / steps), 0];
    const edge: Edge = { kind: "circle", length: 10 * Math.PI, closed: true, centre: [0, 0, 0], axis: [0, 0, 1], diameter: 10, ends: [at(0), at(0)] };
    const segments = Float32Array.from([...Array(steps).keys()].flatMap((n) => [...at(n), ...at(n + 1)]));
    const mesh: Mesh = { geometry: box(1, 1, 1), faceOf: new Uint16Array(), faces: [], segments, edgeOf: new Uint16Array(steps), edges: [edge] };
    const found = cutCorners(mesh, placed(0, 0, 0), [{ normal: new three.Vector3(1, 0, 0), point: new three.Vector3(3, 0, 0) }]);
    expect(found.map((own) => own.at.toArray().map((v) => Number(v.toFixed(9)) + 0)).sort((a, b) => (a[1] as number) - (b[1] as number))).toEqual([
      [3, -4, 0],
      [3, 4, 0],
    ]);
  });
});
