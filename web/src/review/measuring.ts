import * as three from "three";
import { triple, vector, type Triple } from "./model";
import * as texts from "./texts";

/** What a measuring tool took hold of, in the model's axes, mm. */
export interface Pick {
  kind: "vertex" | "centre" | "on an edge" | "on a face" | "line" | "circle" | "curve" | "plane" | "round" | "surface";
  node: string;
  at: Triple;
  /** Of a line its ends; of the others none. */
  ends?: [Triple, Triple];
  /** Of a circle or round face the axis, of a plane the normal. */
  direction?: Triple;
  centre?: Triple;
  diameter?: number;
  length?: number;
}

export type Measure = "points" | "edge" | "diameter" | "angle" | "faces";

export interface Reading {
  id: number;
  kind: Measure;
  what: string;
  /** mm, or degrees of an angle. */
  value: number;
  from: Triple;
  to: Triple;
  /** Whether a curved surface, known by its triangles alone, has a part in it. */
  coarse: boolean;
}

export const MEASURES: Record<Measure, string> = {
  points: texts.pointToPoint,
  edge: texts.edgeLength,
  diameter: texts.diameter,
  angle: texts.angle,
  faces: texts.parallelFaces,
};

export const HINTS: Record<Measure, string> = {
  points: texts.clickTwoPointsEndsCentres,
  edge: texts.clickAnEdge,
  diameter: texts.clickARoundEdgeOr,
  angle: texts.clickTwoStraightEdgesFaces,
  faces: texts.clickTwoFacesThatAre,
};

export const PICKS: Record<Measure, 1 | 2> = { points: 2, edge: 1, diameter: 1, angle: 2, faces: 2 };
const PARALLEL = 1e-4;

const direction = (pick: Pick) => {
  if (pick.ends) return vector(pick.ends[1]).sub(vector(pick.ends[0])).normalize();
  return pick.direction ? vector(pick.direction).normalize() : null;
};

/** What two or one picks come to; a sentence when they come to nothing. */
export function measure(kind: Measure, picks: readonly Pick[]): Omit<Reading, "id"> | string {
  const [a, b] = picks;
  if (!a) return texts.nothingIsPicked;
  const coarse = picks.some((pick) => pick.kind === "surface" || (pick.kind === "on a face" && pick.diameter !== undefined));
  if (kind === "edge") {
    if (a.length === undefined) return texts.thatIsNoEdgeClick;
    const ends = a.ends ?? [a.at, a.at];
    return {
      kind,
      what: a.kind === "line" ? "edge" : a.kind === "circle" ? "arc" : "curve",
      value: a.length,
      from: ends[0],
      to: ends[1],
      coarse: a.kind === "curve",
    };
  }
  if (kind === "diameter") {
    if (a.diameter === undefined || !a.centre) return texts.thatIsNotRoundClick;
    const away = vector(a.at).sub(vector(a.centre));
    const axis = direction(a);
    if (axis) away.addScaledVector(axis, -away.dot(axis));
    away.setLength(a.diameter / 2);
    const centre = vector(a.at).sub(away);
    return { kind, what: texts.diameter2, value: a.diameter, from: triple(centre.clone().sub(away)), to: triple(centre.add(away)), coarse: false };
  }
  if (!b) return texts.oneMoreIsWanted;
  if (kind === "points") return { kind, what: texts.to(a.kind, b.kind), value: vector(a.at).distanceTo(vector(b.at)), from: a.at, to: b.at, coarse };
  const [u, v] = [direction(a), direction(b)];
  if (!u || !v) return kind === "faces" ? texts.onlyPlaneFacesHaveA : texts.anAngleWantsStraightEdges;
  if (kind === "angle") {
    const faces = (pick: Pick) => pick.kind === "plane";
    // between an edge and a face the angle is the one to the face, not to its normal
    let angle = three.MathUtils.radToDeg(Math.acos(Math.min(1, Math.abs(u.dot(v)))));
    if (faces(a) !== faces(b)) angle = 90 - angle;
    return { kind, what: texts.angle2, value: angle, from: a.at, to: b.at, coarse };
  }
  if (a.kind !== "plane" || b.kind !== "plane") return texts.onlyPlaneFacesHaveA2;
  const off = u.clone().cross(v).length();
  if (off > PARALLEL) return texts.theseFacesAreNotParallel(three.MathUtils.radToDeg(Math.asin(Math.min(1, off))).toFixed(3));
  const gap = vector(b.at).sub(vector(a.at)).dot(u);
  return { kind, what: texts.facesApart, value: Math.abs(gap), from: a.at, to: triple(vector(a.at).addScaledVector(u, gap)), coarse };
}

const INCH = 25.4;

/** A reading as it is shown: three decimals of a millimetre, four of an inch, three of a degree. */
export function inWords(reading: Measured, unit: "mm" | "in"): string {
  if (reading.kind === "angle") return `${reading.value.toFixed(3)}°`;
  const sign = reading.kind === "diameter" ? "⌀" : "";
  return unit === "mm" ? texts.mm(sign, reading.value.toFixed(3)) : texts.inWord(sign, (reading.value / INCH).toFixed(4));
}

type Measured = { kind: Measure; value: number };
