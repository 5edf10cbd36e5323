import * as three from "three";
import { createStore, useStore, type StoreApi } from "zustand";
import { fitted, inPerspective } from "./camera";
import { cutOf, type Cut } from "./cutting";
import { measure, PICKS, type Measure, type Pick, type Reading, type Unit } from "./measuring";
import { beneath, type Camera, type FileView, type Model, type Triple } from "./model";
import * as texts from "./texts";

/** How the model is seen: all that a prepared view keeps. */
export interface Look {
  camera: Camera;
  background: string;
  lighting: string;
  mode: string;
  /** Opacity of nodes that have one of their own; null for hidden ones. */
  states: Record<string, number | null>;
  cut: Cut | null;
}

export type Hand = "turn" | "spin" | "pan" | "zoom" | "walk";

export interface ReviewState {
  model: Model;
  views: FileView[];
  look: Look;
  at: string | null;
  selected: string | null;
  hand: Hand;
  tool: Measure | null;
  picks: Pick[];
  readings: Reading[];
  refusal: string;
  unit: Unit;
  kept: { name: string; camera: Camera }[];
  aspect: number;
  see: (look: Partial<Look>) => void;
  choose: (view: FileView) => void;
  select: (name: string | null) => void;
  set: (state: Partial<Omit<ReviewState, "model">>) => void;
  pick: (pick: Pick) => void;
  show: (name: string, how: "toggle" | "only" | "faded") => void;
  showAll: () => void;
  fit: (name?: string, look?: Triple, up?: Triple) => void;
  keep: () => void;
}

export type Review = StoreApi<ReviewState>;
export const FADED = 0.3;

const sky: Look = {
  camera: { position: [1, -1, 1], target: [0, 0, 0], up: [0, 0, 1], perspective: true, span: 30 },
  background: "#ffffff",
  lighting: "CAD",
  mode: "Solid",
  states: {},
  cut: null,
};

export const lookOf = (view: FileView): Look => ({
  camera: view.camera,
  background: view.background,
  lighting: view.lighting,
  mode: view.mode,
  states: { ...view.states },
  cut: view.cut && cutOf(view.cut),
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
  let count = 0;
  return createStore<ReviewState>()((set, get) => ({
    model,
    views: model.views,
    look: first ? lookOf(first) : { ...sky, camera: fitted([-1, 1, -1], [0, 0, 1], shownCorners(model, {}), 1.4, true) },
    at: first?.id ?? null,
    selected: null,
    hand: "turn",
    tool: null,
    picks: [],
    readings: [],
    refusal: "",
    unit: model.unit,
    kept: [],
    aspect: 1.4,
    see: (look) => set((state) => ({ look: { ...state.look, ...look } })),
    choose: (view) => set({ look: lookOf(view), at: view.id }),
    select: (selected) => set({ selected }),
    set: (state) => set(state),
    pick: (pick) => {
      const { tool, picks, readings } = get();
      if (!tool) return;
      const all = [...picks, pick];
      if (all.length < PICKS[tool]) return set({ picks: all, refusal: "" });
      const found = measure(tool, all);
      if (typeof found === "string") return set({ picks: [], refusal: found });
      count += 1;
      set({ picks: [], refusal: "", readings: [...readings, { ...found, id: count }] });
    },
    show: (name, how) => {
      const names = beneath(model, name);
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
        const off = states[name] === to;
        for (const own of names) {
          if (off) delete states[own];
          else states[own] = to;
        }
      }
      get().see({ states });
    },
    showAll: () => get().see({ states: Object.fromEntries(Object.entries(get().look.states).filter(([, v]) => v !== null)) }),
    fit: (name, look, up) => {
      const { look: now, aspect } = get();
      const along = look ?? ([0, 1, 2].map((k) => (now.camera.target[k] as number) - (now.camera.position[k] as number)) as Triple);
      get().see({ camera: fitted(along, up ?? now.camera.up, shownCorners(model, now.states, name), aspect, now.camera.perspective) });
    },
    keep: () => set((state) => ({ kept: [...state.kept, { name: texts.camera(state.kept.length + 1), camera: state.look.camera }] })),
  }));
}

export const useReview = <T>(review: Review, select: (state: ReviewState) => T): T => useStore(review, select);

export const switched = (review: Review, perspective: boolean) => review.getState().see({ camera: inPerspective(review.getState().look.camera, perspective) });
