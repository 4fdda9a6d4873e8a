import { Autocomplete, TextField } from "@mui/material";
import { useState } from "react";
import { Link } from "react-router-dom";
import type { Definition } from "../../../api/client";
import {
  agents,
  hours,
  lookups,
  mailboxes,
  plainFlows,
  queues,
  type Named,
  type Resource,
  ringGroups,
  sharedBlocks,
  sounds,
  waitingPlans,
} from "../../../api/resources";
import { clock } from "../../../frame/format";
import { useThings } from "../../shared/ThingPicker";
import { useCreating } from "../../shared/useCreating";
import type { ThingKind } from "../stepFields";

interface Source<T extends Named = Named> {
  resource: Resource<T>;
  page: string;
  word: string;
  about?(item: T): string;
  /** Whether there is only a name of it yet. */
  begun?(item: T): boolean;
  /** The kind that its references name, where that is another. */
  refers?: string;
}

/** A source whose own words know what its things hold; to all others they are just named. */
function source<T extends Named>(from: Source<T>): Source {
  return from;
}

/** Where the things that stops refer to come from. */
const sources: Record<ThingKind, Source> = {
  queue: source({
    resource: queues,
    page: "/wait/queues",
    word: "queue",
    about: ({ finished, member_count, threshold_s }) =>
      finished ? `${member_count} members; threshold ${clock((threshold_s ?? 0) * 1000)}.` : "Only a name so far.",
    begun: (item) => !item.finished,
  }),
  hours: source({ resource: hours, page: "/arrive/hours", word: "hours", about: (item) => `${item.now}.` }),
  sound: { resource: sounds, page: "/guide/sounds", word: "sound" },
  mailbox: { resource: mailboxes, page: "/wait/mailboxes", word: "mailbox" },
  flow: { resource: plainFlows, page: "/guide/flows", word: "flow" },
  block: { resource: sharedBlocks, page: "/guide/blocks", word: "block", refers: "flow" },
  plan: { resource: waitingPlans, page: "/wait/plans", word: "plan", refers: "flow" },
  table: { resource: lookups, page: "/guide/lookups", word: "table" },
  group: source({
    resource: ringGroups,
    page: "/talk/groups",
    word: "ring group",
    about: (item) => `${item.people} people.`,
  }),
  agent: { resource: agents, page: "/talk/agents", word: "person" },
};

/** A value that may hold what is asked for: an input, or what a stop takes from a looked-up row. */
export type Held = Pick<Definition["inputs"][number], "name" | "label"> & { type: string; row?: boolean };

interface Option {
  ref: string;
  label: string;
  group: string;
  about?: string;
}

interface Props {
  of: ThingKind;
  label: string;
  /** What counts while nothing is chosen. */
  empty?: string;
  value: string | null;
  inputs: Held[];
  disabled: boolean;
  choose: (ref: string | null) => void;
}

const CREATE = "create";

/** Chooses what a stop refers to: a thing, or whatever one of the flow's inputs holds. */
export function RefPicker({ of, label, empty, value, inputs, disabled, choose }: Props) {
  const [text, setText] = useState("");
  const from = sources[of];
  const kind = from.refers ?? of;
  const chosen = value?.startsWith(`${kind}:`) ? value.slice(kind.length + 1) : null;
  const things = useThings(from.resource, text, chosen ? [chosen] : []);
  const creating = useCreating(from.resource);
  const option = (item: Named): Option => ({
    ref: `${kind}:${item.id}`,
    label: item.name,
    group: "Set up",
    about: item.description,
  });
  const values = inputs
    .filter((input) => input.type === of)
    .map((input): Option => ({
      ref: `value:${input.name}`,
      label: `${input.row ? "by the row" : "by the number"}: ${input.label || input.name}`,
      group: input.row ? "Rows that are looked up" : "Inputs of this flow",
    }));
  const found = things.found.map(option);
  const known = chosen ? things.known.get(chosen) : undefined;
  const fits = (o: Option) => o.label.toLowerCase().includes(text.trim().toLowerCase());
  const making = creating.offered(
    text,
    things.found.map((item) => item.name),
  );
  const options = [
    ...values.filter(fits),
    ...found,
    ...(making ? [{ ref: CREATE, label: making, group: "Set up" }] : []),
  ];
  const current = values.find((o) => o.ref === value) ?? (known ? option(known) : null);
  const take = (o: Option | null) => {
    if (o?.ref === CREATE)
      creating.make(text, (id) => {
        choose(`${kind}:${id}`);
      });
    else choose(o?.ref ?? null);
  };
  return (
    <div className="lines">
      <Autocomplete
        size="small"
        disabled={disabled || creating.pending}
        options={options}
        value={current}
        loading={things.pending}
        filterOptions={(all) => all}
        groupBy={(o) => o.group}
        renderOption={({ key, ...props }, o) => (
          <li key={key} {...props}>
            <span>
              {o.label}
              {o.about && (
                <>
                  <br />
                  <span className="dim">{o.about}</span>
                </>
              )}
            </span>
          </li>
        )}
        isOptionEqualToValue={(a, b) => a.ref === b.ref}
        onChange={(_, o) => take(o)}
        onInputChange={(_, shown, why) => setText(why === "input" ? shown : "")}
        renderInput={(params) => (
          <TextField
            {...params}
            label={label}
            helperText={value === null && empty ? `Empty: ${empty}.` : undefined}
            placeholder={from.resource.begins ? "Choose, or type a new name" : "Choose"}
          />
        )}
      />
      {known && (
        <div className="dim">
          {known.description} {from.about?.(known)}{" "}
          <Link to={`${from.page}/${known.id}`}>{from.begun?.(known) ? "Set it up" : `Open the ${from.word}`}</Link>
        </div>
      )}
    </div>
  );
}
