import { PAD } from "../paper/useZoom";
import type { Place } from "./Readings";

/** Comes nearer to a place of the paper, and has it in the middle. *height* is the paper's, mm. */
export function lookAt(element: HTMLElement, [x0, y0, x1, y1]: Place, height: number, zoom: number, by: (factor: number) => void) {
  const factor = Math.min(6, Math.max(1, Math.min(element.clientWidth / ((x1 - x0 + 20) * zoom), element.clientHeight / ((y1 - y0 + 20) * zoom))));
  by(factor);
  // after the page has its new size
  requestAnimationFrame(() =>
    requestAnimationFrame(() =>
      element.scrollTo({
        left: PAD.left + ((x0 + x1) / 2) * zoom * factor - element.clientWidth / 2,
        top: PAD.top + (height - (y0 + y1) / 2) * zoom * factor - element.clientHeight / 2,
      }),
    ),
  );
}
