import { clock } from "./format";
import { useNow } from "./useLive";

/** How long ago a moment of the site is, in a figure that goes on by itself. */
export function Since({ from }: { from: number }) {
  return <>{clock(useNow() - from)}</>;
}
