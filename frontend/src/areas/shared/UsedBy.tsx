import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router-dom";
import { words } from "../../api/client";
import { keys } from "../../api/keys";
import type { ConfigItem, Resource } from "../../api/resources";

const pages: Record<string, string> = {
  flow: "/guide/flows",
  number: "/arrive/numbers",
  queue: "/wait/queues",
  mailbox: "/wait/mailboxes",
  diversion: "/arrive/diversions",
  agent: "/talk/agents",
  team: "/talk/teams",
  skill: "/talk/skills",
  code_set: "/wrap-up/sets",
};

/** Where a thing is used, each place a link. */
export function UsedBy<T extends ConfigItem>({ resource, id }: { resource: Resource<T>; id: string }) {
  const uses = useQuery({ queryKey: keys.uses(resource.what, id), queryFn: () => resource.uses(id) });
  return (
    <section aria-label="Used by">
      <h2>Used by</h2>
      {uses.isError && <div role="alert">{words(uses.error)}</div>}
      {uses.data?.length === 0 && <span className="dim">Nothing uses it yet.</span>}
      {uses.data?.map((use) => (
        <div key={`${use.kind} ${use.id} ${use.how}`}>
          {pages[use.kind] ? <Link to={`${pages[use.kind] ?? ""}/${use.id}`}>{use.name}</Link> : use.name}{" "}
          <span className="dim">{use.how}</span>
        </div>
      ))}
    </section>
  );
}
