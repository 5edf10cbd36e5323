import * as three from "three";
import { acceleratedRaycast, ExtendedTriangle, MeshBVH } from "three-mesh-bvh";
import type { Found, Measure } from "./measuring";
import { beneath, triple, type Model, type Node } from "./model";
import * as texts from "./texts";

/** What a part, or an assembly with all beneath it, has of triangles in the world's axes. */
function* bodies(model: Model, name: string): Generator<{ node: Node; geometry: three.BufferGeometry; world: three.Matrix4 }> {
  const names = new Set(beneath(model, name));
  for (const node of model.nodes)
    if (names.has(node.name))
      for (const number of node.meshes) {
        const geometry = model.meshes[number]?.geometry;
        if (geometry) yield { node, geometry, world: model.worlds.get(node.name) as three.Matrix4 };
      }
}

/** Each triangle of a geometry in the world's axes; the corners are the same three objects each time. */
function eachTriangle(geometry: three.BufferGeometry, world: three.Matrix4, run: (a: three.Vector3, b: three.Vector3, c: three.Vector3) => void) {
  const positions = geometry.getAttribute("position");
  const index = geometry.getIndex() as three.BufferAttribute;
  const [a, b, c] = [new three.Vector3(), new three.Vector3(), new three.Vector3()];
  for (let k = 0; k + 2 < index.count; k += 3) {
    a.fromBufferAttribute(positions, index.getX(k)).applyMatrix4(world);
    b.fromBufferAttribute(positions, index.getX(k + 1)).applyMatrix4(world);
    c.fromBufferAttribute(positions, index.getX(k + 2)).applyMatrix4(world);
    run(a, b, c);
  }
}

/** Surface, mm², volume, mm³ (by the divergence theorem, about the part's middle), and whether the surface is closed. */
export function extent(geometry: three.BufferGeometry, world: three.Matrix4): { area: number; volume: number; closed: boolean } {
  let [area, volume] = [0, 0];
  const whole = new three.Vector3();
  const middle = (geometry.boundingBox as three.Box3).getCenter(new three.Vector3()).applyMatrix4(world);
  const [p, q] = [new three.Vector3(), new three.Vector3()];
  eachTriangle(geometry, world, (a, b, c) => {
    const square = p.subVectors(b, a).cross(q.subVectors(c, a));
    area += square.length() / 2;
    whole.add(square);
    volume += a.sub(middle).dot(square) / 6;
  });
  // the faces of what is closed add up to nothing
  return { area, volume: Math.abs(volume), closed: whole.length() < area * 1e-4 };
}

/** What the library has and its types leave out. */
interface Tree extends MeshBVH {
  resolveTriangleIndex: (place: number) => number;
}
type Apart = (other: ExtendedTriangle, here: three.Vector3, there: three.Vector3) => number;

const trees = new WeakMap<three.BufferGeometry, Tree>();

/** Boxes in boxes about a geometry's triangles, made once; the order of its index stays, since faces are told by it. */
export function treeOf(geometry: three.BufferGeometry): Tree {
  let tree = trees.get(geometry);
  if (!tree) {
    tree = new MeshBVH(geometry, { indirect: true }) as Tree;
    trees.set(geometry, tree);
  }
  return tree;
}

interface Gap {
  distance: number;
  from: three.Vector3;
  to: three.Vector3;
}

