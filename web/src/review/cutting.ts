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
  hatched: boolean;
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
    hatched: false,
  };
}

/** How far a plane can be moved and still meet the model. */
export function reach(box: three.Box3, axis: Axis): [number, number] {
  const k = numberOf(axis);
  return [box.min.getComponent(k), box.max.getComponent(k)];
}

/** Whether a point lies where a plane has taken the model away. */
export const beyond = (cuts: readonly Cut[], middle: three.Vector3, at: Triple | three.Vector3): boolean => {
  const p = at instanceof three.Vector3 ? at : new three.Vector3(...at);
  return cuts.some((cut) => {
    const { normal, point } = planeOf(cut, middle);
    return normal.dot(p.clone().sub(point)) > 1e-4;
  });
};

/** A new plane through the model's middle, its cut face turned toward whoever looks along `look`. */
export function begun(along: Axis, box: three.Box3, look: three.Vector3): Cut {
  const [low, high] = reach(box, along);
  const offset = Math.round(((low + high) / 2) * 100) / 100;
  return { along, offset, tilt: [0, 0], flip: look.getComponent(numberOf(along)) > 0, filled: true, ghost: false, hatched: false };
}

/** Planes with one of them changed, in the order of their axes. */
export const withCut = (cuts: readonly Cut[], cut: Cut): Cut[] =>
  [...cuts.filter((own) => own.along !== cut.along), cut].sort((a, b) => numberOf(a.along) - numberOf(b.along));

/** The plane's own two directions, and how far it reaches beyond the model each way: what is drawn of it. */
export function spread(cut: Cut, box: three.Box3): { u: three.Vector3; v: three.Vector3; wide: number; high: number } {
  const { normal } = planeOf(cut, box.getCenter(new three.Vector3()));
  const [first, second] = others(cut.along);
  const u = new three.Vector3().setComponent(first, 1);
  u.addScaledVector(normal, -u.dot(normal)).normalize();
  const v = normal.clone().cross(u);
  if (v.getComponent(second) < 0) v.negate();
  const size = box.getSize(new three.Vector3());
  return { u, v, wide: size.getComponent(first) * 0.55 + 1e-3, high: size.getComponent(second) * 0.55 + 1e-3 };
}

/** A plane moved by so far along its normal, no further than the model reaches. */
export function shifted(cut: Cut, box: three.Box3, by: number): Cut {
  const { normal } = planeOf(cut, box.getCenter(new three.Vector3()));
  const share = normal.getComponent(numberOf(cut.along));
  const [low, high] = reach(box, cut.along);
  const offset = cut.offset + by / (Math.abs(share) < 0.1 ? 0.1 * Math.sign(share || 1) : share);
  return { ...cut, offset: Math.round(Math.min(high, Math.max(low, offset)) * 1000) / 1000 };
}

/** A plane tilted further about its first or second axis, so that what lies along `arm` from its middle goes `by` along the normal. */
export function tilted(cut: Cut, box: three.Box3, which: 0 | 1, arm: three.Vector3, by: number): Cut {
  const middle = box.getCenter(new three.Vector3());
  const put = (degrees: number): Cut => {
    const angle = Math.round(Math.min(90, Math.max(-90, cut.tilt[which] + degrees)) * 10) / 10;
    return { ...cut, tilt: which === 0 ? [angle, cut.tilt[1]] : [cut.tilt[0], angle] };
  };
  const angle = three.MathUtils.radToDeg(Math.atan2(by, arm.length()));
  // which way is forward is tried: it depends on the other tilt, and on the side that is away
  const rises = -planeOf({ ...cut, tilt: which === 0 ? [cut.tilt[0] + 1, cut.tilt[1]] : [cut.tilt[0], cut.tilt[1] + 1] }, middle).normal.dot(arm) > 0;
  return put(rises ? angle : -angle);
}
