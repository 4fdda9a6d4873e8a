import { useCallback, useRef, useState } from "react";

/** Whoever scrolls by hand finds drawn what comes into view. */
const MARGIN_PX = 1200;

const told = new WeakMap<Element, (inView: boolean) => void>();
let observer: IntersectionObserver | null = null;

function observe(element: Element, tell: (inView: boolean) => void): () => void {
  observer ??= new IntersectionObserver(
    (entries) => {
      for (const entry of entries) told.get(entry.target)?.(entry.isIntersecting);
    },
    { rootMargin: `${MARGIN_PX}px` },
  );
  told.set(element, tell);
  observer.observe(element);
  return () => {
    observer?.unobserve(element);
  };
}

/** Whether an element is in view or near it, and the ref to give it: what nobody sees of a long list need not be drawn. */
export function useInView(): [(element: Element | null) => void, boolean] {
  const [inView, setInView] = useState(true);
  const stop = useRef<(() => void) | null>(null);
  const ref = useCallback((element: Element | null) => {
    stop.current?.();
    stop.current = element && observe(element, setInView);
  }, []);
  return [ref, inView];
}
