import * as three from "three";
import { cutBorders, cutCorners, type Plane } from "./cutCorners";
import { OF_PARTS, type Measure, type Pick } from "./measuring";
import { triple, vector, type Edge, type Face, type Mesh, type Node, type Triple } from "./model";

export interface Hit {
  node: Node;
  mesh: Mesh;
  world: three.Matrix4;
  /** The face that was hit, and where, in the world's axes. */
  face: number;
  at: three.Vector3;
  /** The normal of the plane, where what was hit is the face that it cut. */
  cut?: three.Vector3;
  /** The planes that cut the model, those that fill what they cut, and whether a place is away with it. */
  planes?: readonly Plane[];
  gone?: (at: three.Vector3) => boolean;
}

const POINT_PIXELS = 11;
const EDGE_PIXELS = 12;
type Screen = (p: three.Vector3) => [number, number];

/** The nearest point of a segment on the screen: how far, and where along. */
function near(p: [number, number], a: [number, number], b: [number, number]): [number, number] {
  const [dx, dy] = [b[0] - a[0], b[1] - a[1]];
  const square = dx * dx + dy * dy;
  const along = square ? Math.min(1, Math.max(0, ((p[0] - a[0]) * dx + (p[1] - a[1]) * dy) / square)) : 0;
  return [Math.hypot(p[0] - a[0] - along * dx, p[1] - a[1] - along * dy), along];
}

interface Close {
  edge: number;
  off: number;
  at: three.Vector3;
}

/** Edges of the part that was hit, by how near they come to the pointer; each once. */
function edgesNear(hit: Hit, pointer: [number, number], screen: Screen, reach: number, wanted: (edge: Edge) => boolean): Close[] {
  const found = new Map<number, Close>();
  const { segments, edgeOf, edges } = hit.mesh;
  const [a, b] = [new three.Vector3(), new three.Vector3()];
  for (let k = 0; k < edgeOf.length; k++) {
    const number = edgeOf[k] as number;
    if (!wanted(edges[number] as Edge)) continue;
    a.fromArray(segments, k * 6).applyMatrix4(hit.world);
    b.fromArray(segments, k * 6 + 3).applyMatrix4(hit.world);
    const [off, along] = near(pointer, screen(a), screen(b));
    const known = found.get(number);
    if (off <= reach && (!known || off < known.off)) found.set(number, { edge: number, off, at: a.clone().lerp(b, along) });
  }
  return [...found.values()].sort((one, other) => one.off - other.off);
}

const scaleOf = (world: three.Matrix4) => Math.cbrt(Math.abs(world.determinant()));
const moved = (world: three.Matrix4, p: Triple): Triple => triple(vector(p).applyMatrix4(world));
const turned = (world: three.Matrix4, d: Triple): Triple => triple(vector(d).transformDirection(world));

function edgePick(hit: Hit, close: Close): Pick {
  const edge = hit.mesh.edges[close.edge] as Edge;
  const by = scaleOf(hit.world);
  const pick: Pick = { kind: edge.kind, node: hit.node.name, at: triple(close.at), length: edge.length * by };
  if (edge.kind === "line") pick.ends = [moved(hit.world, edge.ends[0]), moved(hit.world, edge.ends[1])];
  if (edge.kind === "circle" && edge.centre && edge.axis && edge.diameter)
    Object.assign(pick, { centre: moved(hit.world, edge.centre), direction: turned(hit.world, edge.axis), diameter: edge.diameter * by });
  return pick;
}

function facePick(hit: Hit): Pick {
  if (hit.cut) return { kind: "plane", node: hit.node.name, at: triple(hit.at), direction: triple(hit.cut) };
  const face = hit.mesh.faces[hit.face] as Face;
  const pick: Pick = { kind: face.kind === "other" ? "surface" : face.kind, node: hit.node.name, at: triple(hit.at) };
  if (face.direction) pick.direction = turned(hit.world, face.direction);
  if (face.kind === "plane" && face.point && pick.direction) {
    // onto the plane itself: a triangle's depth on the screen is not as fine
    const normal = vector(pick.direction);
    const off = hit.at
      .clone()
      .sub(vector(moved(hit.world, face.point)))
      .dot(normal);
    pick.at = triple(hit.at.clone().addScaledVector(normal, -off));
  }
  if (face.kind === "round" && face.point && face.diameter) {
    pick.centre = moved(hit.world, face.point);
    pick.diameter = face.diameter * scaleOf(hit.world);
  }
  return pick;
}

