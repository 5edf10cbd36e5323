/** What views are called. */
import type { View } from "../api/client";
import { detailOf, modelOf, sectionOf } from "../api/content";
import * as texts from "./texts";
import * as paperTexts from "../paper/texts";

/** A section or a detail by its letters, any other by its name. */
export function shortTitle(view: View): string {
  const [section, detail] = [sectionOf(view), detailOf(view)];
  if (detail) return texts.detail2(detail.letter);
  return section ? texts.section2(section.letter) : view.name;
}

/** In words, as a heading. */
export function titleOf(view: View): string {
  const short = shortTitle(view);
  if (short !== view.name) return capital(short);
  if (view.name.startsWith("dir:")) return texts.viewAlong((modelOf(view)?.look ?? []).map((v) => Number(v.toPrecision(3))).join(", "));
  return paperTexts.view(capital(view.name));
}

const capital = (text: string) => `${text.charAt(0).toUpperCase()}${text.slice(1)}`;
