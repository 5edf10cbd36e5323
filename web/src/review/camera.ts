import * as three from "three";
import { triple, vector, type Camera, type Triple } from "./model";

const MARGIN = 1.08;
/** Radians that a pixel of a drag turns by. */
const TURN = 0.0087;
export const FIELD = 30;

export interface Frame {
  right: three.Vector3;
  up: three.Vector3;
  look: three.Vector3;
}

export function frameOf(camera: Camera): Frame {
  const look = vector(camera.target).sub(vector(camera.position)).normalize();
  const up = vector(camera.up);
  up.addScaledVector(look, -up.dot(look)).normalize();
  return { right: look.clone().cross(up), up, look };
}

export const distance = (camera: Camera) => vector(camera.target).distanceTo(vector(camera.position));

/** Degrees by which the picture is turned from upright, clockwise. */
export function rollOf(camera: Camera): number {
  const { right, up, look } = frameOf(camera);
  const upright = Math.hypot(look.x, look.y) > 1e-9 ? new three.Vector3(0, 0, 1) : new three.Vector3(0, 1, 0);
  upright.addScaledVector(look, -upright.dot(look));
  return three.MathUtils.radToDeg(Math.atan2(-upright.dot(right), upright.dot(up))) + 0;
}

export function withRoll(camera: Camera, degrees: number): Camera {
  const { look, up } = frameOf(camera);
  const by = three.MathUtils.degToRad(degrees - rollOf(camera));
  return { ...camera, up: triple(up.applyAxisAngle(look, by)) };
}

/** Millimetres that the picture's shorter side takes in, at the point looked at. */
export const spanAtTarget = (camera: Camera) => (camera.perspective ? 2 * distance(camera) * Math.tan(three.MathUtils.degToRad(camera.span) / 2) : camera.span);

/** The same picture, at the point looked at, in the other projection. */
export function inPerspective(camera: Camera, perspective: boolean): Camera {
  if (camera.perspective === perspective) return camera;
  const span = spanAtTarget(camera);
  if (!perspective) return { ...camera, perspective, span };
  const away = span / 2 / Math.tan(three.MathUtils.degToRad(FIELD) / 2);
  const { look } = frameOf(camera);
  return { ...camera, perspective, span: FIELD, position: triple(vector(camera.target).addScaledVector(look, -away)) };
}

/** A camera that looks along `look` and takes points in; the server's rule. */
/** A camera whose picture, meant for one shape, is whole in another: its span is that of the shorter side. */
export function contained(camera: Camera, meant: number, aspect: number): Camera {
  const by = Math.max(Math.max(meant, 1) / Math.max(aspect, 1), Math.max(1 / meant, 1) / Math.max(1 / aspect, 1));
  if (Math.abs(by - 1) < 1e-6) return camera;
  if (!camera.perspective) return { ...camera, span: camera.span * by };
  const half = Math.tan(three.MathUtils.degToRad(camera.span) / 2) * by;
  return { ...camera, span: three.MathUtils.radToDeg(2 * Math.atan(half)) };
}

export function fitted(look: Triple, up: Triple, points: three.Vector3[], aspect: number, perspective: boolean): Camera {
  const box = new three.Box3().setFromPoints(points);
  const middle = box.getCenter(new three.Vector3());
  const radius = Math.max(box.getSize(new three.Vector3()).length() / 2, 1e-6);
  const frame = frameOf({ position: [0, 0, 0], target: look, up, perspective, span: 1 });
  const [wide, tall] = [Math.max(aspect, 1), Math.max(1 / aspect, 1)];
  const seen = () => points.map((p) => p.clone().sub(middle)).map((p) => [p.dot(frame.right), p.dot(frame.up), -p.dot(frame.look)] as Triple);
  const shift = (x: number, y: number) => middle.addScaledVector(frame.right, x).addScaledVector(frame.up, y);
  const centre = (rows: number[][]) =>
    [0, 1].map((k) => (Math.min(...rows.map((r) => r[k] as number)) + Math.max(...rows.map((r) => r[k] as number))) / 2) as [number, number];
  let away = radius * 3;
  let span = FIELD;
  if (!perspective) {
    shift(...centre(seen()));
    const rows = seen();
    const half = (k: 0 | 1) => Math.max(...rows.map((r) => Math.abs(r[k])));
    span = 2 * MARGIN * Math.max(half(0) / wide, half(1) / tall, radius * 1e-3);
  } else {
    const half = Math.tan(three.MathUtils.degToRad(FIELD) / 2);
    const needed = (rows: Triple[]) =>
      Math.max(
        radius * 0.1,
        ...rows.map((r) => Math.max((Math.abs(r[0]) / (half * wide)) * MARGIN, (Math.abs(r[1]) / (half * tall)) * MARGIN, r[2] * 0.05) + r[2]),
      );
    for (let turn = 0; turn < 4; turn++) {
      const rows = seen();
      away = needed(rows);
      const [x, y] = centre(rows.map((r) => [r[0] / (away - r[2]), r[1] / (away - r[2])]));
      shift(x * away, y * away);
    }
    away = needed(seen());
  }
  return { position: triple(middle.clone().addScaledVector(frame.look, -away)), target: triple(middle), up: triple(frame.up), perspective, span };
}

