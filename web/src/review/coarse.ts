import * as three from "three";
import { clipping } from "./cutting";
import type { Model } from "./model";
import { MODES, type Parts } from "./parts";
import type { Look } from "./state";

/** A model of no more triangles than `whole` is always drawn as it is; of a larger one about `moving` while it moves. */
export const BUDGET = { software: { whole: 200_000, moving: 20_000 }, graphics: { whole: 3_000_000, moving: 1_000_000 } };
const FEWEST = 8;
const FADED = 0.3;
/** Of its colour, what a cut face shows. */
const CAP = new three.Color().setScalar(0.5);

interface Rough {
  positions: Float32Array;
  normals: Float32Array;
  index: Uint32Array;
  /** Of each triangle the number of its colour. */
  shading: Uint8Array;
}

/** A mesh with about so many triangles: what lies in one cell of a grid becomes one corner. */
export function roughened(geometry: three.BufferGeometry, triangles: number): Rough {
  const at = geometry.getAttribute("position").array;
  const normal = geometry.getAttribute("normal").array;
  const corners = at.length / 3;
  const index = (geometry.getIndex() as three.BufferAttribute).array;
  const box = geometry.boundingBox as three.Box3;
  const size = box.getSize(new three.Vector3());
  const cells = Math.max(2, Math.round(Math.sqrt(Math.max(FEWEST, triangles) / 6)));
  const cell = Math.max(size.x, size.y, size.z, 1e-9) / cells;
  const wide = cells + 1;
  const places = new Int32Array(wide ** 3).fill(-1);
  const of = new Uint32Array(corners);
  const [sums, turns, counts]: [number[], number[], number[]] = [[], [], []];
  const { x: x0, y: y0, z: z0 } = box.min;
  const row = (v: number) => Math.min(cells, Math.max(0, Math.floor(v / cell)));
  for (let k = 0; k < corners; k++) {
    const [x, y, z] = [at[k * 3] as number, at[k * 3 + 1] as number, at[k * 3 + 2] as number];
    const key = row(x - x0) + wide * (row(y - y0) + wide * row(z - z0));
    let own = places[key] as number;
    if (own < 0) {
      own = counts.length;
      places[key] = own;
      counts.push(0);
      sums.push(0, 0, 0);
      turns.push(0, 0, 0);
    }
    of[k] = own;
    counts[own] = (counts[own] as number) + 1;
    const n = own * 3;
    sums[n] = (sums[n] as number) + x;
    sums[n + 1] = (sums[n + 1] as number) + y;
    sums[n + 2] = (sums[n + 2] as number) + z;
    turns[n] = (turns[n] as number) + (normal[k * 3] as number);
    turns[n + 1] = (turns[n + 1] as number) + (normal[k * 3 + 1] as number);
    turns[n + 2] = (turns[n + 2] as number) + (normal[k * 3 + 2] as number);
  }
  const kept: number[] = [];
  const shading: number[] = [];
  const groups = geometry.groups.length ? geometry.groups : [{ start: 0, count: index.length, materialIndex: 0 }];
  for (const group of groups)
    for (let k = group.start; k < group.start + group.count; k += 3) {
      const [a, b, c] = [of[index[k] as number] as number, of[index[k + 1] as number] as number, of[index[k + 2] as number] as number];
      if (a === b || b === c || a === c) continue;
      kept.push(a, b, c);
      shading.push(group.materialIndex ?? 0);
    }
  return {
    positions: Float32Array.from(sums, (v, k) => v / (counts[Math.floor(k / 3)] as number)),
    normals: Float32Array.from(turns),
    index: Uint32Array.from(kept),
    shading: Uint8Array.from(shading),
  };
}

/** The whole model as two meshes of few triangles, one of what covers and one of what is seen through: drawn while it moves. */
export class Coarse {
  readonly group = new three.Group();
  private readonly rough = new Map<number, Rough>();
  private look: Look | null = null;
  readonly total: number;

