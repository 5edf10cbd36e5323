import { create } from "zustand";
import type { EdgeOnSheet, Schemas } from "../api/client";
import * as texts from "./texts";

export type Mode = "pull" | "section" | "detail" | "dimension" | "note" | "region" | "shift" | "area";
export type DimensionKind = NonNullable<Schemas["DimensionRequest"]["kind"]>;
export type Pick = EdgeOnSheet & { at: number[] };

export interface DeskState {
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
  pull: texts.clickWhereToPutThe,
  section: texts.drawTheCuttingPlaneAcross,
  detail: texts.drawTheCircleOfThe,
  dimension: texts.clickAPointAnEdge,
  region: texts.dragARectangleOverThe,
  shift: texts.dragTheDrawingInsideIts,
  note: texts.clickWhereTheNoteBegins,
  area: texts.dragTheAreaOnTheSheet,
};
