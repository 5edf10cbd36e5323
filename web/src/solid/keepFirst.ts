import { App } from "antd";
import { useCallback } from "react";
import type { Edit, Sheet } from "../api/client";
import type { Field } from "../api/solids";
import type { Review } from "../review/state";
import { captured, shownBy } from "./captured";
import * as texts from "./texts";

/** Whether what is seen is no longer what the view shows that was chosen last. */
export function turnedSince(review: Review, field: Field): boolean {
  const { at, look, model } = review.getState();
  const view = field.views.find((own) => own.id === at);
  if (!view) return false;
  const said = (seen: typeof look) =>
    JSON.stringify(captured(view, seen, model), (_, value: unknown) => (typeof value === "number" ? Number(value.toPrecision(6)) : value));
  return said(look) !== said(shownBy(view, model, field.size[0] / field.size[1]));
}

/** Before another view is chosen, or the studio is left: whether what the hand turned to is to be kept is asked. */
export function useKeepFirst(review: Review, field: Field, { sheet, edit }: { sheet: Sheet; edit: (edit: Edit) => void }) {
  const { modal } = App.useApp();
  return useCallback(
    (go: () => void) => {
      const { at, look, model } = review.getState();
      const view = field.views.find((own) => own.id === at);
      if (!view || !turnedSince(review, field)) return go();
      void modal.confirm({
        title: texts.turnedSinceItWasSet(view.name),
        okText: texts.updateView(view.name),
        cancelText: texts.leaveItAsItWas,
        onOk: () => {
          edit({ kind: "change_prepared_view", sheet: sheet.id, annotation: field.id, view: captured(view, look, model) });
          go();
        },
        onCancel: go,
      });
    },
    [review, field, sheet.id, edit, modal],
  );
}
