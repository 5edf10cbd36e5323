import * as three from "three";
import { frameOf } from "./camera";
import type { Axis } from "./cutting";
import { matrixOf, rowsOf, vector, type Camera, type Rows, type Triple } from "./model";

const AXES: Record<Axis, Triple> = { x: [1, 0, 0], y: [0, 1, 0], z: [0, 0, 1] };

/** A quarter turn about an axis, counter-clockwise as seen from its end, or back. */
export const quarter = (axis: Axis, back = false): Rows => rowsOf(new three.Matrix4().makeRotationAxis(vector(AXES[axis]), ((back ? -1 : 1) * Math.PI) / 2));

/** The turn that brings a face to the front, square to whoever looks along y: what is up in the picture stays up. */
export function towardFront(normal: three.Vector3, camera: Camera): Rows {
  const n = normal.clone().normalize();
  const { look, up } = frameOf(camera);
  // the side that was clicked is the one that is seen
  if (n.dot(look) > 0) n.negate();
  const upward = up.addScaledVector(n, -up.dot(n));
  if (upward.length() < 1e-6) upward.set(0, 0, 1).addScaledVector(n, -n.z);
  // as near to an axis of the model as it is nearly square to one
  const near = Object.values(AXES).flatMap((axis) => [vector(axis), vector(axis).negate()]);
  const own = near.filter((axis) => Math.abs(axis.dot(n)) < 1e-6).sort((a, b) => b.dot(upward) - a.dot(upward))[0];
  const z = (own ?? upward).normalize();
  const x = z.clone().cross(n).normalize();
  const rows = new three.Matrix4().makeBasis(x, n.clone().negate(), z).transpose();
  return rowsOf(rows);
}

/** The turn after which an axis of the model, as it stands in its file, points up. */
export function upTurn(orientation: Rows, axis: Axis, down: boolean): Rows {
  const now = vector(AXES[axis])
    .multiplyScalar(down ? -1 : 1)
    .applyMatrix4(matrixOf(orientation));
  const q = new three.Quaternion().setFromUnitVectors(now, new three.Vector3(0, 0, 1));
  return rowsOf(new three.Matrix4().makeRotationFromQuaternion(q));
}

/** The axis of the model's file that points up now; "" for none of them. */
export function upAxis(orientation: Rows): string {
  for (const [axis, way] of Object.entries(AXES))
    for (const sign of [1, -1]) {
      const now = vector(way).multiplyScalar(sign).applyMatrix4(matrixOf(orientation));
      if (now.z > 1 - 1e-9) return (sign > 0 ? "" : "-") + axis;
    }
  return "";
}
