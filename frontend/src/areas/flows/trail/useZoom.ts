import { useEffect, useLayoutEffect, useRef, useState } from "react";

/** Words have their full size at 1. */
const LEAST = 0.3,
  MOST = 2,
  FINER = 1.2;

const within = (scale: number) => Math.min(MOST, Math.max(LEAST, scale));

export interface Zoom {
  scale: number;
  set: (scale: number) => void;
  closer: () => void;
  further: () => void;
}

/** How large a map is drawn; the wheel with Ctrl changes it, and what lies under the pointer stays there. */
export function useZoom(box: React.RefObject<HTMLDivElement | null>): Zoom {
  const [scale, setScale] = useState(1);
  const drawn = useRef(scale);
  /** Where to scroll to once it is drawn in its new size. */
  const then = useRef<{ left: number; top: number } | null>(null);
  const set = (next: number) => {
    setScale(within(next));
  };
  useLayoutEffect(() => {
    drawn.current = scale;
    if (then.current) box.current?.scrollTo(then.current);
    then.current = null;
  }, [box, scale]);
  useEffect(() => {
    const element = box.current;
    if (!element) return undefined;
    const wheel = (event: WheelEvent) => {
      if (!event.ctrlKey) return;
      event.preventDefault();
      const at = element.getBoundingClientRect();
      const x = event.clientX - at.left,
        y = event.clientY - at.top;
      const before = drawn.current,
        next = within(before * Math.exp(-event.deltaY / 400));
      then.current = {
        left: ((element.scrollLeft + x) / before) * next - x,
        top: ((element.scrollTop + y) / before) * next - y,
      };
      setScale(next);
    };
    element.addEventListener("wheel", wheel, { passive: false });
    return () => {
      element.removeEventListener("wheel", wheel);
    };
  }, [box]);
  return {
    scale,
    set,
    closer: () => {
      set(scale * FINER);
    },
    further: () => {
      set(scale / FINER);
    },
  };
}

/** The room that a box has inside (px), as it is now; null until it is known. */
export function useRoom(box: React.RefObject<HTMLDivElement | null>): { width: number; height: number } | null {
  const [room, setRoom] = useState<{ width: number; height: number } | null>(null);
  useLayoutEffect(() => {
    const element = box.current;
    if (!element) return undefined;
    const look = () => {
      // Without the scroll bars, which come and go with what is drawn.
      const { width, height } = element.getBoundingClientRect();
      setRoom((before) => (before?.width === width && before.height === height ? before : { width, height }));
    };
    look();
    const watcher = new ResizeObserver(look);
    watcher.observe(element);
    return () => {
      watcher.disconnect();
    };
  }, [box]);
  return room;
}
