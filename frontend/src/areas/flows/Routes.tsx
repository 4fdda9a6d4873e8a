import { useQuery } from "@tanstack/react-query";
import { api, data, type Definition, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { clock, percent } from "../../frame/format";
import { Failure, Loading } from "../../frame/states";
import styles from "./flows.module.css";
import { fateLooks } from "./trail/strands";
import type { Walk } from "./trail/TrailMap";

export type Route = Schemas["Route"];

/** A route as the map lights it. */
export function walkOfRoute(route: Route): Walk {
  const steps = new Map(route.turns.map((turn) => [turn.step, ""]));
  const arms = new Set(route.turns.map((turn) => `${turn.step} ${turn.exit}`));
  return { steps, arms, current: null };
}

interface Props {
  id: string;
  definition: Definition;
  chosen: Route | null;
  choose: (route: Route | null) => void;
}

/** Every distinct way through the flow: what the caller did and the clock said, the ending, time and share. */
export function Routes({ id, definition, chosen, choose }: Props) {
  const list = useQuery({
    queryKey: keys.of("flows", "routes", id, JSON.stringify(definition)),
    queryFn: () =>
      data(api.POST("/api/v1/flows/{id}/routes", { params: { path: { id } }, body: { draft: definition } })),
  });
  if (list.isPending) return <Loading what="the routes" />;
  if (list.isError) return <Failure error={list.error} retry={() => void list.refetch()} />;
  const { listed, total, complete, rest } = list.data;
  const key = (route: Route) => route.turns.map((turn) => `${turn.step}${turn.exit}`).join("|");
  return (
    <ul className={styles.findings} aria-label="Routes">
      {listed.map((route) => {
        const look = fateLooks[route.fate];
        const ways = route.turns.filter((turn) => turn.choice).map((turn) => turn.label);
        const on = chosen !== null && key(chosen) === key(route);
        return (
          <li key={key(route)} className={styles.route} aria-current={on || undefined}>
            <button className={`${styles.where} ${styles.unmarked}`} onClick={() => choose(on ? null : route)}>
              {ways.length ? ways.join(" → ") : "straight through"}
            </button>
            <span className="nowrap" style={{ color: look?.ink }}>
              <b>{look?.word ?? route.fate}</b> <span className="dim">{route.place}</span>
            </span>
            <span className="num dim nowrap">
              {clock(route.shortest_s * 1000)} to {route.longest_s === null ? "no end" : clock(route.longest_s * 1000)}
            </span>
            <span className="num">{percent(route.share)}</span>
          </li>
        );
      })}
      <li className={`dim ${styles.rest}`}>
        {complete ? `${total} ${total === 1 ? "route" : "routes"}` : `More than ${total} routes`}
        {rest > 0.0005 && `; those not listed take ${percent(rest)} of the callers`}. Rounds are cut out; shares come
        from today’s callers where a stop has had some, else from an estimate.
      </li>
    </ul>
  );
}
