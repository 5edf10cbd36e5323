import { useRef, useState } from "react";
import type { Eye } from "./folding";

/** So far about the vertical and up a drag of one pixel turns, radians. */
const PER_PIXEL = 0.01;
/** A hand that moves less, pixels, has clicked. */
const STILL = 3;

/** How a picture is turned by dragging on it: where it is seen from, and what its element listens to. */
export function useTurning() {
  const [eye, setEye] = useState<Eye>({ turn: -0.6, lift: 0.6 });
  const from = useRef<{ x: number; y: number; eye: Eye } | null>(null);
  const done = () => (from.current = null);
  const hands = {
    onPointerDown: (event: React.PointerEvent) => (from.current = { x: event.clientX, y: event.clientY, eye }),
    onPointerMove: (event: React.PointerEvent) => {
      const start = from.current;
      if (!start) return;
      const [across, up] = [event.clientX - start.x, event.clientY - start.y];
      if (Math.hypot(across, up) <= STILL) return;
      event.currentTarget.setPointerCapture(event.pointerId);
      const lift = start.eye.lift + up * PER_PIXEL;
      setEye({ turn: start.eye.turn - across * PER_PIXEL, lift: Math.min(Math.PI / 2, Math.max(-Math.PI / 2, lift)) });
    },
    onPointerUp: done,
    onPointerCancel: done,
    onPointerLeave: (event: React.PointerEvent) => event.currentTarget.hasPointerCapture(event.pointerId) || done(),
  };
  return { eye, hands };
}

/** The view box of an SVG that holds points, y up, with some room about them, mm. */
export function boxAbout(points: readonly (readonly number[])[], room: number): string {
  // not by spreading: a casting has more points than a call takes
  let [x0, y0, x1, y1] = [Infinity, Infinity, -Infinity, -Infinity];
  for (const [x = 0, y = 0] of points) {
    [x0, y0, x1, y1] = [Math.min(x0, x), Math.min(y0, y), Math.max(x1, x), Math.max(y1, y)];
  }
  return `${x0 - room} ${-y1 - room} ${x1 - x0 + 2 * room} ${y1 - y0 + 2 * room}`;
}
