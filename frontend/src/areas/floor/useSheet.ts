import { useCallback } from "react";
import { useSearchParams } from "react-router-dom";

export interface Opened {
  person: string;
  queue: string;
  contact: string;
  team: string;
  /** What stands below the queues: agents where it is empty. */
  view: string;
  /** Only queues that take this channel: all where it is empty. */
  channel: string;
  /** Only agents who work there, and the queues that they serve. */
  site: string;
  /** How the queues stand: under their groups where it says so. */
  by: string;
}

/** What is open beside the floor, as it stands in the address: it can be linked to, and Back closes it. */
export function useSheet() {
  const [asked, setAsked] = useSearchParams();
  const opened: Opened = {
    person: asked.get("person") ?? "",
    queue: asked.get("queue") ?? "",
    contact: asked.get("contact") ?? "",
    team: asked.get("team") ?? "",
    view: asked.get("view") ?? "",
    channel: asked.get("channel") ?? "",
    site: asked.get("site") ?? "",
    by: asked.get("by") ?? "",
  };
  const open = useCallback(
    (what: Partial<Opened>) => {
      setAsked((before) => {
        const next = new URLSearchParams(before);
        const how = ["team", "view", "channel", "site", "by"].filter((name) => name in what);
        for (const name of how.length > 0 ? how : ["person", "queue", "contact"]) next.delete(name);
        for (const [name, value] of Object.entries(what)) if (value) next.set(name, value);
        return next;
      });
    },
    [setAsked],
  );
  const close = useCallback(() => {
    open({ person: "" });
  }, [open]);
  return { opened, open, close };
}
