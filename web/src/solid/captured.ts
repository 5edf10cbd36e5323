import type { Job } from "../api/client";
import type { Field, PreparedView } from "../api/solids";
import { newId } from "../common/ids";
import { fitted } from "../review/camera";
import type { Model } from "../review/model";
import { shownCorners, type Look } from "../review/state";
import * as texts from "./texts";

/** A prepared view made of what is seen now: camera, cut, light, what is hidden and faded, by component. */
export function captured(view: PreparedView, look: Look, model: Model): PreparedView {
  const states = model.nodes.filter((node) => node.path && node.meshes.length && node.name in look.states);
  return {
    ...view,
    camera: look.camera,
    perspective: look.camera.perspective,
    background: look.background,
    lighting: look.lighting as PreparedView["lighting"],
    mode: look.mode as PreparedView["mode"],
    hidden: states.filter((node) => look.states[node.name] === null).map((node) => node.path),
    faded: Object.fromEntries(states.flatMap((node) => (typeof look.states[node.name] === "number" ? [[node.path, look.states[node.name] as number]] : []))),
    drawn: Object.fromEntries(
      model.nodes.flatMap((node) => (node.path && look.own?.[node.name] ? [[node.path, look.own[node.name] as PreparedView["mode"]]] : [])),
    ),
    cuts: look.cuts,
  };
}

/** What is said of the component that is nearest above, or of the component itself. */
const nearest = <T>(path: string, given: Readonly<Record<string, T>>): T | undefined => {
  const above = Object.keys(given).filter((own) => covered(path, [own]));
  return given[above.sort((a, b) => b.length - a.length)[0] ?? ""];
};

const covered = (path: string, by: readonly string[]) => by.some((own) => path === own || path.startsWith(`${own}/`));

/** What a prepared view shows, by the nodes of the model; without a camera of its own it takes in all that it shows. */
export function shownBy(view: PreparedView, model: Model, aspect: number): Look {
  const states: Look["states"] = {};
  const own: Record<string, string> = {};
  for (const node of model.nodes) {
    if (!node.path) continue;
    if (covered(node.path, view.hidden)) states[node.name] = null;
    else {
      const faded = nearest(node.path, view.faded);
      if (faded !== undefined) states[node.name] = faded;
    }
    const mode = nearest(node.path, view.drawn);
    if (mode) own[node.name] = mode;
  }
  const camera = view.camera ?? fitted(view.look, view.up, shownCorners(model, states), aspect, view.perspective);
  return { camera: camera, background: view.background, lighting: view.lighting, mode: view.mode, states, own, cuts: view.cuts };
}

/** Saved viewpoints that a field has no view of yet. */
export function missing(job: Job, field: Field): PreparedView[] {
  const has = new Set(field.views.map((view) => view.id));
  const names = new Set(field.views.map((view) => view.name.toLowerCase()));
  return job.document.viewpoints
    .map((saved) => ({ ...fresh(`saved-${saved.id}`, saved.name), look: saved.look, up: saved.up }))
    .filter((view) => !has.has(view.id) && !names.has(view.name.toLowerCase()));
}

/** A view that a field has not got yet, under the next free number. */
export function another(field: Field): PreparedView {
  const names = new Set(field.views.map((view) => view.name));
  let number = 1;
  while (names.has(texts.view(number))) number += 1;
  return fresh(newId(), texts.view(number));
}

export const fresh = (id: string, name: string): PreparedView => ({
  id,
  name,
  look: [-1, 1, -1],
  up: [0, 0, 1],
  perspective: false,
  camera: null,
  background: "#ffffff",
  lighting: "CAD",
  mode: "Solid",
  hidden: [],
  faded: {},
  drawn: {},
  cuts: [],
});
