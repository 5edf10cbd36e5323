import { useLayoutEffect, useState, type RefObject } from "react";

/** How much room an element has, px. It is measured before anything is seen: what jumps to its size is missed by the hand. */
export function useRoom(frame: RefObject<HTMLElement | null>) {
  const [room, setRoom] = useState({ width: 800, height: 600 });
  useLayoutEffect(() => {
    const element = frame.current;
    if (!element) return;
    const measure = () => setRoom({ width: element.clientWidth, height: element.clientHeight });
    measure();
    const observer = new ResizeObserver(measure);
    observer.observe(element);
    return () => observer.disconnect();
  }, [frame]);
  return room;
}
