import { useEffect, useRef, useState } from "react";

/** A box's width inside its padding (px), as it is now; unbounded until it is known. */
export function useWidth() {
  const box = useRef<HTMLDivElement>(null);
  const [width, setWidth] = useState(Infinity);
  useEffect(() => {
    const watching = new ResizeObserver(([entry]) => {
      if (entry) setWidth(entry.contentRect.width);
    });
    if (box.current) watching.observe(box.current);
    return () => {
      watching.disconnect();
    };
  }, []);
  return [box, width] as const;
}
