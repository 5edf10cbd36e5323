import * as three from "three";
import { useEffect } from "react";
import type { Edit, Job, Sheet } from "../api/client";
import { newId } from "../common/ids";
import { useSectionOf3d, type Field } from "../api/solids";
import { fitted } from "../review/camera";
import type { Keeper } from "../review/kept";
import { matrixOf, triple, type Model, type Rows } from "../review/model";
import { shownCorners, type Look, type Review } from "../review/state";
import { captured, fresh } from "./captured";

const LINE = 6;

/** The middle of a model's box after a turn, mm. */
function middleAfter(model: Model, turn: Rows): three.Vector3 {
  const by = matrixOf(turn);
  const box = new three.Box3();
  const p = new three.Vector3();
  for (const node of model.nodes) {
    const world = by.clone().multiply(model.worlds.get(node.name) as three.Matrix4);
    for (const number of node.meshes) {
      const at = model.meshes[number]?.geometry.getAttribute("position");
      for (let k = 0; at && k < at.count; k++) box.expandByPoint(p.fromBufferAttribute(at, k).applyMatrix4(world));
    }
  }
  return box.getCenter(new three.Vector3());
}

/** The first of "name", "name 2" and so on that no prepared view is called. */
export function freeView(field: Field, name: string): string {
  const taken = new Set(field.views.map((view) => view.name.toLowerCase()));
  let number = 2;
  let made = name;
  while (taken.has(made.toLowerCase())) made = `${name.slice(0, 54)} ${number++}`;
  return made;
}

interface Props {
  job: Job;
  sheet: Sheet;
  field: Field;
  edit: (edit: Edit) => void;
}

/** What is kept of a review goes to the sheet's 3D annotation, and comes from there. */
export function useKept(review: Review | undefined, field: Field | undefined, sheet: Sheet, edit: (edit: Edit) => void) {
  useEffect(() => {
    if (!review || !field) return;
    const of = { sheet: sheet.id, annotation: field.id };
    review.setState({
      kept: field.kept,
      keeper: {
        ...review.getState().keeper,
        lasting: true,
        keep: (item) => edit({ kind: "keep_in_annotation_3d", ...of, item }),
        forget: (items) => edit({ kind: "forget_in_annotation_3d", ...of, items }),
      },
    });
  }, [review, field, sheet.id, edit]);
}

/** What the studio of a 3D annotation does for its review beside keeping: views, notes, section views, turns. */
export function useStudioKeeper(review: Review, { job, sheet, field, edit }: Props, carry: (look: Look, front: boolean) => void, leave: () => void) {
  const section = useSectionOf3d(job.id);
  useKept(review, field, sheet, edit);
  useEffect(() => {
    const of = { sheet: sheet.id, annotation: field.id };
    const { model } = review.getState();
    const more: Partial<Keeper> = {
      asView: (name) => {
        const view = captured(fresh(newId(), freeView(field, name)), review.getState().look, model);
        edit({ kind: "change_prepared_view", ...of, view });
        review.setState({ at: view.id });
      },
      asNote: (text) => {
        const [x, y] = field.place;
        const below = sheet.notes.filter((note) => Math.abs(note.place[0] - x) < 1 && note.place[1] <= y).length;
        const place: [number, number] = [x, Math.max(LINE, y - 3 - below * LINE)];
        edit({ kind: "add_note", sheet: sheet.id, note: { id: newId(), text, place, height: 3.5, angle: 0, view: null, target: null, always: false } });
      },
      asSection: (cut) =>
        section.mutate({ sheet: sheet.id, field: field.id, cut, middle: triple(model.box3.getCenter(new three.Vector3())) }, { onSuccess: leave }),
      turn: (turn, toFront = false) => {
        carry(review.getState().look, toFront);
        const middle = triple(model.box3.getCenter(new three.Vector3()));
        edit({ kind: "turn_annotation_3d", ...of, turn, middle, after: triple(middleAfter(model, turn)) });
      },
    };
    review.setState({ keeper: { ...review.getState().keeper, ...more } });
  }, [review, job.id, sheet, field, edit, section, carry, leave]);
}

/** A look at a model that was turned: drawn as before, from the same side, or from the front, all of it in the picture. */
export function lookAfter(model: Model, before: Look, front: boolean, aspect: number): Look {
  const { camera } = before;
  const along = [0, 1, 2].map((k) => (camera.target[k] as number) - (camera.position[k] as number)) as [number, number, number];
  const corners = shownCorners(model, before.states);
  const made = front ? fitted([0, 1, 0], [0, 0, 1], corners, aspect, camera.perspective) : fitted(along, camera.up, corners, aspect, camera.perspective);
  return { ...before, camera: made, cuts: [] };
}
