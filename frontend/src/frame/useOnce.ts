import { useEffect, useRef } from "react";

/** Does what was asked for now, or as soon as it can be done: an Enter typed ahead is not lost, and not early. */
export function useOnce(ready: boolean, act: () => void): () => void {
  const wanted = useRef(false);
  useEffect(() => {
    if (!wanted.current || !ready) return;
    wanted.current = false;
    act();
  });
  return () => {
    if (ready) act();
    else wanted.current = true;
  };
}
