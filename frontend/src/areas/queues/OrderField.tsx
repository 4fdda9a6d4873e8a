import { Button, IconButton, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { agents } from "../../api/resources";
import type { OwnProps } from "../shared/fields";
import styles from "./order.module.css";

type Agent = Schemas["Agent"];
type Places = Record<string, number>;

const LAST = 10_000;

/** Everybody who serves the queue, named or by their team. */
function useServing(members: string[], teams: string[]) {
  const query = (asked: object) => ({ page_size: 500, ordering: "name", ...asked });
  const named = query({ ids: members.join(",") });
  const teamed = query({ teams: teams.join(",") });
  const some = useQuery({ queryKey: keys.list("agents", named), queryFn: () => agents.list(named), enabled: members.length > 0 });
  const others = useQuery({ queryKey: keys.list("agents", teamed), queryFn: () => agents.list(teamed), enabled: teams.length > 0 });
  const found = new Map([...(members.length ? (some.data?.results ?? []) : []), ...(teams.length ? (others.data?.results ?? []) : [])].map((agent) => [agent.id, agent]));
  return { found: [...found.values()], pending: (members.length > 0 && some.isPending) || (teams.length > 0 && others.isPending) };
}

/** The agents as the list has them: by place, who has none last, by name. */
function ordered(found: Agent[], places: Places): Agent[] {
  const place = (agent: Agent) => places[agent.id] ?? LAST;
  return [...found].sort((a, b) => place(a) - place(b) || a.name.localeCompare(b.name));
}

/** The order in which a queue goes through its agents: dragged, moved by keys, or typed as a number. */
export function OrderField({ value, error, disabled, change, values }: OwnProps) {
  const { found, pending } = useServing((values.members ?? []) as string[], (values.teams ?? []) as string[]);
  const list = ordered(found, (value ?? {}) as Places);
  const [dragged, setDragged] = useState<string | null>(null);
  const move = (id: string, to: number) => {
    const rest = list.filter((agent) => agent.id !== id);
    const agent = list.find((one) => one.id === id);
    if (!agent || to < 0 || to > rest.length) return;
    const next = [...rest.slice(0, to), agent, ...rest.slice(to)];
    change(Object.fromEntries(next.map((one, at) => [one.id, at + 1])));
  };
  return (
    <section aria-label="Order of the list" style={{ display: "grid", gap: 6 }}>
      <span style={{ fontSize: 13, fontWeight: 620 }}>Order of the list <span className="dim" style={{ fontWeight: 400 }}>{values.chooses === "turn" ? "each in turn, from the one after the last" : "always from the top"}</span></span>
      {pending && <span className="dim">Reading the list…</span>}
      {!pending && list.length === 0 && <span className="dim">It has no members yet.</span>}
      <ol className={styles.list}>
        {list.map((agent, at) => (
          <li key={agent.id} draggable={!disabled} className={dragged === agent.id ? styles.dragged : undefined}
            onDragStart={() => { setDragged(agent.id); }} onDragEnd={() => { setDragged(null); }}
            onDragOver={(event) => { event.preventDefault(); }}
            onDrop={(event) => { event.preventDefault(); if (dragged) move(dragged, at); setDragged(null); }}>
            <Place key={`${agent.id} ${at}`} name={agent.name} place={at + 1} most={list.length} disabled={disabled} move={(to) => { move(agent.id, to - 1); }} />
            <span className="nowrap" title={agent.name}>{agent.name}</span>
            <IconButton size="small" disabled={disabled || at === 0} aria-label={`${agent.name}: earlier`} onClick={() => { move(agent.id, at - 1); }}>↑</IconButton>
            <IconButton size="small" disabled={disabled || at === list.length - 1} aria-label={`${agent.name}: later`} onClick={() => { move(agent.id, at + 1); }}>↓</IconButton>
          </li>
        ))}
      </ol>
      {!disabled && Object.keys((value ?? {}) as Places).length > 0 && <div><Button onClick={() => { change({}); }}>By name again</Button></div>}
      {error && <div role="alert" style={{ color: "var(--plum-ink)" }}>{error}</div>}
    </section>
  );
}

interface PlaceProps {
  name: string;
  place: number;
  most: number;
  disabled: boolean;
  move: (to: number) => void;
}

/** Somebody's place as a number: another one moves them there. */
function Place({ name, place, most, disabled, move }: PlaceProps) {
  const [typed, setTyped] = useState(String(place));
  const to = /^\d+$/.test(typed) ? Number(typed) : 0;
  const wrong = to < 1 || to > most;
  const done = () => { if (!wrong && to !== place) move(to); };
  return (
    <TextField value={typed} disabled={disabled} error={wrong} slotProps={{ htmlInput: { "aria-label": `${name}: place`, inputMode: "numeric", title: wrong ? `A place from 1 to ${most} is needed.` : undefined } }}
      onChange={(event) => { setTyped(event.target.value); }} onBlur={done} onKeyDown={(event) => { if (event.key === "Enter") { event.preventDefault(); done(); } }} />
  );
}
