import * as three from "three";
import { describe, expect, it } from "vitest";
import { contained, distance, fitted, inPerspective, rollOf, spanAtTarget, turned, withRoll, zoomed } from "./camera";
import { clipping, cutOf, planeOf, type Cut } from "./cutting";
import { asCsv, asText, axesInWords, inWords, measure, radiusInWords, type Pick, type Reading } from "./measuring";
import { triple, type Camera, type Triple } from "./model";

const camera: Camera = { position: [0, -100, 0], target: [0, 0, 0], up: [0, 0, 1], perspective: false, span: 50 };
const pick = (fields: Partial<Pick>): Pick => ({ kind: "vertex", node: "a", at: [0, 0, 0], ...fields });
const near = (one: Triple, other: Triple) => one.forEach((v, k) => expect(v).toBeCloseTo(other[k] as number, 6));

describe("cameras", () => {
  it("turns about the point looked at and stays as far away", () => {
    const other = turned(camera, 0.3, -0.2);
    expect(distance(other)).toBeCloseTo(100);
    near(other.target, camera.target);
    expect(rollOf(other)).toBeCloseTo(0);
  });
  it("reads and sets its roll", () => {
    expect(rollOf(withRoll(camera, 30))).toBeCloseTo(30);
    expect(rollOf(withRoll(camera, -45))).toBeCloseTo(-45);
  });
  it("keeps the picture at the point looked at when the projection changes", () => {
    const round = inPerspective(camera, true);
    expect(spanAtTarget(round)).toBeCloseTo(50);
    expect(inPerspective(round, false).span).toBeCloseTo(50);
  });
  it("is whole in a picture of another shape", () => {
    // as wide as high: what was 2 wide for 1 high has to be seen twice as wide
    expect(contained(camera, 2, 1).span).toBeCloseTo(100);
    expect(contained(camera, 2, 3)).toBe(camera);
    expect(contained(camera, 0.5, 1).span).toBeCloseTo(100);
    const round = contained(inPerspective(camera, true), 2, 1);
    expect(spanAtTarget(round)).toBeCloseTo(100);
  });
  it("zooms by the span or by the distance", () => {
    expect(zoomed(camera, 0.5).span).toBe(25);
    expect(distance(zoomed(inPerspective(camera, true), 2)) / distance(inPerspective(camera, true))).toBeCloseTo(2);
  });
  it.each([true, false])("takes all points in, perspective %s", (perspective) => {
    const points = [0, 1, 2, 3, 4, 5, 6, 7].map((k) => new three.Vector3(k & 1 ? 60 : -20, k & 2 ? 10 : 0, k & 4 ? 30 : -30));
    const made = fitted([-1, 1, -1], [0, 0, 1], points, 1.5, perspective);
    const seen = perspective
      ? new three.PerspectiveCamera(made.span, 1.5, 1, 1e4)
      : new three.OrthographicCamera(-made.span * 0.75, made.span * 0.75, made.span / 2, -made.span / 2, -1e4, 1e4);
    seen.up.set(...made.up);
    seen.position.set(...made.position);
    seen.lookAt(...made.target);
    seen.updateMatrixWorld();
    const reach = Math.max(...points.map((p) => p.clone().project(seen)).flatMap((p) => [Math.abs(p.x), Math.abs(p.y)]));
    expect(reach).toBeLessThanOrEqual(1);
    expect(reach).toBeGreaterThan(0.85);
  });
});

describe("cutting planes", () => {
  const cut: Cut = { along: "y", offset: 12, tilt: [0, 30], flip: false, filled: true, ghost: false, hatched: false };
  it("take away what lies beyond, and with flip what lies before", () => {
    const { normal, point } = planeOf({ ...cut, tilt: [0, 0] }, new three.Vector3());
    near(triple(normal), [0, 1, 0]);
    expect(point.y).toBe(12);
    const kept = clipping({ ...cut, tilt: [0, 0] }, new three.Vector3());
    expect(kept.distanceToPoint(new three.Vector3(0, 11, 0))).toBeGreaterThan(0);
    expect(kept.distanceToPoint(new three.Vector3(0, 13, 0))).toBeLessThan(0);
  });
  it.each([cut, { ...cut, flip: true }, { ...cut, along: "x" as const, tilt: [-20, 0] as [number, number] }])("come back from a file", (own) => {
    const axis = ["x", "y", "z"].indexOf(own.along);
    const turns = [0, 1, 2].map((k) => (k === axis ? null : 0)) as [number | null, number | null, number | null];
    const others = [0, 1, 2].filter((k) => k !== axis);
    turns[others[0] as number] = own.tilt[0] + (own.flip ? 180 : 0);
    turns[others[1] as number] = own.tilt[1];
    const centre: Triple = [1, 2, 3];
    centre[axis] = own.offset;
    expect(cutOf({ centre, turns, filled: own.filled, ghost: own.ghost })).toEqual(own);
  });
});

