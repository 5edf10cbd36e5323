import * as three from "three";
import { planeOf, type Cut } from "./cutting";

const INK = 0x1d2a33;
const AFTER = 120;

/** Where a plane meets the triangles of a placed geometry: ends of segments, six numbers each. */
export function crossing(geometry: three.BufferGeometry, world: three.Matrix4, plane: three.Plane): number[] {
  const found: number[] = [];
  const own = plane.clone().applyMatrix4(world.clone().invert());
  const box = geometry.boundingBox as three.Box3;
  if (!box.intersectsPlane(own)) return found;
  const at = geometry.getAttribute("position");
  const index = (geometry.getIndex() as three.BufferAttribute).array;
  const off = new Float64Array(at.count);
  const p = new three.Vector3();
  // what lies in the plane itself lies on one side of it
  for (let k = 0; k < at.count; k++) off[k] = own.distanceToPoint(p.fromBufferAttribute(at, k)) || 1e-12;
  const q = new three.Vector3();
  for (let k = 0; k + 2 < index.length; k += 3) {
    const corners = [index[k] as number, index[k + 1] as number, index[k + 2] as number] as const;
    const above = corners.map((own) => (off[own] as number) > 0);
    if (above[0] === above[1] && above[1] === above[2]) continue;
    for (let n = 0; n < 3; n++) {
      const [a, b] = [corners[n] as number, corners[(n + 1) % 3] as number];
      const [da, db] = [off[a] as number, off[b] as number];
      if (da > 0 === db > 0) continue;
      p.fromBufferAttribute(at, a)
        .lerp(q.fromBufferAttribute(at, b), da / (da - db))
        .applyMatrix4(world);
      found.push(p.x, p.y, p.z);
    }
  }
  return found;
}

/** The outlines of cut faces, found a moment after a plane has come to rest. */
export class CutEdges {
  readonly group = new three.Group();
  /** Asks for another picture. */
  changed: () => void = () => undefined;
  private later = 0;
  private sign = "";

  show(solids: readonly three.Mesh[], cuts: readonly Cut[], planes: readonly three.Plane[]) {
    const sign = JSON.stringify([cuts, solids.map((solid) => solid.userData.part as number)]);
    if (sign === this.sign) return;
    this.sign = sign;
    this.clear();
    window.clearTimeout(this.later);
    if (cuts.some((cut) => cut.filled) && solids.length) this.later = window.setTimeout(() => this.make(solids, cuts, planes), AFTER);
  }

  private make(solids: readonly three.Mesh[], cuts: readonly Cut[], planes: readonly three.Plane[]) {
    cuts.forEach((cut, number) => {
      const plane = planes[number];
      if (!plane || !cut.filled) return;
      const geometry = new three.BufferGeometry();
      geometry.setAttribute(
        "position",
        new three.Float32BufferAttribute(
          solids.flatMap((solid) => crossing(solid.geometry, solid.matrix, plane)),
          3,
        ),
      );
      const others = planes.filter((own) => own !== plane);
      // toward whoever looks, so that the face it borders does not cover half of it
      const lines = new three.LineSegments(geometry, new three.LineBasicMaterial({ color: INK, clippingPlanes: others }));
      lines.position.copy(planeOf(cut, new three.Vector3()).normal.multiplyScalar(1e-3));
      this.group.add(lines);
    });
    this.changed();
  }

  private clear() {
    for (const child of this.group.children) {
      const lines = child as three.LineSegments;
      lines.geometry.dispose();
      (lines.material as three.Material).dispose();
    }
    this.group.clear();
  }

  dispose() {
    window.clearTimeout(this.later);
    this.clear();
  }
}
