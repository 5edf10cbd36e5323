import { useEffect } from "react";
import { isTyping } from "./commands";

const ARROWS: Record<string, [number, number]> = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, 1], ArrowDown: [0, -1] };

/** Arrow keys move what is selected by 1 mm, with Alt by 0.1 mm. */
export function useNudge(on: boolean, move: (by: [number, number]) => void) {
  useEffect(() => {
    const hear = (event: KeyboardEvent) => {
      const arrow = ARROWS[event.key];
      if (!on || !arrow || isTyping(event.target)) return;
      event.preventDefault();
      const step = event.altKey ? 0.1 : 1;
      move([arrow[0] * step, arrow[1] * step]);
    };
    window.addEventListener("keydown", hear);
    return () => window.removeEventListener("keydown", hear);
  }, [on, move]);
}
