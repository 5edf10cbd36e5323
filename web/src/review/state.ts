import * as three from "three";
import { createStore, useStore, type StoreApi } from "zustand";
import { newId } from "../common/ids";
import { measureParts } from "./bodies";
import { atHeight, fitted, inPerspective, uprighted } from "./camera";
import { cutOf, type Axis, type Cut } from "./cutting";
import { readingOf, type Keeper, type KeptItem } from "./kept";
import { measure, OF_PARTS, PICKS, type Measure, type Pick, type Reading, type Unit } from "./measuring";
import { beneath, type FileView, type Camera, type Model, type Triple } from "./model";

/** How the model is seen: all that a prepared view keeps. */
export interface Look {
  camera: Camera;
  background: string;
  lighting: string;
  mode: string;
  /** Opacity of nodes that have one of their own; null for hidden ones. */
  states: Record<string, number | null>;
  cuts: Cut[];
  /** How a part is drawn that is drawn otherwise than the rest, by node: a render mode. Not a part of prepared views. */
  own?: Record<string, string>;
}

/** Looked at from outside, or walked through. */
export type Manner = "inspect" | "walk";
/** What a click does: selects, or takes hold of what a tool asks for. */
export type Tool = Measure | "face" | "mark";

export interface ReviewState {
  model: Model;
  views: FileView[];
  look: Look;
  at: string | null;
  selected: string | null;
  manner: Manner;
  /** Whether the model stays upright while it is turned. */
  upright: boolean;
  /** Of walking: m/s, how high the eyes are above the floor, mm, and whether one stays that high. */
  walk: { speed: number; eye: number; level: boolean };
  /** The colour of the outline about what is selected. */
  highlight: string;
  /** The plane whose handles are shown. */
  plane: Axis | null;
  tool: Tool | null;
  picks: Pick[];
  readings: Reading[];
  refusal: string;
  unit: Unit;
  kept: KeptItem[];
  keeper: Keeper;
  /** Where a mark is about to be written. */
  marking: { at: Triple; part: string } | null;
  /** Where the acts for a part are offered, in pixels of the picture. */
  menu: { x: number; y: number; name: string } | null;
  aspect: number;
  see: (look: Partial<Look>) => void;
  choose: (view: FileView) => void;
  select: (name: string | null) => void;
  set: (state: Partial<Omit<ReviewState, "model">>) => void;
  pick: (pick: Pick) => void;
  /** Of a part, or of several with all beneath them. */
  show: (name: string | string[], how: "toggle" | "only" | "faded") => void;
  showAll: () => void;
  draw: (name: string, mode: string) => void;
  fit: (name?: string, look?: Triple, up?: Triple) => void;
}

export type Review = StoreApi<ReviewState>;
export const FADED = 0.3;

const sky: Look = {
  camera: { position: [1, -1, 1], target: [0, 0, 0], up: [0, 0, 1], perspective: true, span: 30 },
  background: "#ffffff",
  lighting: "CAD",
  mode: "Solid",
  states: {},
  cuts: [],
};

export const lookOf = (view: FileView): Look => ({
  camera: view.camera,
  background: view.background,
  lighting: view.lighting,
  mode: view.mode,
  states: { ...view.states },
  own: { ...view.drawn },
  cuts: view.cuts.map(cutOf),
});

/** The corners of the boxes of what is shown. */
export function shownCorners(model: Model, states: Look["states"], only?: string): three.Vector3[] {
  const chosen = only === undefined ? null : new Set(beneath(model, only));
  const rows = model.nodes.filter((node) => (chosen ? chosen.has(node.name) : states[node.name] !== null));
  const corners = rows.flatMap((node) =>
    node.meshes.flatMap((number) => {
      const box = model.meshes[number]?.geometry.boundingBox?.clone().applyMatrix4(model.worlds.get(node.name) as three.Matrix4);
      if (!box) return [];
      return [0, 1, 2, 3, 4, 5, 6, 7].map(
        (k) => new three.Vector3(k & 1 ? box.max.x : box.min.x, k & 2 ? box.max.y : box.min.y, k & 4 ? box.max.z : box.min.z),
      );
    }),
  );
  return corners.length ? corners : [model.box3.min.clone(), model.box3.max.clone()];
}