/** The smallest distance of two placed geometries, exact for their triangles; 0 where they meet. */
export function gapOf(one: three.BufferGeometry, at: three.Matrix4, other: three.BufferGeometry, there: three.Matrix4, most = Infinity): Gap | null {
  const [first, second] = [treeOf(one), treeOf(other)];
  const toOther = at.clone().invert().multiply(there);
  const scale = Math.cbrt(Math.abs(at.determinant()));
  const best = { distance: most / scale, from: new three.Vector3(), to: new three.Vector3(), found: false };
  const [box, moved] = [new three.Box3(), new three.Box3()];
  const [mine, theirs] = [new ExtendedTriangle(), new ExtendedTriangle()];
  // its types know of no points
  const apart = mine.distanceToTriangle.bind(mine) as Apart;
  const [p, q] = [new three.Vector3(), new three.Vector3()];
  const away = (b: three.Box3, c: three.Box3) => {
    const x = Math.max(0, b.min.x - c.max.x, c.min.x - b.max.x);
    const y = Math.max(0, b.min.y - c.max.y, c.min.y - b.max.y);
    const z = Math.max(0, b.min.z - c.max.z, c.min.z - b.max.z);
    return Math.hypot(x, y, z);
  };
  const read = (geometry: three.BufferGeometry, tree: Tree, k: number, into: ExtendedTriangle, by?: three.Matrix4) => {
    const index = geometry.getIndex() as three.BufferAttribute;
    const positions = geometry.getAttribute("position");
    const t = tree.resolveTriangleIndex(k) * 3;
    [into.a, into.b, into.c].forEach((corner, n) => {
      corner.fromBufferAttribute(positions, index.getX(t + n));
      if (by) corner.applyMatrix4(by);
    });
    into.needsUpdate = true;
  };
  second.shapecast({
    boundsTraverseOrder: (own) => {
      moved.copy(own).applyMatrix4(toOther);
      return away(moved, first.getBoundingBox(box));
    },
    intersectsBounds: (own) => {
      moved.copy(own).applyMatrix4(toOther);
      return away(moved, first.getBoundingBox(box)) < best.distance;
    },
    intersectsRange: (offset, count) => {
      for (let k = offset; k < offset + count; k++) {
        read(other, second, k, theirs, toOther);
        moved.setFromPoints([theirs.a, theirs.b, theirs.c]);
        first.shapecast({
          boundsTraverseOrder: (own) => away(own, moved),
          intersectsBounds: (own) => away(own, moved) < best.distance,
          intersectsRange: (from, many) => {
            for (let n = from; n < from + many; n++) {
              read(one, first, n, mine);
              const distance = apart(theirs, p, q);
              if (distance < best.distance) Object.assign(best, { distance, from: p.clone(), to: q.clone(), found: true });
              if (best.distance === 0) return true;
            }
            return false;
          },
        });
        if (best.distance === 0) return true;
      }
      return false;
    },
  });
  if (!best.found) return null;
  return { distance: best.distance * scale, from: best.from.applyMatrix4(at), to: best.to.applyMatrix4(at) };
}

/** Whether every face of a node is plane, so that its triangles are the part itself. */
const isExact = (model: Model, node: Node) => node.meshes.every((number) => model.meshes[number]?.faces.every((face) => face.kind === "plane"));

/** What whole parts come to; a sentence when they come to nothing. */
export function measureParts(model: Model, kind: Measure, names: readonly string[]): Found | string {
  const rows = names.map((name) => [...bodies(model, name)]);
  const coarse = !rows.flat().every(({ node }) => isExact(model, node));
  const box = new three.Box3();
  for (const { geometry, world } of rows[0] ?? []) box.union((geometry.boundingBox as three.Box3).clone().applyMatrix4(world));
  const middle = triple(box.getCenter(new three.Vector3()));
  if (kind === "gap") {
    if (names[0] === names[1]) return texts.clickAnotherPart;
    const pairs = (rows[0] ?? []).flatMap((one) => (rows[1] ?? []).map((other) => [one, other] as const));
    const best = pairs.reduce<Gap | null>((found, [one, other]) => gapOf(one.geometry, one.world, other.geometry, other.world, found?.distance) ?? found, null);
    if (!best) return texts.nothingToMeasureThereClick;
    return { kind, what: texts.between(names[0] as string, names[1] as string), value: best.distance, from: triple(best.from), to: triple(best.to), coarse };
  }
  const sums = (rows[0] ?? []).map((row) => ({ node: row.node, ...extent(row.geometry, row.world) }));
  const whole = (value: number): Found => ({ kind, what: texts.ofPart(MEASURED[kind] ?? kind, names[0] as string), value, from: middle, to: middle, coarse });
  if (kind === "area") return whole(sums.reduce((sum, row) => sum + row.area, 0));
  if (sums.some((row) => !row.closed)) return texts.notClosed;
  if (kind === "volume") return whole(sums.reduce((sum, row) => sum + row.volume, 0));
  const unknown = sums.find((row) => !model.densities?.[row.node.name]);
  if (unknown) return texts.noDensity(unknown.node.name);
  return whole(sums.reduce((sum, row) => sum + row.volume * (model.densities?.[row.node.name] ?? 0), 0));
}

const MEASURED: Partial<Record<Measure, string>> = { area: texts.areaOf, volume: texts.volumeOf, mass: texts.massOf };

const sphere = new three.Sphere();

/** Meets the triangles of a mesh by their boxes, which are made when the first ray comes near them. */
export function meetQuickly(mesh: three.Mesh) {
  mesh.raycast = function (ray, found) {
    const { geometry } = this;
    sphere.copy(geometry.boundingSphere as three.Sphere).applyMatrix4(this.matrixWorld);
    if (!ray.ray.intersectsSphere(sphere)) return;
    geometry.boundsTree ??= treeOf(geometry);
    acceleratedRaycast.call(this, ray, found);
  };
}
