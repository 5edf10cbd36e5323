import type { Picture, Sheet, Trade, View } from "../api/client";

export type Box = [number, number, number, number];

/** The value of a scale that the server wrote, paper : model. */
export function ratio(scale: string): number {
  const [paper, model] = scale.split(":").map(Number);
  return (paper ?? 1) / (model ?? 1);
}

/** The box of a view's drawn lines on the sheet, mm, y up; null when nothing of it is drawn. */
export function boxOf(view: View, picture: Picture | null | undefined): Box | null {
  const boxes = picture?.paths.filter((path) => view.classes?.includes(path.edge_class as never)).map((path) => path.box) ?? [];
  if (!boxes.length) return null;
  const s = ratio(view.scale ?? "1:1");
  const [ax, ay] = view.anchor ?? [0, 0];
  const [px, py] = view.place ?? [0, 0];
  const low = (i: 0 | 1) => Math.min(...boxes.map((box) => box[i]));
  const high = (i: 2 | 3) => Math.max(...boxes.map((box) => box[i]));
  return [(low(0) - ax) * s + px, (low(1) - ay) * s + py, (high(2) - ax) * s + px, (high(3) - ay) * s + py];
}

export interface PaperSize {
  width: number;
  height: number;
}

/** A sheet's size as it lies, mm. Formats that are not named say their size themselves ("90x60mm"). */
export function paperOf(sheet: Sheet, trade: Trade | undefined): PaperSize {
  const named = trade?.formats.find((format) => format.name === sheet.format);
  const [w = 210, h = 297] = named ? [named.width, named.height] : (sheet.format ?? "").replace("mm", "").split("x").map(Number);
  const [short, long] = [Math.min(w, h), Math.max(w, h)];
  return sheet.orientation === "portrait" ? { width: short, height: long } : { width: long, height: short };
}

/** The frame line of a sheet, or null without one. */
export function frameOf(sheet: Sheet, paper: PaperSize, trade: Trade | undefined): Box | null {
  if (sheet.frame !== "iso" || !trade) return null;
  const [left, bottom, right, top] = trade.frame_margins;
  if (paper.width <= left + right || paper.height <= bottom + top) return null;
  return [left, bottom, paper.width - right, paper.height - top];
}

/** By how much a box leaves the sheet, side by side. */
export function excess(box: Box, paper: PaperSize): { side: string; by: number }[] {
  const over = { left: -box[0], bottom: -box[1], right: box[2] - paper.width, top: box[3] - paper.height };
  return Object.entries(over)
    .filter(([, by]) => by > 1e-6)
    .map(([side, by]) => ({ side, by }));
}

/** A length for a person: at most three decimals. */
export const mm = (value: number, digits = 3) => Number(value.toFixed(digits)).toString();

/** All that decides a view's lines, so that lines are asked for again only when they change. */
export function decides(view: View): string {
  const tolerance = Math.floor(-Math.log10(ratio(view.scale ?? "1:1")) + 1e-9);
  return JSON.stringify([view.source, view.look, view.up, [...(view.hidden ?? [])].sort(), tolerance]);
}
