import type { ReviewState } from "./state";
import type { Axis } from "./cutting";
import { quarter } from "./orienting";
import * as texts from "./texts";

export interface Act {
  id: string;
  title: string;
  /** Its letter, while the model has the focus. */
  key: string;
  run: (state: ReviewState, name: string) => void;
}

/** What can be done with a part. */
export const PART_ACTS: Act[] = [
  { id: "hide", title: texts.hide, key: "H", run: ({ show, select }, name) => (show(name, "toggle"), select(null)) },
  { id: "only", title: texts.onlyThis, key: "O", run: ({ show }, name) => show(name, "only") },
  { id: "fade", title: texts.seeThrough, key: "T", run: ({ show }, name) => show(name, "faded") },
  { id: "edges", title: texts.edgesOnly, key: "E", run: ({ draw, look }, name) => draw(name, look.own?.[name] === "Wireframe" ? "" : "Wireframe") },
  { id: "go", title: texts.goToIt, key: "G", run: ({ fit }, name) => fit(name) },
];

/** What a letter does while the model has the focus; whether it does anything. */
export function acted(event: KeyboardEvent, state: ReviewState): boolean {
  const key = event.key.toUpperCase();
  if (event.key === "Escape") {
    if (!state.tool && !state.menu && state.selected === null) return false;
    state.set({ tool: null, picks: [], refusal: "", menu: null, selected: null });
    return true;
  }
  if (event.key === "ContextMenu" || (event.key === "F10" && event.shiftKey)) {
    if (state.selected === null) return false;
    state.set({ menu: { x: 24, y: 24, name: state.selected } });
    return true;
  }
  if (key === "A") return (state.showAll(), true);
  if (key === "F") return (state.fit(), true);
  if (/^[XYZ]$/.test(key) && state.keeper.turn) {
    state.keeper.turn(quarter(key.toLowerCase() as Axis, event.shiftKey));
    return true;
  }
  const act = PART_ACTS.find((own) => own.key === key);
  if (!act || state.selected === null) return false;
  act.run(state, state.selected);
  return true;
}
