import * as three from "three";
import { treeOf } from "./bodies";
import { beyond, planeOf, type Cut } from "./cutting";
import type { Model } from "./model";
import type { Parts } from "./parts";
import type { Hit } from "./snapping";

/** Finds what a ray meets first of what is seen of a model: a face of a part, or a face that a plane has cut. */
export class Picker {
  readonly ray = new three.Raycaster();

  constructor(
    private readonly model: Model,
    private readonly parts: Parts,
  ) {}

  nearest(cuts: readonly Cut[], solids = this.parts.solids()): Hit | null {
    const middle = this.model.box3.getCenter(new three.Vector3());
    const [first, off] = this.surface(cuts, middle, solids);
    let [best, far] = [first, off];
    for (const cut of cuts) {
      if (!cut.filled) continue;
      const found = this.cutFace(cut, cuts, middle, solids);
      if (found && found[1] < far) [best, far] = found;
    }
    if (!best) return null;
    const planes = cuts.filter((cut) => cut.filled).map((cut) => planeOf(cut, middle));
    return { ...best, planes, gone: (at) => beyond(cuts, middle, at) };
  }

  private surface(cuts: readonly Cut[], middle: three.Vector3, solids: three.Mesh[]): [Hit | null, number] {
    for (const found of this.ray.intersectObjects(solids, false)) {
      if (beyond(cuts, middle, found.point)) continue;
      const hit = this.hit(found.object, found.point, found.faceIndex);
      if (hit) return [hit, found.distance];
    }
    return [null, Infinity];
  }

  private hit(object: three.Object3D, at: three.Vector3, face: number | null | undefined): Hit | null {
    const part = this.parts.parts[object.userData.part as number];
    const mesh = part && this.model.meshes[part.mesh];
    if (!part || !mesh || face === undefined || face === null) return null;
    return { node: part.node, mesh, world: this.model.worlds.get(part.node.name) as three.Matrix4, face: mesh.faceOf[face] as number, at };
  }

  /** Where the ray meets the plane within a closed part. */
  private cutFace(cut: Cut, cuts: readonly Cut[], middle: three.Vector3, solids: three.Mesh[]): [Hit, number] | null {
    const { normal, point } = planeOf(cut, middle);
    const { ray } = this.ray;
    // seen from the side that is away alone
    if (ray.direction.dot(normal) >= 0) return null;
    const at = ray.intersectPlane(new three.Plane().setFromNormalAndCoplanarPoint(normal, point), new three.Vector3());
    if (!at || beyond(cuts, middle, at)) return null;
    for (const solid of solids) {
      if (!inside(solid, at, normal)) continue;
      const hit = this.hit(solid, at, 0);
      if (hit) return [{ ...hit, cut: normal }, at.distanceTo(ray.origin)];
    }
    return null;
  }
}

/** Whether a point lies within the closed surface of a mesh: a line from it meets the surface an odd number of times. */
function inside(solid: three.Mesh, at: three.Vector3, along: three.Vector3): boolean {
  const box = solid.geometry.boundingBox as three.Box3;
  const back = solid.matrix.clone().invert();
  const own = at.clone().applyMatrix4(back);
  if (!box.containsPoint(own)) return false;
  const ray = new three.Ray(own, along.clone().transformDirection(back));
  return treeOf(solid.geometry).raycast(ray, three.DoubleSide).length % 2 === 1;
}
