import { App } from "antd";
import { useCallback } from "react";
import type { Edit, Sheet } from "../api/client";
import type { Field, PreparedView } from "../api/solids";
import type { Look, Review } from "../review/state";
import { another, captured, fresh, shownBy } from "./captured";
import * as texts from "./texts";

/** How a model is seen at first that was stood up anew: that is no view's. */
const stood = new WeakMap<Review, Look>();
export const standsNow = (review: Review, look: Look) => void stood.set(review, look);

/** The view that is at hand, and whether what is seen is no longer what it shows, or than how the model was stood up. */
export function turnedSince(review: Review, field: Field): { view: PreparedView | undefined; turned: boolean } {
  const { at, look, model } = review.getState();
  const view = field.views.find((own) => own.id === at);
  const before = view ? shownBy(view, model, field.size[0] / field.size[1]) : stood.get(review);
  const said = (seen: Look) =>
    JSON.stringify(captured(view ?? fresh("", ""), seen, model), (_, value: unknown) => (typeof value === "number" ? Number(value.toPrecision(6)) : value));
  return { view, turned: !!before && said(look) !== said(before) };
}

/** Before another view is chosen, or the studio is left: whether what the hand turned to is to be kept is asked. */
export function useKeepFirst(review: Review, field: Field, { sheet, edit }: { sheet: Sheet; edit: (edit: Edit) => void }) {
  const { modal } = App.useApp();
  return useCallback(
    (go: () => void) => {
      const { look, model } = review.getState();
      const { view, turned } = turnedSince(review, field);
      if (!turned) return go();
      void modal.confirm({
        title: view ? texts.turnedSinceItWasSet(view.name) : texts.seenIsNoView,
        okText: view ? texts.updateView(view.name) : texts.saveAsAView,
        cancelText: view ? texts.leaveItAsItWas : texts.leaveIt,
        onOk: () => {
          edit({ kind: "change_prepared_view", sheet: sheet.id, annotation: field.id, view: captured(view ?? another(field), look, model) });
          go();
        },
        onCancel: go,
      });
    },
    [review, field, sheet.id, edit, modal],
  );
}
