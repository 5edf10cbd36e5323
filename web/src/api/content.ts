/** What a view shows, by kind. */
import type { Schemas, View } from "./client";

type Shows = Pick<View, "content">;

/** A view's content; of a detail what it is a detail of. */
const whole = ({ content }: Shows) => (content.kind === "detail" ? content.of : content);

/** How a view of a model is looked at; null for a drawing and a flat pattern. */
export const modelOf = (view: Shows) => {
  const shown = whole(view);
  return shown.kind === "drawing" || shown.kind === "flat" ? null : shown;
};

/** What is shown unfolded; null for any other. */
export const flatOf = (view: Shows) => {
  const shown = whole(view);
  return shown.kind === "flat" ? shown : null;
};

/** What is shown of a drawing; null for a model. */
export const excerptOf = (view: Shows): Schemas["Excerpt"] | null => {
  const shown = whole(view);
  return shown.kind === "drawing" ? shown.excerpt : null;
};

/** Whether a view shows a kind of edge: a drawing has but one, and a flat pattern all but the limits of bends, unless wanted. */
export const isShown = (view: Pick<View, "content" | "classes">, edges: string) => {
  const flat = flatOf(view);
  if (flat) return edges !== "bend limit" || flat.limits;
  return !!excerptOf(view) || view.classes.includes(edges as never);
};

/** The cutting plane of a section; null for any other. */
export const sectionOf = (view: Shows) => {
  const shown = whole(view);
  return shown.kind === "section" ? shown.plane : null;
};

/** The circle of a detail; null for any other. */
export const detailOf = ({ content }: Shows) => (content.kind === "detail" ? content.circle : null);

/** The components that a view does not show. */
export const hiddenOf = (view: Shows) => modelOf(view)?.hidden ?? [];
