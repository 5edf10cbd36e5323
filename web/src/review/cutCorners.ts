import * as three from "three";
import { vector, type Edge, type Mesh } from "./model";

/** A plane that cuts: its normal, toward the side that is away, and a point of it, in the world's axes. */
export interface Plane {
  normal: three.Vector3;
  point: three.Vector3;
}

export interface Corner {
  at: three.Vector3;
  plane: Plane;
}

/** A straight border of a cut face, from corner to corner, mm. */
export interface Border {
  ends: [three.Vector3, three.Vector3];
  plane: Plane;
}

const NEAR = 1e-3;
const off = (plane: Plane, p: three.Vector3) => plane.normal.dot(p) - plane.normal.dot(plane.point);

/** Where a plane meets the circle of an edge: both places, exactly; none where it does not, or lies in it. */
function onCircle(edge: Edge, world: three.Matrix4, plane: Plane): three.Vector3[] {
  if (!edge.centre || !edge.axis || !edge.diameter) return [];
  const centre = vector(edge.centre).applyMatrix4(world);
  const axis = vector(edge.axis).transformDirection(world);
  const radius = (edge.diameter / 2) * Math.cbrt(Math.abs(world.determinant()));
  // within the circle's plane, toward the cutting one
  const toward = plane.normal.clone().addScaledVector(axis, -plane.normal.dot(axis));
  const share = toward.length();
  if (share < 1e-9) return [];
  toward.divideScalar(share);
  const along = -off(plane, centre) / share;
  if (Math.abs(along) >= radius) return [];
  const beside = axis.clone().cross(toward);
  const half = Math.sqrt(radius * radius - along * along);
  return [1, -1].map((side) =>
    centre
      .clone()
      .addScaledVector(toward, along)
      .addScaledVector(beside, side * half),
  );
}

/**
 * Where a plane meets the edges of a mesh, as exactly as these are known: lines by their ends, arcs by their circles. What is
 * known by its chords alone gives no corner.
 */
function cornersOn(mesh: Mesh, world: three.Matrix4, plane: Plane): three.Vector3[] {
  const found: three.Vector3[] = [];
  const [a, b] = [new three.Vector3(), new three.Vector3()];
  const keep = (p: three.Vector3) => {
    if (!found.some((own) => own.distanceTo(p) < NEAR)) found.push(p);
  };
  for (let k = 0; k < mesh.edgeOf.length; k++) {
    const edge = mesh.edges[mesh.edgeOf[k] as number] as Edge;
    if (edge.kind === "curve") continue;
    a.fromArray(mesh.segments, k * 6).applyMatrix4(world);
    b.fromArray(mesh.segments, k * 6 + 3).applyMatrix4(world);
    const [da, db] = [off(plane, a), off(plane, b)];
    if (da > NEAR === db > NEAR && da < -NEAR === db < -NEAR) continue;
    if (edge.kind === "line") {
      const [p, q] = edge.ends.map((end) => vector(end).applyMatrix4(world)) as [three.Vector3, three.Vector3];
      const [dp, dq] = [off(plane, p), off(plane, q)];
      if (Math.abs(dp - dq) > 1e-9 && dp * dq <= 0) keep(p.lerp(q, dp / (dp - dq)));
      continue;
    }
    const chord = a.clone().lerp(b, Math.abs(da - db) > 1e-12 ? da / (da - db) : 0.5);
    const both = onCircle(edge, world, plane).sort((one, other) => one.distanceTo(chord) - other.distanceTo(chord));
    if (both[0] && both[0].distanceTo(chord) <= a.distanceTo(b)) keep(both[0]);
  }
  return found;
}

/** The corners of the faces that planes cut of a part. */
export function cutCorners(mesh: Mesh, world: three.Matrix4, planes: readonly Plane[]): Corner[] {
  return planes.flatMap((plane) => cornersOn(mesh, world, plane).map((at) => ({ at, plane })));
}

/** Where a plane crosses the triangles of a plane face: from where to where along a direction. */
function spansOf(mesh: Mesh, face: number, world: three.Matrix4, plane: Plane, origin: three.Vector3, along: three.Vector3): [number, number][] {
  const spans: [number, number][] = [];
  const at = mesh.geometry.getAttribute("position");
  const index = (mesh.geometry.getIndex() as three.BufferAttribute).array;
  const corners = [new three.Vector3(), new three.Vector3(), new three.Vector3()] as const;
  for (let k = 0; k < mesh.faceOf.length; k++) {
    if (mesh.faceOf[k] !== face) continue;
    corners.forEach((corner, n) => corner.fromBufferAttribute(at, index[3 * k + n] as number).applyMatrix4(world));
    const met: number[] = [];
    for (let n = 0; n < 3; n++) {
      const [p, q] = [corners[n] as three.Vector3, corners[(n + 1) % 3] as three.Vector3];
      const [dp, dq] = [off(plane, p), off(plane, q)];
      if (dp > 0 === dq > 0) continue;
      met.push(
        p
          .clone()
          .lerp(q, dp / (dp - dq))
          .sub(origin)
          .dot(along),
      );
    }
    if (met.length === 2) spans.push([Math.min(...met), Math.max(...met)]);
  }
  spans.sort((one, other) => one[0] - other[0]);
  const joined: [number, number][] = [];
  for (const span of spans) {
    const last = joined.at(-1);
    if (last && span[0] <= last[1] + NEAR) last[1] = Math.max(last[1], span[1]);
    else joined.push([...span]);
  }
  return joined;
}

/** The straight borders of the faces that planes cut of a part: where they cross its plane faces, from corner to corner. */
export function cutBorders(mesh: Mesh, world: three.Matrix4, planes: readonly Plane[]): Border[] {
  const found: Border[] = [];
  for (const plane of planes) {
    const corners = cornersOn(mesh, world, plane);
    if (corners.length < 2) continue;
    mesh.faces.forEach((face, number) => {
      if (face.kind !== "plane" || !face.point || !face.direction) return;
      const normal = vector(face.direction).transformDirection(world);
      const along = normal.clone().cross(plane.normal);
      if (along.length() < 1e-6) return;
      along.normalize();
      const point = vector(face.point).applyMatrix4(world);
      const on = corners.filter((corner) => Math.abs(normal.dot(corner.clone().sub(point))) < NEAR);
      for (const span of spansOf(mesh, number, world, plane, point, along)) {
        // of the triangles only which corners belong together: their own places are rounded
        const ends = span.map((place) => on.find((corner) => Math.abs(corner.clone().sub(point).dot(along) - place) < 0.02));
        if (ends[0] && ends[1] && ends[0] !== ends[1]) found.push({ ends: [ends[0], ends[1]], plane });
      }
    });
  }
  return found;
}
