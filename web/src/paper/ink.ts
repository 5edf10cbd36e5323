import type { Picture } from "../api/client";

const CAPS = { flat: "butt", round: "round", square: "square" } as const;
const INK = "#000000";

/** How a path is drawn: `unit` is a millimetre of paper and `thinnest` the least width, both in units of the path. */
export function inkOf(path: Picture["paths"][number], unit: number, thinnest: number) {
  const { pen } = path;
  const dashes = path.dashes.length ? path.dashes : pen.dashes.map((dash) => dash * unit);
  return {
    // black is the desk's own ink
    style: pen.colour === INK ? undefined : { stroke: pen.colour },
    strokeWidth: Math.max(pen.width * unit, thinnest),
    strokeDasharray: dashes.join(" ") || undefined,
    strokeLinecap: dashes.length ? undefined : CAPS[pen.caps],
  };
}

/** The colour of a filled path, where it is not the desk's own ink. */
export const fillOf = (path: Picture["paths"][number]) => (path.pen.colour === INK ? undefined : path.pen.colour);
