import type { View } from "./client";
import { detailOf, excerptOf, hiddenOf, modelOf, sectionOf } from "./content";

/** All that decides a view's lines, so that lines are asked for again only when they change. */
export function decides(view: View): string {
  const tolerance = Math.floor(-Math.log10(ratioOf(view.scale ?? "1:1")) + 1e-9);
  const excerpt = excerptOf(view);
  if (excerpt) return JSON.stringify([view.source, { ...excerpt, off: [...excerpt.off].sort() }, detailOf(view)]);
  const model = modelOf(view);
  const uncut = [...(sectionOf(view)?.uncut ?? [])].sort();
  const cut = model?.kind === "section" ? model.depth : null;
  return JSON.stringify([view.source, model?.look, model?.up, model?.hidden_lines, [...hiddenOf(view)].sort(), tolerance, cut, uncut, detailOf(view)]);
}

function ratioOf(scale: string): number {
  const [paper, model] = scale.split(":").map(Number);
  return (paper ?? 1) / (model ?? 1);
}
