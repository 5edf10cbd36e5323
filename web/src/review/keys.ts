import { dragged, spanAtTarget, stepped, zoomed } from "./camera";
import type { Camera } from "./model";
import type { ReviewState } from "./state";

const ARROWS: Record<string, [number, number]> = { ArrowUp: [0, -1], ArrowDown: [0, 1], ArrowLeft: [-1, 0], ArrowRight: [1, 0] };
const STEP = 12;
const STRIDE = 0.03;

/** Arrow keys do what the hand does, plus and minus zoom, while the model has the focus, as it has after a drag. */
export function hearKeys(element: HTMLElement, state: () => ReviewState, size: () => number, move: (how: (camera: Camera) => Camera) => void): () => void {
  const key = (event: KeyboardEvent) => {
    const { hand } = state();
    const arrow = ARROWS[event.key];
    const nearer = { "+": 0.9, "-": 1 / 0.9 }[event.key];
    if (!arrow && !nearer) return;
    event.preventDefault();
    event.stopPropagation();
    move((camera) => {
      if (!arrow) return zoomed(camera, nearer as number);
      if (hand === "walk") return stepped(camera, -arrow[1] * size() * STRIDE, arrow[0] * size() * STRIDE);
      const pixel = spanAtTarget(camera) / Math.min(element.clientWidth, element.clientHeight);
      return dragged(camera, event.shiftKey ? "pan" : hand, arrow[0] * STEP, arrow[1] * STEP, pixel);
    });
  };
  element.addEventListener("keydown", key);
  return () => element.removeEventListener("keydown", key);
}
