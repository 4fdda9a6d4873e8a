import { useQuery } from "@tanstack/react-query";
import { api, data, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";

const asks = {
  numbers: () => data(api.GET("/api/v1/glance/numbers")),
  flows: () => data(api.GET("/api/v1/glance/flows")),
  queues: () => data(api.GET("/api/v1/glance/queues")),
  agents: () => data(api.GET("/api/v1/glance/agents")),
};
interface Glances {
  numbers: Schemas["NumberGlance"];
  flows: Schemas["FlowGlance"];
  queues: Schemas["QueueGlance"];
  agents: Schemas["AgentGlance"];
}

const AGAIN_MS = 10_000;

/** How the things of a list stand at this moment, by id; anew after every change of one of them. */
export function useGlance<K extends keyof Glances>(kind: K): Map<string, Glances[K]> {
  const ask = asks[kind] as () => Promise<Glances[K][]>;
  const found = useQuery({ queryKey: keys.list(kind, { glance: true }), queryFn: ask, refetchInterval: AGAIN_MS });
  return new Map(found.data?.map((one) => [one.id, one]));
}

/** Hours at this moment: “Open, closes 18:00”. */
export function HoursNow({ hours, none = "" }: { hours: Schemas["HoursNow"] | null | undefined; none?: string }) {
  // Not known yet, or not to be had: nothing is said of it.
  if (hours === undefined) return null;
  if (!hours) return <span className="dim">{none}</span>;
  return (
    <span className={hours.open ? undefined : "dim"} title={`${hours.name}: ${hours.words}`}>
      {hours.words} <span className="dim">{hours.name}</span>
    </span>
  );
}

/** Names in a row of a list; nothing while they are not known. */
export function Names({ names }: { names: string[] | undefined }) {
  if (!names) return null;
  return names.length ? <span title={names.join(", ")}>{names.join(", ")}</span> : <span className="dim">none</span>;
}
