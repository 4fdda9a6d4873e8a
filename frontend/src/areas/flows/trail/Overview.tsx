import { useEffect, useState } from "react";
import type { Trail } from "./layout";
import styles from "./trail.module.css";

const WIDTH = 150;
const HIGHEST = 66;
/** A small map of the whole: where one is, and a click to go elsewhere. */
export function Overview({
  box,
  trail,
  scale,
}: {
  box: React.RefObject<HTMLDivElement | null>;
  trail: Trail;
  scale: number;
}) {
  const [view, setView] = useState({ left: 0, top: 0, width: 0, height: 0 });
  useEffect(() => {
    const element = box.current;
    if (!element) return undefined;
    const look = () => {
      setView({
        left: element.scrollLeft,
        top: element.scrollTop,
        width: element.clientWidth,
        height: element.clientHeight,
      });
    };
    look();
    element.addEventListener("scroll", look);
    const watcher = new ResizeObserver(look);
    watcher.observe(element);
    return () => {
      element.removeEventListener("scroll", look);
      watcher.disconnect();
    };
  }, [box, trail, scale]);
  if (view.width === 0) return null;
  const small = Math.min(WIDTH / trail.width, HIGHEST / trail.height);
  const go = (event: React.MouseEvent<SVGSVGElement>) => {
    const at = event.currentTarget.getBoundingClientRect();
    box.current?.scrollTo({
      left: ((event.clientX - at.left) / small) * scale - view.width / 2,
      top: ((event.clientY - at.top) / small) * scale - view.height / 2,
      behavior: "smooth",
    });
  };
  return (
    <svg
      width={trail.width * small}
      height={trail.height * small}
      viewBox={`0 0 ${trail.width} ${trail.height}`}
      aria-hidden="true"
      onClick={go}
      className={styles.overview}>
      {trail.arms.map((arm) => (
        <path key={arm.key} d={`M${arm.x0} ${arm.y} H${arm.x1}`} stroke="var(--edge)" strokeWidth="7" />
      ))}
      {[...trail.stops.values()].map(({ stop, x, y }) => (
        <circle key={stop.id} cx={x} cy={y} r="13" fill="var(--pine-70)" />
      ))}
      <rect
        x={view.left / scale}
        y={view.top / scale}
        width={view.width / scale}
        height={view.height / scale}
        fill="var(--clay)"
        fillOpacity="0.08"
        stroke="var(--clay)"
        strokeWidth={2 / small}
      />
    </svg>
  );
}
