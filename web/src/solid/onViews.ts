import * as three from "three";
import type { View } from "../api/client";
import { hiddenOf, modelOf } from "../api/content";
import { frameOf } from "../review/camera";
import { beneath, matrixOf, type Model, type Rows } from "../review/model";
import { inPlane, onSheet } from "../paper/geometry";

type Point = [number, number];

const axes = (view: View) => {
  const model = modelOf(view);
  return frameOf({ position: [0, 0, 0], target: model?.look ?? [0, 0, -1], up: model?.up ?? [0, 1, 0], perspective: false, span: 1 });
};
const covered = (path: string, by: readonly string[]) => by.some((own) => path === own || path.startsWith(`${own}/`));

/** Whether a view shows the component that a node stands for. */
export const isShown = (view: View, path: string | undefined) => path !== undefined && !covered(path, hiddenOf(view));

/** The convex outline of points of a plane, counter-clockwise. */
export function hull(points: Point[]): Point[] {
  const sorted = [...points].sort((a, b) => a[0] - b[0] || a[1] - b[1]);
  const half = (rows: Point[]) => {
    const chain: Point[] = [];
    for (const p of rows) {
      while (chain.length > 1) {
        const [a, b] = [chain.at(-2) as Point, chain.at(-1) as Point];
        if ((b[0] - a[0]) * (p[1] - a[1]) - (b[1] - a[1]) * (p[0] - a[0]) > 0) break;
        chain.pop();
      }
      chain.push(p);
    }
    return chain.slice(0, -1);
  };
  return [...half(sorted), ...half(sorted.reverse())];
}

/** The outline on a view, sheet mm, of a node of the model and all beneath it that the view shows; null for nothing. */
export function outline(model: Model, name: string, view: View, paths: Record<string, string>, orientation: Rows): Point[] | null {
  const names = new Set(beneath(model, name));
  const { right, up } = axes(view);
  const p = new three.Vector3();
  const points: Point[] = [];
  for (const node of model.nodes) {
    if (!names.has(node.name) || !isShown(view, paths[node.name])) continue;
    // back to the model's own axes, which the view has
    const world = matrixOf(orientation)
      .transpose()
      .multiply(model.worlds.get(node.name) as three.Matrix4);
    for (const number of node.meshes) {
      const positions = model.meshes[number]?.geometry.getAttribute("position");
      for (let k = 0; positions && k < positions.count; k++) {
        p.fromBufferAttribute(positions, k).applyMatrix4(world);
        points.push([p.dot(right), p.dot(up)]);
      }
    }
  }
  return points.length > 2 ? hull(points).map((q) => onSheet(view, q)) : null;
}

/** The line of sight behind a point of the sheet in a view: a point of the model's space, and the way it looks. */
export function sight(view: View, at: Point, orientation: Rows): { point: three.Vector3; look: three.Vector3 } {
  const { right, up, look } = axes(view);
  const [u, v] = inPlane(view, at);
  const turn = matrixOf(orientation);
  return { point: right.multiplyScalar(u).addScaledVector(up, v).applyMatrix4(turn), look: look.applyMatrix4(turn) };
}
