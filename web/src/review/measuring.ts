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

export type Measure = "points" | "edge" | "diameter" | "angle" | "faces" | "area" | "volume" | "mass" | "gap";
/** Whole parts are picked for these. */
export const OF_PARTS: readonly Measure[] = ["area", "volume", "mass", "gap"];

export interface Reading {
  id: string;
  kind: Measure;
  what: string;
  /** mm, mm², mm³ or g, or degrees of an angle. */
  value: number;
  from: Triple;
  to: Triple;
  /** Whether a curved surface, known by its triangles alone, has a part in it. */
  coarse: boolean;
  /** The nodes that were picked. */
  parts: string[];
}

export const MEASURES: Record<Measure, string> = {
  points: texts.pointToPoint,
  edge: texts.edgeLength,
  diameter: texts.diameter,
  angle: texts.angle,
  faces: texts.parallelFaces,
  gap: texts.gap,
  area: texts.area,
  volume: texts.volume,
  mass: texts.mass,
};

export const HINTS: Record<Measure, string> = {
  points: texts.clickTwoPointsEndsCentres,
  edge: texts.clickAnEdge,
  diameter: texts.clickARoundEdgeOr,
  angle: texts.clickTwoStraightEdgesFaces,
  faces: texts.clickTwoFacesThatAre,
  gap: texts.clickTwoParts,
  area: texts.clickAPart,
  volume: texts.clickAPart,
  mass: texts.clickAPart,
};

export const PICKS: Record<Measure, 1 | 2> = { points: 2, edge: 1, diameter: 1, angle: 2, faces: 2, gap: 2, area: 1, volume: 1, mass: 1 };
const PARALLEL = 1e-4;

const direction = (pick: Pick) => {
  if (pick.ends) return vector(pick.ends[1]).sub(vector(pick.ends[0])).normalize();
  return pick.direction ? vector(pick.direction).normalize() : null;
};

/** A reading before it has a name. */
export type Found = Omit<Reading, "id" | "parts">;

/** What two or one picks come to; a sentence when they come to nothing. */
export function measure(kind: Measure, picks: readonly Pick[]): Found | string {
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
  if (kind === "points")
    return { kind, what: texts.to(shortly(a.kind), shortly(b.kind)), value: vector(a.at).distanceTo(vector(b.at)), from: a.at, to: b.at, coarse };
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

/** What was taken hold of, in one word. */
const shortly = (kind: Pick["kind"]) => (kind === "on an edge" ? "edge" : kind === "on a face" ? "face" : kind);

const INCH = 25.4;

/** What lengths are shown in; a thou is a thousandth of an inch. */
export type Unit = "mm" | "in" | "thou";

/** A length as it is shown: three decimals of a millimetre, four of an inch, one of a thou. */
function length(millimetres: number, unit: Unit, sign = ""): string {
  if (unit === "mm") return texts.mm(sign, millimetres.toFixed(3));
  if (unit === "in") return texts.inWord(sign, (millimetres / INCH).toFixed(4));
  return texts.thouWord(sign, ((millimetres / INCH) * 1000).toFixed(1));
}

/** A reading as it is shown; an angle with three decimals of a degree. */
export function inWords(reading: Measured, unit: Unit): string {
  if (reading.kind === "angle") return `${reading.value.toFixed(3)}°`;
  if (reading.kind === "area") return unit === "mm" ? texts.mm2Word(reading.value.toFixed(1)) : texts.in2Word((reading.value / INCH ** 2).toFixed(4));
  if (reading.kind === "volume") return unit === "mm" ? texts.mm3Word(reading.value.toFixed(1)) : texts.in3Word((reading.value / INCH ** 3).toFixed(5));
  if (reading.kind === "mass") return unit === "mm" ? massInWords(reading.value) : texts.lbWord((reading.value / POUND).toFixed(4));
  return length(reading.value, unit, reading.kind === "diameter" ? "⌀" : "");
}

const POUND = 453.59237;
const massInWords = (grams: number) => (grams < 1000 ? texts.gWord(grams.toFixed(1)) : texts.kgWord((grams / 1000).toFixed(3)));

type Measured = { kind: Measure; value: number };

/** How far it is along the model's three axes from the first to the second of what was picked; null where there are no two. */
export function alongAxes(reading: Ends): Triple | null {
  if (reading.kind !== "points" && reading.kind !== "faces" && reading.kind !== "gap") return null;
  return [0, 1, 2].map((axis) => (reading.to[axis] as number) - (reading.from[axis] as number)) as Triple;
}

/** The radius of what has a diameter, in words; '' of anything else. */
export const radiusInWords = (reading: Measured, unit: Unit): string => (reading.kind === "diameter" ? length(reading.value / 2, unit, "R") : "");

type Ends = { kind: Measure; from: Triple; to: Triple };

const AXES = ["Δx", "Δy", "Δz"] as const;

/** The same in words; '' where there are no two. */
export function axesInWords(reading: Ends, unit: Unit): string {
  // what rounds to nothing has no sign
  const plain = (value: number) => length(Math.abs(value) < 5e-7 ? 0 : value, unit);
  return (alongAxes(reading) ?? []).map((value, axis) => `${AXES[axis]} ${plain(value)}`).join("  ");
}

const UNITS: Partial<Record<Measure, string>> = { angle: "°", area: "mm²", volume: "mm³", mass: "g" };

/** Readings as CSV (RFC 4180), lengths in mm whatever they are shown in, angles in degrees. */
export function asCsv(readings: readonly Reading[], tolerance: number): string {
  const number = (value: number) => String(Number(value.toFixed(6)));
  const quoted = (text: string) => (/[",\n]/.test(text) ? `"${text.replace(/"/g, '""')}"` : text);
  const rows = readings.map((own) => [
    own.kind,
    own.what,
    number(own.value),
    UNITS[own.kind] ?? "mm",
    ...(alongAxes(own)?.map(number) ?? ["", "", ""]),
    own.coarse ? number(tolerance) : "",
  ]);
  const head = ["measure", "what", "value", "unit", "dx", "dy", "dz", "tolerance"];
  return [head, ...rows].map((row) => `${row.map(quoted).join(",")}\r\n`).join("");
}

/** Readings as lines of text, as they are shown. */
export const asText = (readings: readonly Reading[], unit: Unit) =>
  readings.map((own) => [own.what, inWords(own, unit), axesInWords(own, unit)].filter(Boolean).join("\t")).join("\n");