describe("measuring", () => {
  it("takes the distance of two points", () => {
    const found = measure("points", [pick({}), pick({ kind: "centre", at: [3, 4, 12] })]);
    expect(found).toMatchObject({ value: 13, what: "vertex to centre", coarse: false });
  });
  it("takes the distance of parallel faces, and refuses others with their angle", () => {
    const one = pick({ kind: "plane", direction: [0, 0, 1] });
    expect(measure("faces", [one, pick({ kind: "plane", direction: [0, 0, -1], at: [50, 20, 8] })])).toMatchObject({ value: 8 });
    expect(measure("faces", [one, pick({ kind: "plane", direction: [0, 1, 1], at: [0, 0, 8] })])).toContain("45.000°");
    expect(measure("faces", [one, pick({ kind: "round", direction: [0, 0, 1] })])).toContain("Only plane faces");
  });
  it("takes angles of edges, of faces, and of an edge to a face", () => {
    const edge = pick({
      kind: "line",
      ends: [
        [0, 0, 0],
        [1, 0, 1],
      ],
    });
    const floor = pick({ kind: "plane", direction: [0, 0, 1] });
    expect(
      measure("angle", [
        edge,
        pick({
          kind: "line",
          ends: [
            [0, 0, 0],
            [5, 0, 0],
          ],
        }),
      ]),
    ).toHaveProperty("value", expect.closeTo(45));
    expect(measure("angle", [edge, floor])).toHaveProperty("value", expect.closeTo(45));
    expect(measure("angle", [floor, pick({ kind: "plane", direction: [0, 1, 0] })])).toHaveProperty("value", expect.closeTo(90));
  });
  it("takes diameters and edge lengths, and says where there are none", () => {
    const rim = pick({ kind: "circle", at: [15, 0, 0], centre: [0, 0, 0], direction: [0, 0, 1], diameter: 30, length: 94.248 });
    expect(measure("diameter", [rim])).toMatchObject({ value: 30, from: [-15, 0, 0], to: [15, 0, 0] });
    expect(measure("edge", [rim])).toMatchObject({ value: 94.248, what: "arc" });
    expect(measure("diameter", [pick({})])).toContain("not round");
    expect(measure("edge", [pick({})])).toContain("no edge");
  });
  it("is coarse where a curved surface has a part in it", () => {
    expect(measure("points", [pick({}), pick({ kind: "surface", at: [1, 0, 0] })])).toMatchObject({ coarse: true });
  });
  it("is told in millimetres or inches", () => {
    expect(inWords({ kind: "diameter", value: 25.4 }, "mm")).toBe("⌀25.400 mm");
    expect(inWords({ kind: "points", value: 25.4 }, "in")).toBe("1.0000 in");
    expect(radiusInWords({ kind: "diameter", value: 25.4 }, "mm")).toBe("R12.700 mm");
    expect(radiusInWords({ kind: "points", value: 25.4 }, "mm")).toBe("");
    expect(inWords({ kind: "mass", value: 453.59237 }, "in")).toBe("1.0000 lb");
    expect(inWords({ kind: "mass", value: 1234.5 }, "mm")).toBe("1.234 kg");
    expect(inWords({ kind: "volume", value: 25.4 ** 3 }, "in")).toBe("1.00000 in³");
    expect(inWords({ kind: "angle", value: 30 }, "in")).toBe("30.000°");
    expect(inWords({ kind: "points", value: 0.254 }, "thou")).toBe("10.0 thou");
  });

  it("tells how far it is along each axis, and hands readings on", () => {
    const found = measure("points", [pick({ at: [1, 2, 3] }), pick({ kind: "centre", at: [4, -2, 15] })]);
    if (typeof found === "string") throw new Error(found);
    const reading: Reading = { ...found, id: "1", parts: [] };
    expect(axesInWords(reading, "mm")).toBe("Δx 3.000 mm  Δy -4.000 mm  Δz 12.000 mm");
    expect(axesInWords({ kind: "edge", from: [0, 0, 0], to: [1, 0, 0] }, "mm")).toBe("");
    const angle: Reading = { id: "2", parts: [], kind: "angle", what: 'angle, "steep"', value: 30, from: [0, 0, 0], to: [1, 0, 0], coarse: true };
    expect(asCsv([reading, angle], 0.05).split("\r\n")).toEqual([
      "measure,what,value,unit,dx,dy,dz,tolerance",
      `points,${reading.what},13,mm,3,-4,12,`,
      'angle,"angle, ""steep""",30,°,,,,0.05',
      "",
    ]);
    expect(asText([reading], "mm")).toBe(`${reading.what}\t13.000 mm\tΔx 3.000 mm  Δy -4.000 mm  Δz 12.000 mm`);
  });
});
