import * as three from "three";
import { Pictures } from "./pictures";
import * as texts from "./texts";

export type Triple = [number, number, number];

export interface Camera {
  position: Triple;
  target: Triple;
  up: Triple;
  perspective: boolean;
  /** What the shorter side of the picture takes in: degrees of a perspective view, else mm. */
  span: number;
}

export interface FilePlane {
  centre: Triple;
  turns: [number | null, number | null, number | null];
  filled: boolean;
  ghost: boolean;
}

/** A prepared view as it stands in a file. */
export interface FileView {
  id: string;
  name: string;
  camera: Camera;
  background: string;
  lighting: string;
  mode: string;
  states: Record<string, number | null>;
  /** Nodes that are drawn in a mode of their own. */
  drawn: Record<string, string>;
  cuts: FilePlane[];
}

export interface Edge {
  kind: "line" | "circle" | "curve";
  length: number;
  closed?: boolean;
  centre?: Triple;
  axis?: Triple;
  diameter?: number;
  ends: [Triple, Triple];
}

export interface Face {
  kind: "plane" | "round" | "other";
  point?: Triple;
  direction?: Triple;
  diameter?: number;
  area: number;
}

export interface Node {
  name: string;
  parent: string;
  /** Row by row, to the parent's axes. */
  matrix: number[];
  meshes: number[];
  /** By shading: its colour, how much it covers, and the picture that lies on it, by name. */
  materials: [string, number, string][];
  path: string;
}

type Indices = Uint16Array | Uint32Array;

export interface Mesh {
  geometry: three.BufferGeometry;
  faceOf: Indices;
  faces: Face[];
  segments: Float32Array;
  edgeOf: Indices;
  edges: Edge[];
}

/** A model as the viewer has it: decoded from a finished file, or made from a source. */
export interface Model {
  title: string;
  nodes: Node[];
  meshes: Mesh[];
  views: FileView[];
  unit: "mm" | "in";
  /** How far triangles may be from the surface, mm. */
  tolerance: number;
  first: number;
  groups: string[];
  /** What a review of it has kept, and what its parts are made of, g/mm³ by node; of files that say so. */
  kept?: readonly object[];
  densities?: Record<string, number>;
  size: number;
  /** How much wider than high prepared views are meant to be seen. */
  aspect?: number;
  page?: number;
  box?: [number, number, number, number];
  worlds: Map<string, three.Matrix4>;
  box3: three.Box3;
  pictures: Pictures;
}

type Place = [number, number];
/** The place of whole numbers, their count, and how many bytes each has. */
type Row = [number, number, number];

interface Head extends Omit<Model, "meshes" | "worlds" | "box3" | "pictures"> {
  version: number;
  /** The place of each picture's file, and how many bytes it has. */
  pictures: Record<string, Place>;
  meshes: {
    positions: Place;
    normals: Place;
    uv: Place;
    triangles: Row;
    faceOf: Row;
    groups: Triple[];
    segments: Place;
    edgeOf: Row;
    faces: Face[];
    edges: Edge[];
  }[];
}

const VERSION = 3;

/** A rotation by rows. */
export type Rows = [Triple, Triple, Triple];
export const UPRIGHT: Rows = [
  [1, 0, 0],
  [0, 1, 0],
  [0, 0, 1],
];

export const matrixOf = ([x, y, z]: Rows) => new three.Matrix4().set(...x, 0, ...y, 0, ...z, 0, 0, 0, 0, 1);
export const rowsOf = (matrix: three.Matrix4): Rows => {
  const e = matrix.elements;
  const clean = (v: number) => Math.round(v * 1e12) / 1e12 + 0;
  return [0, 1, 2].map((row) => [0, 1, 2].map((column) => clean(e[column * 4 + row] as number)) as Triple) as Rows;
};

/** Read a viewer's block: JSON, then the numbers that it names; the model turned as it is asked for. */
export function readPack(data: ArrayBuffer, orientation: Rows = UPRIGHT): Model {
  const size = new DataView(data).getUint32(0, true);
  const head = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, size))) as Head;
  if (head.version !== VERSION) throw new Error(texts.this3dModelIsOf);
  const start = 4 + size;
  const floats = ([at, count]: Place) => new Float32Array(data, start + at, count);
  const whole = ([at, count, width]: Row): Indices => new (width === 2 ? Uint16Array : Uint32Array)(data, start + at, count);
  const meshes = head.meshes.map((row): Mesh => {
    const geometry = new three.BufferGeometry();
    geometry.setAttribute("position", new three.BufferAttribute(floats(row.positions), 3));
    geometry.setAttribute("normal", new three.BufferAttribute(new Int16Array(data, start + row.normals[0], row.normals[1]), 3, true));
    if (row.uv[1]) geometry.setAttribute("uv", new three.BufferAttribute(floats(row.uv), 2));
    geometry.setIndex(new three.BufferAttribute(whole(row.triangles), 1));
    for (const [from, count, shading] of row.groups) geometry.addGroup(from, count, shading);
    geometry.computeBoundingBox();
    geometry.computeBoundingSphere();
    return { geometry, faceOf: whole(row.faceOf), faces: row.faces, segments: floats(row.segments), edgeOf: whole(row.edgeOf), edges: row.edges };
  });
  const worlds = new Map<string, three.Matrix4>();
  const box3 = new three.Box3();
  for (const node of head.nodes) {
    const own = new three.Matrix4().set(...(node.matrix as Parameters<three.Matrix4["set"]>));
    if (!node.parent) own.premultiply(matrixOf(orientation));
    const above = worlds.get(node.parent);
    const world = above ? above.clone().multiply(own) : own;
    worlds.set(node.name, world);
    for (const number of node.meshes) {
      const box = meshes[number]?.geometry.boundingBox;
      if (box) box3.union(box.clone().applyMatrix4(world));
    }
  }
  const files = Object.entries(head.pictures).map(([name, [at, count]]) => [name, new Uint8Array(data, start + at, count)] as const);
  return { ...head, meshes, worlds, box3, pictures: new Pictures(new Map(files)) };
}

/** The names of a node and of all beneath it. */
export function beneath(model: Model, name: string): string[] {
  const taken = new Set([name]);
  for (const node of model.nodes) if (taken.has(node.parent)) taken.add(node.name);
  return [...taken];
}

export const vector = (v: Triple) => new three.Vector3(...v);
export const triple = (v: three.Vector3): Triple => [v.x, v.y, v.z];
