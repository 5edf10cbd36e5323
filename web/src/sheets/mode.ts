import { create } from "zustand";
import type { EdgeOnSheet, Schemas } from "../api/client";

export type Mode = "pull" | "section" | "detail" | "dimension" | "note" | "region" | "shift";
export type DimensionKind = NonNullable<Schemas["DimensionWish"]["kind"]>;
export type Pick = EdgeOnSheet & { at: number[] };

interface DeskState {
  /** What the next press on the desk does; null: select and move. */
  mode: Mode | null;
  /** Edges picked for a dimension, at most two. */
  picks: Pick[];
  kind: DimensionKind | null;
  /** Views selected beside the one in the address. */
  also: readonly string[];
  begin: (mode: Mode | null) => void;
  pick: (pick: Pick) => void;
  setKind: (kind: DimensionKind | null) => void;
  setAlso: (also: readonly string[]) => void;
}

export const useDeskMode = create<DeskState>((set) => ({
  mode: null,
  picks: [],
  kind: null,
  also: [],
  begin: (mode) => set({ mode, picks: [], kind: null }),
  pick: (pick) => set((state) => ({ picks: [...state.picks, pick].slice(-2) })),
  setKind: (kind) => set({ kind }),
  setAlso: (also) => set({ also }),
}));

/** What to do, in words, while a mode is on. */
export const MODE_WORDS: Record<Mode, string> = {
  pull: "Click where to put the view: in line with the other for a projected view, on a diagonal for a pictorial one",
  section: "Draw the cutting plane across the view; you look from the left of your line",
  detail: "Draw the circle of the detail from its centre outward",
  dimension: "Click a point, an edge or a circle, then a second one or the position of the figure",
  region: "Drag a rectangle over the part of the drawing to show",
  shift: "Drag the drawing inside its edge; the edge stays where it is",
  note: "Click where the note begins; drag to it from what it points at for a leader",
};
