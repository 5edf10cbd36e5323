import { useRef, useState, type PointerEvent } from "react";
import type { Point } from "./outlines";

/** A pointer that moves less than this, px, clicks. */
const SLACK = 3;

interface Held {
  id: string;
  by: Point;
  /** Whether it goes where the pointer is, and nowhere beside. */
  free: boolean;
}

/** Things on a plate that can be dragged, mm, y up; Alt lets them go anywhere. */
export function useGrip(zoom: number, off: boolean, onPick: (id: string) => void, onDrop: (id: string, by: Point, free: boolean) => void) {
  const grip = useRef<{ id: string; x: number; y: number } | null>(null);
  const [held, setHeld] = useState<Held | null>(null);
  const end = () => {
    grip.current = null;
    setHeld(null);
  };
  const hear = (id: string) => ({
    onPointerDown: (event: PointerEvent) => {
      if (event.button !== 0 || off) return;
      event.stopPropagation();
      onPick(id);
      grip.current = { id, x: event.clientX, y: event.clientY };
      event.currentTarget.setPointerCapture(event.pointerId);
    },
    onPointerMove: (event: PointerEvent) => {
      const from = grip.current;
      if (!from) return;
      const [dx, dy] = [event.clientX - from.x, event.clientY - from.y];
      if (!held && Math.hypot(dx, dy) < SLACK) return;
      setHeld({ id: from.id, by: [dx / zoom, -dy / zoom], free: event.altKey });
    },
    onPointerUp: () => {
      if (held) onDrop(held.id, held.by, held.free);
      end();
    },
    onPointerCancel: end,
  });
  return { held, hear };
}
