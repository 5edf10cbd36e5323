import type { Edit } from "../api/client";
import type { Box, SnapLines } from "../paper/geometry";

type Corner = [number, number];

/** The box between two corners, each side at the nearest line within reach. */
export function atLines(first: Corner, second: Corner, lines: SnapLines, reach: number): Box {
  const at = (v: number, others: number[]) => {
    const near = others.filter((own) => Math.abs(own - v) <= reach).sort((a, b) => Math.abs(a - v) - Math.abs(b - v))[0];
    return near ?? v;
  };
  const xs = [at(first[0], lines.x), at(second[0], lines.x)];
  const ys = [at(first[1], lines.y), at(second[1], lines.y)];
  return [Math.min(...xs), Math.min(...ys), Math.max(...xs), Math.max(...ys)];
}

/** A 3D annotation laid on an area that was drawn on its sheet. */
export function areaOf(sheet: string, annotation: string, first: Corner, second: Corner, lines: SnapLines, reach: number): Edit {
  const [x0, y0, x1, y1] = atLines(first, second, lines, reach);
  return { kind: "change_annotation_3d", sheet, annotation, fields: { place: [x0, y0], size: [x1 - x0, y1 - y0] } };
}