/** Turn about the point looked at: up and down about the picture's own right, sideways about the model's z or, *free*, about the
 * picture's up. */
export function turned(camera: Camera, dx: number, dy: number, free = false): Camera {
  const { right, up } = frameOf(camera);
  const target = vector(camera.target);
  const about = free ? up.clone() : new three.Vector3(0, 0, up.z < -0.2 ? -1 : 1);
  const rotation = new three.Quaternion().setFromAxisAngle(about, -dx);
  rotation.multiply(new three.Quaternion().setFromAxisAngle(right, -dy));
  const offset = vector(camera.position).sub(target).applyQuaternion(rotation);
  return { ...camera, position: triple(target.add(offset)), up: triple(up.applyQuaternion(rotation)) };
}

export function panned(camera: Camera, across: number, upward: number): Camera {
  const { right, up } = frameOf(camera);
  const by = right.multiplyScalar(across).addScaledVector(up, upward);
  return { ...camera, position: triple(vector(camera.position).add(by)), target: triple(vector(camera.target).add(by)) };
}

export function zoomed(camera: Camera, factor: number): Camera {
  if (!camera.perspective) return { ...camera, span: camera.span * factor };
  const target = vector(camera.target);
  const offset = vector(camera.position).sub(target).multiplyScalar(factor);
  return { ...camera, position: triple(target.add(offset)) };
}

/** Nearer by a factor, to a point that stays where it is in the picture. */
export function nearedTo(camera: Camera, factor: number, point: three.Vector3): Camera {
  const target = point.clone().lerp(vector(camera.target), factor);
  if (camera.perspective) return { ...camera, target: triple(target), position: triple(point.clone().lerp(vector(camera.position), factor)) };
  const by = target.clone().sub(vector(camera.target));
  return { ...camera, span: camera.span * factor, target: triple(target), position: triple(vector(camera.position).add(by)) };
}

/** The same look at another point. */
export function centredOn(camera: Camera, point: three.Vector3): Camera {
  const by = point.clone().sub(vector(camera.target));
  return { ...camera, target: triple(point), position: triple(vector(camera.position).add(by)) };
}

/** Upright again: the picture's up toward the model's z. */
export const uprighted = (camera: Camera): Camera => withRoll(camera, 0);

/** Look about from where one stands. */
export function lookedAbout(camera: Camera, dx: number, dy: number): Camera {
  const { right, up } = frameOf(camera);
  const rotation = new three.Quaternion().setFromAxisAngle(new three.Vector3(0, 0, 1), -dx);
  rotation.multiply(new three.Quaternion().setFromAxisAngle(right, -dy));
  const ahead = vector(camera.target).sub(vector(camera.position)).applyQuaternion(rotation);
  return { ...camera, target: triple(vector(camera.position).add(ahead)), up: triple(up.applyQuaternion(rotation)) };
}

/** Go ahead, aside and up, mm; *level* along the floor whatever one looks at. */
export function stepped(camera: Camera, ahead: number, aside: number, upward = 0, level = false): Camera {
  const { right, look, up } = frameOf(camera);
  // straight down there is no ahead but the picture's up
  const way = level ? (Math.hypot(look.x, look.y) > 1e-3 ? look : up).setZ(0).normalize() : look;
  const by = way
    .multiplyScalar(ahead)
    .addScaledVector(right, aside)
    .add(new three.Vector3(0, 0, upward));
  return { ...camera, position: triple(vector(camera.position).add(by)), target: triple(vector(camera.target).add(by)) };
}

/** At a height above the floor, looking the same way. */
export function atHeight(camera: Camera, height: number): Camera {
  const by = height - camera.position[2];
  return { ...camera, position: [camera.position[0], camera.position[1], height], target: [camera.target[0], camera.target[1], camera.target[2] + by] };
}

/** What a drag of so many pixels does, each `pixel` mm wide at the point looked at. */
export function dragged(camera: Camera, hand: "orbit" | "free" | "slide" | "look", dx: number, dy: number, pixel: number): Camera {
  if (hand === "slide") return panned(camera, -dx * pixel, dy * pixel);
  if (hand === "look") return lookedAbout(camera, dx * TURN * 0.5, dy * TURN * 0.5);
  return turned(camera, dx * TURN, dy * TURN, hand === "free");
}