/** A review of a model: what is seen of it, selected, measured. */
export function createReview(model: Model): Review {
  const first = model.views[model.first] ?? model.views[0];
  const store = createStore<ReviewState>()((set, get) => ({
    model,
    views: model.views,
    look: first ? lookOf(first) : { ...sky, camera: fitted([-1, 1, -1], [0, 0, 1], shownCorners(model, {}), 1.4, true) },
    at: first?.id ?? null,
    selected: null,
    manner: "inspect",
    upright: true,
    walk: { speed: 1.4, eye: 1600, level: false },
    highlight: HIGHLIGHTS[0] as string,
    plane: null,
    tool: null,
    picks: [],
    readings: [],
    refusal: "",
    unit: model.unit,
    kept: (model.kept ?? []) as KeptItem[],
    keeper: {
      keep: (item) => set((state) => ({ kept: [...state.kept.filter((own) => own.id !== item.id), item] })),
      forget: (ids) => set((state) => ({ kept: state.kept.filter((own) => !ids.includes(own.id)) })),
    },
    marking: null,
    menu: null,
    aspect: 1.4,
    see: (look) => set((state) => ({ look: { ...state.look, ...look } })),
    choose: (view) => set({ look: lookOf(view), at: view.id }),
    select: (selected) => set({ selected }),
    set: (state) => set(state),
    pick: (pick) => {
      const { tool, picks, readings } = get();
      if (!tool || tool === "face" || tool === "mark") return;
      const all = [...picks, pick];
      if (all.length < PICKS[tool]) return set({ picks: all, refusal: "" });
      const parts = [...new Set(all.map((own) => own.node))];
      const found = OF_PARTS.includes(tool)
        ? measureParts(
            model,
            tool,
            all.map((own) => own.node),
          )
        : measure(tool, all);
      if (typeof found === "string") return set({ picks: [], refusal: found });
      set({ picks: [], refusal: "", readings: [...readings, { ...found, id: newId(), parts }] });
    },
    show: (name, how) => {
      const asked = typeof name === "string" ? [name] : name;
      const names = asked.flatMap((own) => beneath(model, own));
      const states = { ...get().look.states };
      if (how === "only") {
        const kept = new Set(names);
        for (const node of model.nodes) {
          if (!node.meshes.length) delete states[node.name];
          else if (!kept.has(node.name)) states[node.name] = null;
          else if (states[node.name] === null) delete states[node.name];
        }
      } else {
        const to = how === "toggle" ? null : FADED;
        const off = asked.every((own) => states[own] === to);
        for (const own of names) {
          if (off) delete states[own];
          else states[own] = to;
        }
      }
      get().see({ states });
    },
    // hidden, alone, seen through, drawn otherwise: all of it is undone
    showAll: () => get().see({ states: {}, own: {} }),
    draw: (name, mode) => {
      const own = { ...get().look.own };
      for (const part of beneath(model, name)) {
        if (mode) own[part] = mode;
        else delete own[part];
      }
      get().see({ own });
    },
    fit: (name, look, up) => {
      const { look: now, aspect } = get();
      const along = look ?? ([0, 1, 2].map((k) => (now.camera.target[k] as number) - (now.camera.position[k] as number)) as Triple);
      get().see({ camera: fitted(along, up ?? now.camera.up, shownCorners(model, now.states, name), aspect, now.camera.perspective) });
    },
  }));
  return store;
}

export const HIGHLIGHTS = ["#d9480f", "#1f6f5c", "#0b5cad", "#c2255c", "#f2b705"];

/** All readings: those of now, and before them those that are kept. */
export const allReadings = (state: Pick_): Reading[] => {
  const kept = state.kept.flatMap((own) => (own.kind === "reading" ? [readingOf(own)] : []));
  const known = new Set(kept.map((own) => own.id));
  return [...kept, ...state.readings.filter((own) => !known.has(own.id))];
};
type Pick_ = { kept: KeptItem[]; readings: Reading[] };

/** Change to inspecting or walking; whoever walks sees in perspective, and upright. */
export function take(review: Review, manner: Manner) {
  const { look, see, set, walk, model } = review.getState();
  set({ manner, tool: null, picks: [], refusal: "" });
  if (manner !== "walk") return;
  const round = uprighted(inPerspective(look.camera, true));
  see({ camera: walk.level ? atHeight(round, model.box3.min.z + walk.eye) : round });
}

export const useReview = <T>(review: Review, select: (state: ReviewState) => T): T => useStore(review, select);

export const switched = (review: Review, perspective: boolean) => review.getState().see({ camera: inPerspective(review.getState().look.camera, perspective) });