  constructor(
    private readonly model: Model,
    private readonly parts: Parts,
    private readonly budget: { whole: number; moving: number },
  ) {
    this.group.visible = false;
    this.total = parts.parts.reduce((sum, part) => sum + (model.meshes[part.mesh]?.faceOf.length ?? 0), 0);
  }

  get wanted(): boolean {
    return this.total > this.budget.whole;
  }

  /** Made anew where the model is drawn otherwise than last. */
  show(look: Look) {
    const before = this.look;
    if (before && before.states === look.states && before.cuts === look.cuts && before.mode === look.mode && before.own === look.own) return;
    this.look = look;
    this.clear();
    const planes = look.cuts.map((cut) => clipping(cut, this.model.box3.getCenter(new three.Vector3())));
    const filled = look.cuts.some((cut) => cut.filled);
    for (const faded of [false, true]) {
      const geometry = this.merged(look, faded);
      if (!geometry) continue;
      const common = { vertexColors: true, clippingPlanes: planes };
      const cut = filled && !faded;
      const material = new three.MeshLambertMaterial({
        ...common,
        side: cut ? three.FrontSide : three.DoubleSide,
        transparent: faded,
        opacity: faded ? FADED : 1,
        depthWrite: !faded,
      });
      this.group.add(new three.Mesh(geometry, material));
      // what is seen of a closed part from within lies behind its cut face
      if (cut) this.group.add(new three.Mesh(geometry, new three.MeshBasicMaterial({ ...common, side: three.BackSide, color: CAP })));
    }
  }

  private merged(look: Look, faded: boolean): three.BufferGeometry | null {
    const [positions, normals, colours]: [number[], number[], number[]] = [[], [], []];
    const index: number[] = [];
    const p = new three.Vector3();
    const share = this.budget.moving / this.total;
    for (const part of this.parts.parts) {
      const state = look.states[part.node.name];
      const seen = MODES[look.mode]?.opacity ?? 1;
      const opacity = Math.max(...part.node.materials.map(([, own]) => Math.min(state ?? own, seen)));
      if (!(part.solid.visible || part.edges.visible || part.box.visible) || opacity < 1 !== faded) continue;
      const rough = this.of(part.mesh, share);
      const world = part.solid.matrix;
      const inks = part.node.materials.map(([colour]) => new three.Color(colour));
      // a corner has the colour of the last triangle that it is of: nearly always all of one
      const own = new Array<three.Color | undefined>(rough.positions.length / 3);
      rough.index.forEach((corner, k) => (own[corner] = inks[rough.shading[Math.floor(k / 3)] as number] ?? inks[0]));
      const start = positions.length / 3;
      for (let k = 0; k < own.length; k++) {
        p.fromArray(rough.positions, k * 3).applyMatrix4(world);
        positions.push(p.x, p.y, p.z);
        p.fromArray(rough.normals, k * 3).transformDirection(world);
        normals.push(p.x, p.y, p.z);
        const ink = own[k];
        colours.push(ink?.r ?? 1, ink?.g ?? 1, ink?.b ?? 1);
      }
      for (const corner of rough.index) index.push(start + corner);
    }
    if (!index.length) return null;
    const geometry = new three.BufferGeometry();
    geometry.setAttribute("position", new three.Float32BufferAttribute(positions, 3));
    geometry.setAttribute("normal", new three.Float32BufferAttribute(normals, 3));
    geometry.setAttribute("color", new three.Float32BufferAttribute(colours, 3));
    geometry.setIndex(index);
    return geometry;
  }

  private of(number: number, share: number): Rough {
    let rough = this.rough.get(number);
    if (!rough) {
      const mesh = this.model.meshes[number];
      if (!mesh) throw new Error("a part without a mesh");
      rough = roughened(mesh.geometry, mesh.faceOf.length * share);
      this.rough.set(number, rough);
    }
    return rough;
  }

  private clear() {
    for (const child of this.group.children) {
      const mesh = child as three.Mesh;
      mesh.geometry.dispose();
      (mesh.material as three.Material).dispose();
    }
    this.group.clear();
  }

  dispose() {
    this.clear();
  }
}
