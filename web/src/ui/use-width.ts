import { useEffect, useRef, useState } from "react";

/** An element and how wide it is [px], never told as under 320: what is drawn in it is laid out anew when that changes. */
export function useWidth<E extends HTMLElement>() {
  const box = useRef<E>(null);
  const [width, setWidth] = useState(640);
  useEffect(() => {
    const element = box.current;
    if (!element) return;
    const watch = new ResizeObserver(([entry]) => entry && setWidth(Math.max(320, entry.contentRect.width)));
    watch.observe(element);
    return () => watch.disconnect();
  });
  return [box, width] as const;
}
