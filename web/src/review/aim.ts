import * as three from "three";
import { distance, frameOf } from "./camera";
import { vector } from "./model";
import type { ReviewState } from "./state";

/** Set three's camera to a review's: the shorter side of the picture takes in what the camera says. */
export function aim(camera: three.PerspectiveCamera | three.OrthographicCamera, { look, model }: ReviewState, aspect: number) {
  const own = look.camera;
  camera.up.copy(frameOf(own).up);
  camera.position.set(...own.position);
  camera.lookAt(...own.target);
  const reach = vector(own.position).distanceTo(model.box3.getCenter(new three.Vector3())) + model.box3.getSize(new three.Vector3()).length();
  if (camera instanceof three.PerspectiveCamera) {
    const half = Math.tan(three.MathUtils.degToRad(own.span) / 2);
    camera.aspect = aspect;
    camera.fov = 2 * three.MathUtils.radToDeg(Math.atan(half / Math.min(aspect, 1)));
    camera.near = Math.max(distance(own) * 1e-3, reach * 1e-4);
    camera.far = reach * 1.5;
  } else {
    const high = own.span / Math.min(aspect, 1) / 2;
    Object.assign(camera, { left: -high * aspect, right: high * aspect, top: high, bottom: -high, near: -reach * 2, far: reach * 2 });
  }
  camera.updateProjectionMatrix();
  camera.updateMatrixWorld();
}
