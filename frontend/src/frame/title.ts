import { useEffect } from "react";

let tab = "",
  own: string | null = null;

function show() {
  document.title = [own ?? tab, "Hazeridge"].filter(Boolean).join(" · ");
}

/** The browser's tab is called as the page's tab is, where the page has no name of its own. */
export function useTabTitle(name: string) {
  useEffect(() => {
    tab = name;
    show();
  }, [name]);
}

/** A page that is about one thing, or at which something is going on, names it in the browser's tab. */
export function usePageTitle(name: string | undefined) {
  useEffect(() => {
    if (!name) return undefined;
    own = name;
    show();
    return () => {
      own = null;
      show();
    };
  }, [name]);
}
