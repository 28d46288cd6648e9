import { type RefObject, useEffect, useState } from "react";

/** How wide an element is, px; 0 until it is drawn. */
export function useWidth(element: RefObject<HTMLElement | null>): number {
  const [width, setWidth] = useState(0);
  useEffect(() => {
    if (!element.current) return;
    const watch = new ResizeObserver(([entry]) => setWidth(entry.contentRect.width));
    watch.observe(element.current);
    return () => watch.disconnect();
  }, [element]);
  return width;
}
