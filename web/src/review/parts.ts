import * as three from "three";
import { meetQuickly } from "./bodies";
import { CutEdges } from "./cutEdges";
import { clipping } from "./cutting";
import { Halo, HATCHES, hatched, outlining } from "./inks";
import type { Model, Node } from "./model";
import type { Look } from "./state";
import * as texts from "./texts";

/** The render modes, by the standard's names: the words for them, and what of a part is drawn. */
interface Mode {
  word: string;
  fill: "lit" | "flat" | "none";
  edges: boolean;
  opacity: number;
  box?: boolean;
}

const SOLID: Mode = { word: texts.solid, fill: "lit", edges: false, opacity: 1 };

export const MODES: Record<string, Mode> = {
  Solid: SOLID,
  SolidWireframe: { word: texts.solidWithEdges, fill: "lit", edges: true, opacity: 1 },
  Wireframe: { word: texts.wireframe, fill: "none", edges: true, opacity: 1 },
  HiddenWireframe: { word: texts.visibleEdges, fill: "flat", edges: true, opacity: 1 },
  Transparent: { word: texts.seeThrough, fill: "lit", edges: false, opacity: 0.35 },
  TransparentWireframe: { word: texts.seeThroughWithEdges, fill: "lit", edges: true, opacity: 0.35 },
  Illustration: { word: texts.illustration, fill: "flat", edges: true, opacity: 1 },
  ShadedIllustration: { word: texts.shadedIllustration, fill: "lit", edges: true, opacity: 1 },
  SolidOutline: { word: texts.solidWithOutlines, fill: "lit", edges: true, opacity: 1 },
  BoundingBox: { word: texts.boxes, fill: "none", edges: false, opacity: 1, box: true },
};

const CAP = 0.5;
const GHOST = 0.17;
const INK = 0x1d2a33;
const WHITE = 0xffffff;

/** Faces and edges, chosen apart: the render mode that draws them so; '' where the standard has none. */
export type Faces = "full" | "see" | "none";
export type Edges = "none" | "sharp" | "all";
export const DISPLAY: Record<Faces, Record<Edges, string>> = {
  full: { none: "Solid", sharp: "SolidOutline", all: "SolidWireframe" },
  see: { none: "Transparent", sharp: "", all: "TransparentWireframe" },
  none: { none: "", sharp: "Illustration", all: "Wireframe" },
};

/** The faces and edges of a render mode; null for one that is neither, as a file may have it. */
export function displayOf(mode: string): { faces: Faces; edges: Edges } | null {
  for (const faces of Object.keys(DISPLAY) as Faces[])
    for (const edges of Object.keys(DISPLAY[faces]) as Edges[]) if (DISPLAY[faces][edges] === mode) return { faces, edges };
  return null;
}

const outlined = outlining({ color: INK, side: three.BackSide }, 0.0022);

/** What a face shows: its colour, or a picture in its place. */
interface Ink {
  colour: string | number;
  map: three.Texture | null;
}

interface Part {
  node: Node;
  mesh: number;
  solid: three.Mesh;
  cap: three.Mesh;
  ghost: three.Mesh;
  outline: three.Mesh;
  edges: three.LineSegments;
  box: three.LineSegments;
}

/** The parts of a model as things to draw, and how each is drawn now. */
export class Parts {
  readonly group = new three.Group();
  readonly parts: Part[] = [];
  private materials = new Map<string, three.Material>();
  private lines = new Map<number, three.BufferGeometry>();
  private readonly halo = new Halo();
  private readonly faces = new CutEdges();

  constructor(readonly model: Model) {
    for (const node of model.nodes) for (const number of node.meshes) this.add(node, number);
    this.group.add(this.halo.group, this.faces.group);
  }

  private add(node: Node, number: number) {
    const mesh = this.model.meshes[number];
    const world = this.model.worlds.get(node.name);
    if (!mesh || !world) return;
    let lines = this.lines.get(number);
    if (!lines) {
      lines = new three.BufferGeometry();
      lines.setAttribute("position", new three.BufferAttribute(mesh.segments, 3));
      this.lines.set(number, lines);
    }
    const solid = new three.Mesh(mesh.geometry);
    const cap = new three.Mesh(mesh.geometry);
    const ghost = new three.Mesh(mesh.geometry);
    const outline = new three.Mesh(mesh.geometry, outlined);
    const edges = new three.LineSegments(lines);
    const box = new three.LineSegments(new three.EdgesGeometry(boxGeometry(mesh.geometry.boundingBox as three.Box3)));
    solid.userData.part = this.parts.length;
    meetQuickly(solid);
    const all = [solid, cap, ghost, outline, edges, box];
    for (const object of all) {
      object.matrixAutoUpdate = false;
      object.matrix.copy(world);
      object.matrixWorldNeedsUpdate = true;
    }
    this.group.add(...all);
    this.parts.push({ node, mesh: number, solid, cap, ghost, outline, edges, box });
  }

  private material<T extends three.Material>(key: string, make: () => T): T {
    const known = this.materials.get(key);
    if (known) return known as T;
    const made = make();
    this.materials.set(key, made);
    return made;
  }

