import { Autocomplete, TextField } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { agents, mailboxes, ringGroups, teams } from "../../api/resources";
import { type OwnProps, picked } from "../shared/fields";
import { ConfigListPage } from "../shared/ConfigListPage";
import { OrderedList } from "../shared/OrderedList";
import { useThings } from "../shared/ThingPicker";
import { choices } from "../shared/choices";

type RingGroup = Schemas["RingGroup"];

const ways = choices<RingGroup["way"]>({
  all: "all at once, the first to answer",
  listed: "one after another, always from the top",
  turn: "one after another, each in turn",
});
const busy = choices<RingGroup["when_busy"]>({
  pass: "whoever is on a contact is passed over",
  busy: "the group is busy as soon as one of them is on a contact",
});

/** People and teams in their order: found by name, moved, taken out. */
function Members({ value, error, disabled, change }: OwnProps) {
  const members = (value ?? []) as string[];
  const [text, setText] = useState("");
  const idsOf = (kind: string) =>
    members.filter((ref) => ref.startsWith(`${kind}:`)).map((ref) => ref.slice(kind.length + 1));
  const people = useThings(agents, text, idsOf("agent"));
  const groups = useThings(teams, text, idsOf("team"));
  const nameOf = (ref: string) => people.known.get(ref.slice(6))?.name ?? groups.known.get(ref.slice(5))?.name ?? "…";
  const options = [
    ...groups.found.map((team) => `team:${team.id}`),
    ...people.found.map((agent) => `agent:${agent.id}`),
  ].filter((ref) => !members.includes(ref));
  return (
    <section aria-label="Who is rung" className="stack">
      <span className="caption">Who is rung, in this order</span>
      {members.length === 0 && <span className="dim">Nobody yet.</span>}
      <OrderedList
        items={members.map((ref) => ({
          id: ref,
          name: nameOf(ref),
          about: ref.startsWith("team:") ? "team" : undefined,
        }))}
        disabled={disabled}
        change={change}
        remove={(ref) => change(members.filter((other) => other !== ref))}
      />
      <Autocomplete
        size="small"
        disabled={disabled}
        options={options}
        value={null}
        inputValue={text}
        filterOptions={(all) => all}
        groupBy={(ref) => (ref.startsWith("team:") ? "Teams" : "People")}
        getOptionLabel={nameOf}
        onInputChange={(_, shown, why) => setText(why === "input" ? shown : "")}
        onChange={(_, ref) => {
          if (ref) change([...members, ref]);
        }}
        renderInput={(params) => (
          <TextField {...params} label="Add a person or a team" error={Boolean(error)} helperText={error} />
        )}
      />
    </section>
  );
}

/** People who are rung together or one after another; nobody waits in a group. */
export default function RingGroups() {
  return (
    <ConfigListPage<RingGroup>
      resource={ringGroups}
      area="agents"
      base="/talk/groups"
      title="Ring groups"
      noun="ring group"
      titleOf={(group) => group.name}
      sort={[{ field: "name", sort: "asc" }]}
      empty="A ring group rings people and teams all at once, or one after another. Flows, transfers and the name directory lead to it; who should wait belongs in a queue."
      columns={[
        { field: "name", headerName: "Name", flex: 1, minWidth: 180 },
        { field: "extension", headerName: "Extension", width: 112 },
        {
          field: "member_names",
          headerName: "Who is rung",
          flex: 2,
          minWidth: 260,
          sortable: false,
          valueFormatter: (value: string[]) => value.join(", ") || "nobody yet",
        },
        {
          field: "way",
          headerName: "How",
          width: 270,
          valueFormatter: (value: string) => ways.find((way) => way.value === value)?.label ?? value,
        },
        {
          field: "ring_s",
          headerName: "Rings",
          width: 80,
          align: "right",
          headerAlign: "right",
          sortable: false,
          valueFormatter: (value: number) => `${value} s`,
        },
      ]}
      initial={{ members: [], way: "all", ring_s: 20, when_busy: "pass", language: "en", mailbox: null, extension: "" }}
      fields={[
        { kind: "text", name: "name", label: "Name", required: true },
        { kind: "text", name: "extension", label: "Extension", help: "Two to six digits, or none." },
        { kind: "own", name: "members", label: "Who is rung", Input: Members },
        { kind: "choice", name: "way", label: "How they are rung", options: ways },
        {
          kind: "number",
          name: "ring_s",
          label: "Rings for",
          unit: "s",
          help: "Each of them, or all together: 5 to 120 seconds.",
        },
        { kind: "choice", name: "when_busy", label: "While somebody is busy", options: busy },
        {
          kind: "one",
          name: "mailbox",
          label: "Whom nobody takes leaves a message in",
          help: "Where a flow, or the queue that a call came from, says nothing else.",
          none: "No mailbox",
          ...picked(mailboxes, (mailbox) => mailbox.name),
        },
        {
          kind: "choice",
          name: "language",
          label: "Callers are told so in",
          options: choices<RingGroup["language"]>({ en: "English", cy: "Welsh" }),
        },
      ]}
    />
  );
}
