import { Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { agents } from "../../api/resources";
import type { OwnProps } from "../shared/fields";
import { OrderedList } from "../shared/OrderedList";

type Agent = Schemas["Agent"];
type Places = Record<string, number>;

const LAST = 10_000;

/** Everybody who serves the queue, named or by their team. */
function useServing(members: string[], teams: string[]) {
  const query = (asked: object) => ({ page_size: 500, ordering: "name", ...asked });
  const named = query({ ids: members.join(",") });
  const teamed = query({ teams: teams.join(",") });
  const some = useQuery({
    queryKey: keys.list("agents", named),
    queryFn: () => agents.list(named),
    enabled: members.length > 0,
  });
  const others = useQuery({
    queryKey: keys.list("agents", teamed),
    queryFn: () => agents.list(teamed),
    enabled: teams.length > 0,
  });
  const found = new Map(
    [...(members.length ? (some.data?.results ?? []) : []), ...(teams.length ? (others.data?.results ?? []) : [])].map(
      (agent) => [agent.id, agent],
    ),
  );
  return {
    found: [...found.values()],
    pending: (members.length > 0 && some.isPending) || (teams.length > 0 && others.isPending),
  };
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
  return (
    <section aria-label="Order of the list" className="lines">
      <span className="caption">
        Order of the list{" "}
        <span className="dim light">
          {values.distribution === "turn" ? "each in turn, from the one after the last" : "always from the top"}
        </span>
      </span>
      {pending && <span className="dim">Reading the list…</span>}
      {!pending && list.length === 0 && <span className="dim">It has no members yet.</span>}
      <OrderedList
        items={list}
        disabled={disabled}
        change={(ids) => change(Object.fromEntries(ids.map((id, at) => [id, at + 1])))}
      />
      {!disabled && Object.keys((value ?? {}) as Places).length > 0 && (
        <div>
          <Button onClick={() => change({})}>By name again</Button>
        </div>
      )}
      {error && (
        <div role="alert" className="wrong">
          {error}
        </div>
      )}
    </section>
  );
}
