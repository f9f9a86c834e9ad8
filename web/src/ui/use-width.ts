import { useLayoutEffect, useRef, useState } from "react";

/** An element that stays, and how wide it is [px], never told as under 280: what is drawn in it is laid out anew when that changes. */
export function useWidth<E extends HTMLElement>() {
  const box = useRef<E>(null);
  const [width, setWidth] = useState(640);
  // Measured before the first picture: nothing is drawn at one width and then jumps to another.
  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return;
    const take = (wide: number) => wide > 0 && setWidth(Math.max(280, wide));
    take(element.clientWidth);
    const watch = new ResizeObserver(([entry]) => entry && take(entry.contentRect.width));
    watch.observe(element);
    return () => watch.disconnect();
  }, []);
  return [box, width] as const;
}