  private fill(ink: Ink, opacity: number, flat: boolean, side: three.Side, planes: three.Plane[], name: string, hatch = -1) {
    const { colour, map } = ink;
    return this.material(`${colour} ${map?.id ?? ""} ${opacity} ${flat} ${side} ${name} ${hatch} ${signOf(planes)}`, () => {
      const common = {
        side,
        transparent: opacity < 1,
        opacity,
        depthWrite: opacity >= 1,
        clippingPlanes: planes,
        // the other half is what lies beyond any of the planes
        clipIntersection: name === "ghost",
        polygonOffset: true,
        polygonOffsetFactor: 1,
        polygonOffsetUnits: 1,
      };
      if (hatch >= 0) return hatched({ color: colour, ...common }, hatch);
      if (flat) return new three.MeshBasicMaterial({ color: colour, ...common });
      return new three.MeshLambertMaterial({ color: map ? WHITE : colour, map, ...common });
    });
  }

  private line(colour: number, opacity: number, planes: three.Plane[]) {
    return this.material(
      `line ${colour} ${opacity} ${signOf(planes)}`,
      () => new three.LineBasicMaterial({ color: colour, transparent: opacity < 1, opacity, clippingPlanes: planes }),
    );
  }

  /** Draw all as it is to be seen. */
  dress(look: Look, selected: ReadonlySet<string>, highlight: string) {
    const middle = this.model.box3.getCenter(new three.Vector3());
    const planes = look.cuts.map((cut) => clipping(cut, middle));
    const away = look.cuts.map((cut) => clipping({ ...cut, flip: !cut.flip }, middle));
    this.forget(planes);
    this.parts.forEach((part, number) => this.dressOne(part, number, look, planes, away));
    this.halo.show(
      this.parts.filter((part) => selected.has(part.node.name) && look.states[part.node.name] !== null).map((part) => part.solid),
      highlight,
      planes,
    );
    const cut = this.parts.filter((part) => part.cap.visible).map((part) => part.solid);
    this.faces.show(cut, look.cuts, planes);
  }

  private dressOne(part: Part, number: number, look: Look, planes: three.Plane[], away: three.Plane[]) {
    const mode = MODES[look.own?.[part.node.name] ?? look.mode] ?? SOLID;
    const state = look.states[part.node.name];
    const shown = state !== null;
    const covers = part.node.materials.map(([, own]) => Math.min(state ?? own, mode.opacity));
    const opacity = Math.max(...covers);
    const flat = mode.fill === "flat";
    const inks = part.node.materials.map(([colour, , picture]): Ink => ({
      colour: flat ? look.background : colour,
      map: this.mapped(part) ? this.model.pictures.get(picture) : null,
    }));
    const filled = look.cuts.some((cut) => cut.filled);
    const hatch = look.cuts.some((cut) => cut.hatched) ? number % HATCHES : -1;
    const dressed = (one: (ink: Ink, cover: number) => three.Material) => inks.map((ink, shading) => one(ink, covers[shading] ?? 1));
    part.solid.visible = shown && mode.fill !== "none";
    const side = filled && opacity >= 1 ? three.FrontSide : three.DoubleSide;
    part.solid.material = dressed((ink, cover) => this.fill(ink, cover, flat, side, planes, "solid"));
    part.cap.visible = shown && mode.fill !== "none" && filled && opacity >= 1;
    // what is seen of a closed part from within lies behind its cut face
    if (part.cap.visible) part.cap.material = dressed((ink) => this.fill(shade(ink), 1, true, three.BackSide, planes, "cap", hatch));
    part.ghost.visible = shown && mode.fill !== "none" && look.cuts.some((cut) => cut.ghost);
    if (part.ghost.visible) part.ghost.material = dressed((ink, cover) => this.fill(ink, Math.min(cover, GHOST), flat, three.DoubleSide, away, "ghost"));
    // where a round part turns away there is no edge; within a cut part it would show
    part.outline.visible = shown && mode.edges && mode.fill !== "none" && opacity >= 1 && !look.cuts.length;
    part.edges.visible = shown && mode.edges;
    part.edges.material = this.line(INK, Math.max(opacity, 0.4), planes);
    part.box.visible = shown && !!mode.box;
    part.box.material = this.line(new three.Color(part.node.materials[0]?.[0] ?? INK).getHex(), 1, []);
  }

  private mapped = (part: Part) => part.solid.geometry.hasAttribute("uv");

  /** Materials of planes that are no more. */
  private forget(planes: three.Plane[]) {
    const sign = signOf(planes);
    if (this.sign === sign) return;
    this.sign = sign;
    for (const material of this.materials.values()) material.dispose();
    this.materials.clear();
  }
  private sign = "";

  /** Told when a cut's outline has come, which takes a moment. */
  whenChanged(run: () => void) {
    this.faces.changed = run;
  }

  /** What can be picked from, nearest first: not what is hidden. */
  solids(): three.Mesh[] {
    return this.parts.filter((part) => part.solid.visible || part.box.visible || part.edges.visible).map((part) => part.solid);
  }

  dispose() {
    this.forget([new three.Plane(new three.Vector3(0, 0, 1), Math.random())]);
    this.model.pictures.dispose();
    this.halo.dispose();
    this.faces.dispose();
    for (const lines of this.lines.values()) lines.dispose();
    for (const part of this.parts) part.box.geometry.dispose();
  }
}

const signOf = (planes: three.Plane[]) => planes.map((p) => [p.normal.x, p.normal.y, p.normal.z, p.constant].map((v) => v.toFixed(5)).join(",")).join(";");

const shade = (ink: Ink): Ink => ({ colour: new three.Color(ink.colour).multiplyScalar(CAP).getHex(), map: null });

function boxGeometry(box: three.Box3): three.BoxGeometry {
  const size = box.getSize(new three.Vector3());
  const middle = box.getCenter(new three.Vector3());
  return new three.BoxGeometry(size.x, size.y, size.z).translate(middle.x, middle.y, middle.z);
}
