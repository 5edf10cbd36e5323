import * as three from "three";
import type { FilePlane, Triple } from "./model";

export type Axis = "x" | "y" | "z";

/** A cutting plane as a person sets it; the same words as the server's. */
export interface Cut {
  along: Axis;
  offset: number;
  tilt: [number, number];
  flip: boolean;
  filled: boolean;
  ghost: boolean;
}

export const AXES: readonly Axis[] = ["x", "y", "z"];
const numberOf = (axis: Axis) => AXES.indexOf(axis);
const others = (axis: Axis) => [0, 1, 2].filter((k) => k !== numberOf(axis)) as [number, number];

/** The plane whose far side (where its normal points) is taken away. */
export function planeOf(cut: Cut, middle: three.Vector3): { normal: three.Vector3; point: three.Vector3 } {
  const normal = new three.Vector3().setComponent(numberOf(cut.along), 1);
  const angles = [cut.tilt[0] + (cut.flip ? 180 : 0), cut.tilt[1]];
  others(cut.along).forEach((axis, k) => {
    normal.applyAxisAngle(new three.Vector3().setComponent(axis, 1), three.MathUtils.degToRad(angles[k] ?? 0));
  });
  const point = middle.clone().setComponent(numberOf(cut.along), cut.offset);
  return { normal, point };
}

/** Three's clipping planes keep what lies on their positive side. */
export function clipping(cut: Cut, middle: three.Vector3): three.Plane {
  const { normal, point } = planeOf(cut, middle);
  return new three.Plane().setFromNormalAndCoplanarPoint(normal.negate(), point);
}

/** A file's plane in the words in which a person sets one. */
export function cutOf(plane: FilePlane): Cut {
  const at = Math.max(0, plane.turns.indexOf(null));
  const along = AXES[at] as Axis;
  const [first, second] = others(along).map((axis) => plane.turns[axis] ?? 0) as [number, number];
  const flip = Math.abs(first) > 90;
  return {
    along,
    offset: plane.centre[at] as number,
    tilt: [flip ? first - 180 : first, second],
    flip,
    filled: plane.filled,
    ghost: plane.ghost,
  };
}

/** How far a plane can be moved and still meet the model. */
export function reach(box: three.Box3, axis: Axis): [number, number] {
  const k = numberOf(axis);
  return [box.min.getComponent(k), box.max.getComponent(k)];
}

export const beyond = (cut: Cut | null, middle: three.Vector3, at: Triple | three.Vector3): boolean => {
  if (!cut) return false;
  const { normal, point } = planeOf(cut, middle);
  const p = at instanceof three.Vector3 ? at : new three.Vector3(...at);
  return normal.dot(p.clone().sub(point)) > 1e-4;
};
