import { Button, Input } from "antd";
import type { Edit, Job, Sheet, Schemas } from "../api/client";
import type { Field, PreparedView } from "../api/solids";
import { useReview, type Review } from "../review/state";
import { another, captured, missing, shownBy } from "./captured";
import * as texts from "./texts";

interface Props {
  review: Review;
  job: Job;
  sheet: Sheet;
  field: Field;
  edit: (edit: Edit) => void;
  /** Asks whether what the hand turned to is kept, and goes on. */
  keepFirst: (go: () => void) => void;
}

/** A field's prepared views: chosen, set to what is seen, named, ordered, added, taken away. */
export function ViewList({ review, job, sheet, field, edit, keepFirst }: Props) {
  const at = useReview(review, (state) => state.at);
  const { model } = review.getState();
  const put = (views: PreparedView[], more: Schemas["Annotation3dPatch"] = {}) =>
    edit({ kind: "change_annotation_3d", sheet: sheet.id, annotation: field.id, fields: { views, ...more } });
  const keep = (view: PreparedView) => edit({ kind: "change_prepared_view", sheet: sheet.id, annotation: field.id, view });
  const choose = (view: PreparedView) => keepFirst(() => review.setState({ at: view.id, look: shownBy(view, model, field.size[0] / field.size[1]) }));
  const current = field.views.find((view) => view.id === at);
  const swap = (view: PreparedView, by: number) => {
    const views = field.views.filter((own) => own !== view);
    views.splice(field.views.indexOf(view) + by, 0, view);
    put(views);
  };
  const add = () => {
    const view = captured(another(field), review.getState().look, model);
    keep(view);
    review.setState({ at: view.id });
  };
  const waiting = missing(job, field);
  return (
    <>
      <ul className="rows prepared" aria-label={texts.preparedViews}>
        {field.views.map((view, index) => (
          <li key={view.id}>
            <button type="button" className={view.id === at ? "row chosen" : "row"} aria-pressed={view.id === at} onClick={() => choose(view)}>
              <span>{view.name}</span>
              <em>{told(view, view.id === (field.default || field.views[0]?.id))}</em>
            </button>
            {view === current && (
              <div className="row-fields">
                <Input
                  key={view.name}
                  size="small"
                  aria-label={texts.nameOfTheView}
                  defaultValue={view.name}
                  onBlur={(event) => event.target.value.trim() && event.target.value.trim() !== view.name && keep({ ...view, name: event.target.value })}
                  onPressEnter={(event) => event.currentTarget.blur()}
                />
                <Button type="primary" size="small" onClick={() => keep(captured(view, review.getState().look, model))}>
                  {texts.update} {view.name}
                </Button>
                <span className="layer-acts">
                  <button
                    type="button"
                    onClick={() => put(field.views, { default: view.id })}
                    disabled={(field.default || field.views[0]?.id) === view.id}
                    title={(field.default || field.views[0]?.id) === view.id ? texts.theFieldOpensWithIt : undefined}
                  >
                    {texts.openWithIt}
                  </button>
                  {view.camera && (
                    <button type="button" onClick={() => keep({ ...view, camera: null })}>
                      {texts.fitToTheModel}
                    </button>
                  )}
                  <button type="button" onClick={() => swap(view, -1)} disabled={index === 0} title={index === 0 ? texts.itIsTheFirstView : undefined}>
                    {texts.up}
                  </button>
                  <button
                    type="button"
                    onClick={() => swap(view, 1)}
                    disabled={index === field.views.length - 1}
                    title={index === field.views.length - 1 ? texts.itIsTheLastView : undefined}
                  >
                    {texts.down}
                  </button>
                  <button
                    type="button"
                    onClick={() => put(field.views.filter((own) => own !== view))}
                    disabled={field.views.length === 1}
                    title={field.views.length === 1 ? texts.theFieldNeedsAView : undefined}
                  >
                    {texts.remove}
                  </button>
                </span>
              </div>
            )}
          </li>
        ))}
      </ul>
      <Button onClick={add}>{texts.saveAsAView}</Button>
      {waiting.length > 0 && (
        <Button type="link" size="small" className="flush" onClick={() => put([...field.views, ...waiting])}>
          {texts.addSavedViewpoints} {waiting.map((view) => view.name).join(", ")}
        </Button>
      )}
    </>
  );
}

/** What there is to say of a view, in few words. */
function told(view: PreparedView, opens: boolean): string {
  const words = [view.cuts.length && "cut", Object.keys(view.faded).length && "faded", view.hidden.length && texts.partsHidden].filter(Boolean);
  return [opens && "opens", ...words, view.camera ? "set" : "fits"].filter(Boolean).join(", ");
}
