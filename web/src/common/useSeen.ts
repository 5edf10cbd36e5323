import { useEffect, useState, type RefObject } from "react";

/** Whether an element has come in sight yet: a job may have hundreds of sheets, and a file as many pages. */
export function useSeen(place: RefObject<Element | null>): boolean {
  const [seen, setSeen] = useState(false);
  useEffect(() => {
    const watch = new IntersectionObserver((entries) => entries.some((entry) => entry.isIntersecting) && setSeen(true));
    if (place.current) watch.observe(place.current);
    return () => watch.disconnect();
  }, [place]);
  return seen;
}
