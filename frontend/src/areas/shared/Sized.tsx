import type { ReactNode } from "react";
import { useWidth } from "./useWidth";

/** A drawing as wide as its room, so that its words keep their size; `usual` until the room is known. */
export function Sized({ usual, children }: { usual: number; children: (width: number) => ReactNode }) {
  const [box, room] = useWidth();
  return <div ref={box}>{children(Number.isFinite(room) && room > 0 ? room : usual)}</div>;
}
