import { Dialog, DialogContent, InputBase } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router-dom";
import { api, data } from "../api/client";
import { keys } from "../api/keys";
import styles from "./frame.module.css";
import { useSession } from "./session";
import { help, settings, stages } from "./stages";
import { useOnce } from "./useOnce";

interface Hit {
  key: string;
  name: string;
  how: string;
  path: string;
  /** What it is for. */
  about?: string;
}

const creations = [
  { name: "New number", path: "/arrive/numbers/new", area: "numbers" },
  { name: "New hours", path: "/arrive/hours/new", area: "hours" },
  { name: "New diversion", path: "/arrive/diversions/new", area: "diversions" },
  { name: "New flow", path: "/guide/flows/new", area: "flows" },
  { name: "New shared block", path: "/guide/blocks/new", area: "flows" },
  { name: "New waiting plan", path: "/wait/plans/new", area: "flows" },
  { name: "New sound", path: "/guide/sounds/new", area: "sounds" },
  { name: "New lookup table", path: "/guide/lookups/new", area: "lookups" },
  { name: "New mailbox", path: "/wait/mailboxes/new", area: "mailboxes" },
  { name: "New queue", path: "/wait/queues/new", area: "queues" },
  { name: "New agent", path: "/talk/agents/new", area: "agents" },
  { name: "New team", path: "/talk/teams/new", area: "teams" },
  { name: "New skill", path: "/talk/skills/new", area: "teams" },
  { name: "New ring group", path: "/talk/groups/new", area: "agents" },
  { name: "New notice", path: "/talk/notices/new", area: "agents" },
  { name: "New alert", path: "/learn/alerts/new", area: "alerts" },
  { name: "New person", path: "/talk/people/new", area: "people" },
  { name: "New wrap-up code", path: "/wrap-up/codes/new", area: "wrapup" },
  { name: "New code set", path: "/wrap-up/sets/new", area: "wrapup" },
];

/** Everything that can be found, gone to or created, for what was typed. */
function useHits(text: string): { hits: Hit[]; complete: boolean } {
  const { may } = useSession();
  const typed = useDeferredValue(text.trim());
  const found = useQuery({
    queryKey: keys.search(typed),
    queryFn: () => data(api.GET("/api/v1/search", { params: { query: { text: typed } } })),
    enabled: typed.length > 0,
  });
  const fits = (name: string) => name.toLowerCase().includes(typed.toLowerCase());
  const pages = stages
    .flatMap((stage) => stage.pages.map((page) => ({ ...page, how: `page, ${stage.name}` })))
    .concat(settings.map((page) => ({ ...page, how: "page" })))
    .filter((page) => may("see", page.area))
    .concat({ ...help, area: "", how: "page" })
    .filter((page) => fits(page.name))
    .map((page) => ({ key: page.path, name: page.name, how: page.how, path: page.path }));
  const created = creations
    .filter((entry) => may("change", entry.area) && fits(entry.name))
    .map((entry) => ({ key: entry.path, name: entry.name, how: "create", path: entry.path }));
  const things = (found.data ?? []).map((hit) => ({
    key: hit.id,
    name: hit.name,
    how: hit.how,
    path: hit.page,
    about: hit.description,
  }));
  return {
    hits: [...(typed ? things : []), ...pages, ...created],
    complete: typed === text.trim() && !found.isLoading,
  };
}

/** Ctrl+K: find, go to or create anything, with the keyboard alone. */
export function Search({ close }: { close: () => void }) {
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const navigate = useNavigate();
  const { hits, complete } = useHits(text);
  const chosen = Math.min(at, Math.max(0, hits.length - 1));
  const go = (hit: Hit | undefined) => {
    if (!hit) return;
    close();
    void navigate(hit.path);
  };
  const enter = useOnce(complete, () => {
    go(hits[chosen]);
  });
  return (
    <Dialog open onClose={close} fullWidth maxWidth="sm" aria-label="Find, go to or create">
      <DialogContent sx={{ p: 1.5 }}>
        <InputBase
          autoFocus
          fullWidth
          placeholder="Find, go to or create"
          value={text}
          inputProps={{
            "aria-label": "Find, go to or create",
            role: "combobox",
            "aria-expanded": true,
            "aria-controls": "hits",
          }}
          onChange={(event) => {
            setText(event.target.value);
            setAt(0);
          }}
          onKeyDown={(event) => {
            if (event.key === "ArrowDown") setAt(Math.min(chosen + 1, hits.length - 1));
            else if (event.key === "ArrowUp") setAt(Math.max(chosen - 1, 0));
            else if (event.key === "Enter") enter();
            else return;
            event.preventDefault();
          }}
          sx={{ px: 1, py: 0.5, borderBottom: "1px solid var(--line)" }}
        />
        <ul id="hits" role="listbox" className={styles.results}>
          {hits.map((hit, i) => (
            <li key={hit.key} role="option" aria-selected={i === chosen} onClick={() => go(hit)}>
              {hit.name} {hit.about && <i className="dim nowrap">{hit.about}</i>} <span>{hit.how}</span>
            </li>
          ))}
          {hits.length === 0 && <li>Nothing is called that.</li>}
        </ul>
      </DialogContent>
    </Dialog>
  );
}
