import type { Job, Picture, Sheet, View } from "../api/client";
import { isShown } from "../api/content";
import * as texts from "./texts";

export type Box = [number, number, number, number];

/** The value of a scale that the server wrote, paper : model. */
export function ratio(scale: string): number {
  const [paper, model] = scale.split(":").map(Number);
  return (paper ?? 1) / (model ?? 1);
}

/** Where a point of a view's plane (model mm) lies on the sheet (mm): scaled, turned, moved. */
export function onSheet(view: View, [x, y]: readonly [number, number]): [number, number] {
  const s = ratio(view.scale ?? "1:1");
  const angle = ((view.rotation ?? 0) * Math.PI) / 180;
  const [ax, ay] = view.anchor ?? [0, 0];
  const [px, py] = view.place ?? [0, 0];
  const [dx, dy] = [(x - ax) * s, (y - ay) * s];
  const [cos, sin] = [Math.cos(angle), Math.sin(angle)];
  return [px + dx * cos - dy * sin, py + dx * sin + dy * cos];
}

/** The box of a view's drawn lines on the sheet, mm, y up; null when nothing of it is drawn. Of a turned view it is the box
 * about its turned box, until the server's exact one is there. */
export function boxOf(view: View, picture: Picture | null | undefined): Box | null {
  const boxes = picture?.paths.filter((path) => isShown(view, path.edge_class)).map((path) => path.box) ?? [];
  if (!boxes.length) return null;
  const low = (i: 0 | 1) => Math.min(...boxes.map((box) => box[i]));
  const high = (i: 2 | 3) => Math.max(...boxes.map((box) => box[i]));
  const corners = [low(0), high(2)].flatMap((x) => [low(1), high(3)].map((y) => onSheet(view, [x, y])));
  const xs = corners.map((c) => c[0]);
  const ys = corners.map((c) => c[1]);
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

export interface PaperSize {
  width: number;
  height: number;
}

/** A sheet's size as it lies, mm, as the server says. */
export function paperOf(job: Pick<Job, "sheets">, sheet: Pick<Sheet, "id">): PaperSize {
  const [width, height] = job.sheets[sheet.id]?.paper ?? [210, 297];
  return { width, height };
}

/** Whether a sheet shows nothing: neither a view, nor a 3D annotation, nor a part to cut. */
export const isEmpty = (sheet: Sheet) =>
  !sheet.views.length && !sheet.annotations_3d.length && !sheet.plates_table && !sheet.drawings_table && !sheet.cutting?.placed.length;
/** Why nothing can be done with an empty sheet; nothing for another. */
export const whyEmpty = (sheet: Sheet) => (isEmpty(sheet) ? texts.thereIsNothingOnThis : undefined);

/** What is on a sheet, counted. */
export function countedOn(sheet: Sheet): string {
  if (sheet.cutting) return texts.partsOn(sheet.cutting.placed.length);
  const views = sheet.views.length === 1 ? texts.n1View : texts.views(sheet.views.length);
  return [sheet.views.length || !sheet.annotations_3d.length ? views : "", sheet.annotations_3d.length ? texts.in3d(sheet.annotations_3d.length) : ""]
    .filter(Boolean)
    .join(", ");
}

/** The frame line of a sheet as the server says, or null without one. */
export const frameOf = (job: Pick<Job, "sheets">, sheet: Pick<Sheet, "id">): Box | null => job.sheets[sheet.id]?.frame ?? null;

/** Lines on the sheet, mm, that what is dragged snaps to. */
export interface SnapLines {
  x: number[];
  y: number[];
}

/** How near, in pixels, a dragged edge snaps. */
export const SNAP_PIXELS = 6;

/** The nearest snap of a moved box to lines, by how much to shift it, and the lines that it then touches. */
export function snap(box: Box, lines: SnapLines, reach: number): { by: [number, number]; at: { x?: number; y?: number } } {
  const best = (own: number[], others: number[]) => {
    let found: { by: number; at: number } | null = null;
    for (const a of own) for (const b of others) if (Math.abs(b - a) <= reach && (!found || Math.abs(b - a) < Math.abs(found.by))) found = { by: b - a, at: b };
    return found;
  };
  const x = best([box[0], (box[0] + box[2]) / 2, box[2]], lines.x);
  const y = best([box[1], (box[1] + box[3]) / 2, box[3]], lines.y);
  return { by: [x?.by ?? 0, y?.by ?? 0], at: { ...(x && { x: x.at }), ...(y && { y: y.at }) } };
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

/** Where a point of the sheet lies in a view's plane, model mm: the way back of onSheet. */
export function inPlane(view: View, [x, y]: [number, number]): [number, number] {
  const [ox, oy] = onSheet(view, [0, 0]);
  const [ux, uy] = onSheet(view, [1, 0]);
  const [ax, ay] = [ux - ox, uy - oy];
  const square = ax * ax + ay * ay;
  const [dx, dy] = [x - ox, y - oy];
  return [(dx * ax + dy * ay) / square, (dy * ax - dx * ay) / square];
}

/** A distance on the sheet as one of the drawing, mm of it, to a thousandth. */
export function inDrawing(view: View, by: [number, number]): [number, number] {
  const [ox, oy] = inPlane(view, [0, 0]);
  const [x, y] = inPlane(view, by);
  return [Math.round((x - ox) * 1000) / 1000, Math.round((y - oy) * 1000) / 1000];
}

/** The rectangle of the drawing between two points of the sheet, mm of the drawing, to a thousandth. */
export function regionBetween(view: View, first: [number, number], second: [number, number]): [number, number, number, number] {
  const [a, b] = [inPlane(view, first), inPlane(view, second)];
  const kept = (v: number) => Math.round(v * 1000) / 1000;
  return [kept(Math.min(a[0], b[0])), kept(Math.min(a[1], b[1])), kept(Math.max(a[0], b[0])), kept(Math.max(a[1], b[1]))];
}