/** Whether the pointer is still where the part was hit. */
function over(hit: Hit, pointer: [number, number], screen: Screen): boolean {
  const [x, y] = screen(hit.at);
  return Math.hypot(x - pointer[0], y - pointer[1]) < 2;
}

/** The straight border of a cut face that comes nearest to the pointer, as a line. */
function borderNear(hit: Hit, pointer: [number, number], screen: Screen, reach: number): Pick | null {
  let best: { off: number; pick: Pick } | null = null;
  for (const { ends } of cutBorders(hit.mesh, hit.world, hit.planes ?? [])) {
    const [a, b] = ends;
    if (hit.gone?.(a.clone().lerp(b, 0.5))) continue;
    const [off, along] = near(pointer, screen(a), screen(b));
    if (off > reach || (best && off >= best.off)) continue;
    const pick: Pick = { kind: "line", node: hit.node.name, at: triple(a.clone().lerp(b, along)), length: a.distanceTo(b), ends: [triple(a), triple(b)] };
    best = { off, pick };
  }
  return best && (best as { pick: Pick }).pick;
}

const offOf = (pick: Pick, pointer: [number, number], screen: Screen): [number, number] => {
  const [x, y] = screen(vector(pick.at));
  return [x - pointer[0], y - pointer[1]];
};

/** Ends of edges, corners of cut faces and centres of circles near the pointer, then a place on an edge, then on the face. */
function pointPick(hit: Hit, pointer: [number, number], screen: Screen): Pick | null {
  let best: { off: number; pick: Pick } | null = null;
  const offer = (kind: Pick["kind"], at: Triple) => {
    const p = screen(vector(at));
    const off = Math.hypot(p[0] - pointer[0], p[1] - pointer[1]);
    if (off <= POINT_PIXELS && (!best || off < best.off)) best = { off, pick: { kind, node: hit.node.name, at } };
  };
  const gone = hit.gone ?? (() => false);
  for (const edge of hit.mesh.edges) {
    // what a plane has taken away is not seen, and takes no hold
    if (!edge.closed) for (const end of edge.ends) if (!gone(vector(moved(hit.world, end)))) offer("vertex", moved(hit.world, end));
    if (edge.centre) offer("centre", moved(hit.world, edge.centre));
  }
  for (const corner of cutCorners(hit.mesh, hit.world, hit.planes ?? [])) if (!gone(corner.at)) offer("vertex", triple(corner.at));
  if (best) return (best as { pick: Pick }).pick;
  if (!over(hit, pointer, screen)) return null;
  const border = borderNear(hit, pointer, screen, EDGE_PIXELS / 2);
  if (border) return { kind: "on an edge", node: hit.node.name, at: border.at };
  const [close] = edgesNear(hit, pointer, screen, EDGE_PIXELS / 2, () => true);
  if (close) return { kind: "on an edge", node: hit.node.name, at: triple(close.at) };
  const face = facePick(hit);
  return { ...face, kind: face.kind === "surface" ? "surface" : "on a face" };
}

/** What a measuring tool takes hold of at the pointer; null for nothing. */
export function snap(tool: Measure, hit: Hit, pointer: [number, number], screen: Screen): Pick | null {
  if (tool === "points") return pointPick(hit, pointer, screen);
  if (tool === "edge") {
    const border = borderNear(hit, pointer, screen, EDGE_PIXELS);
    const [close] = edgesNear(hit, pointer, screen, EDGE_PIXELS, () => true);
    // one that is away is not seen
    if (!close || hit.gone?.(close.at)) return border;
    return border && Math.hypot(...offOf(border, pointer, screen)) < close.off ? border : edgePick(hit, close);
  }
  const face = facePick(hit);
  // of a whole part any place does
  if (OF_PARTS.includes(tool)) return { ...face, kind: "on a face" };
  if (tool === "diameter") {
    const [close] = edgesNear(hit, pointer, screen, EDGE_PIXELS, (edge) => edge.kind === "circle");
    return close ? edgePick(hit, close) : face.kind === "round" ? face : null;
  }
  if (tool === "angle") {
    const [close] = edgesNear(hit, pointer, screen, EDGE_PIXELS / 2, (edge) => edge.kind === "line");
    if (close) return edgePick(hit, close);
  }
  return face.kind === "plane" || (tool === "angle" && face.kind === "round") ? face : null;
}
