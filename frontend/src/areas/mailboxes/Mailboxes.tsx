import { Button } from "@mui/material";
import type { Prompt, Schemas } from "../../api/client";
import { agents, mailboxes, queues, type Values } from "../../api/resources";
import { moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { PromptField } from "../flows/sheet/PromptField";
import { type OwnProps, picked } from "../shared/fields";
import { useInUse } from "../reports/InUse";
import { ConfigListPage } from "../shared/ConfigListPage";
import { UsedBy } from "../shared/UsedBy";
import { Messages } from "./Messages";
import { choices } from "../shared/choices";

type Mailbox = Schemas["Mailbox"];

const owners: Record<string, string> = { shared: "shared", person: "a person’s", queue: "a queue’s" };

/** What callers hear before the tone. */
function GreetingField({ value, error, disabled, change }: OwnProps) {
  const prompt = value as Prompt | null | undefined;
  if (!prompt)
    return (
      <div>
        <Button
          variant="outlined"
          disabled={disabled}
          onClick={() => change({ kind: "text", text: "", language: "en" })}>
          Add a greeting…
        </Button>
      </div>
    );
  return (
    <div className="lines">
      <PromptField label="Callers hear first" prompt={prompt} language="en" disabled={disabled} change={change} />
      {error && (
        <div role="alert" className="wrong">
          {error}
        </div>
      )}
      {!disabled && (
        <div>
          <Button onClick={() => change(null)}>No greeting</Button>
        </div>
      )}
    </div>
  );
}

const owned = (owner: string) => (values: Values) => values.owner === owner;

/** Where callers leave messages, and what they left. */
export default function Mailboxes() {
  const { session } = useSession();
  const used = useInUse<Mailbox>("mailbox");
  return (
    <ConfigListPage<Mailbox>
      resource={mailboxes}
      area="mailboxes"
      base="/wait/mailboxes"
      title="Mailboxes"
      noun="mailbox"
      titleOf={(mailbox) => mailbox.name}
      sort={[{ field: "name", sort: "asc" }]}
      initial={{ owner: "shared", longest_s: 120, listeners: [], greeting: null }}
      copy={({ name, owner, agent, queue, listeners, greeting, longest_s }) => ({
        name: `${name} 2`,
        owner,
        agent,
        queue,
        listeners,
        greeting,
        longest_s,
      })}
      empty="A mailbox takes messages for a person, a queue or everybody. A flow leads to it with the stop “Leave a message”."
      columns={[
        { field: "name", headerName: "Name", flex: 1, minWidth: 140 },
        {
          field: "new",
          headerName: "New",
          width: 70,
          align: "right",
          headerAlign: "right",
          renderCell: ({ row }) => (row.new ? <b>{row.new}</b> : "–"),
        },
        { field: "kept", headerName: "Kept", width: 70, align: "right", headerAlign: "right", sortable: false },
        {
          field: "newest_at",
          headerName: "Newest",
          width: 150,
          valueFormatter: (value: string | null) => (value ? moment(value, session.time_zone) : ""),
        },
        { field: "owner", headerName: "Whose", width: 110, valueFormatter: (value: string) => owners[value] ?? value },
        { field: "extension", headerName: "Extension", width: 112 },
        ...used,
        {
          field: "greeting",
          headerName: "",
          width: 120,
          sortable: false,
          renderCell: ({ row }) => (row.greeting ? "" : <span className="chip warns">no greeting</span>),
        },
      ]}
      fields={[
        { kind: "text", name: "name", label: "Name", required: true },
        {
          kind: "choice",
          name: "owner",
          label: "Whose",
          options: choices<Schemas["Mailbox"]["owner"]>({
            shared: "Shared",
            person: "A person’s",
            queue: "A queue’s: its members listen",
          }),
        },
        {
          kind: "one",
          name: "agent",
          label: "Person",
          when: owned("person"),
          ...picked(agents, (agent) => agent.name),
        },
        { kind: "one", name: "queue", label: "Queue", when: owned("queue"), ...picked(queues, (queue) => queue.name) },
        { kind: "many", name: "listeners", label: "May listen as well", ...picked(agents, (agent) => agent.name) },
        { kind: "own", name: "greeting", label: "Greeting", Input: GreetingField },
        { kind: "number", name: "longest_s", label: "Longest message", unit: "s" },
        { kind: "text", name: "extension", label: "Extension", help: "Empty: it cannot be dialled." },
      ]}
      top={(mailbox) =>
        mailbox.may_listen ? (
          <Messages mailbox={mailbox.id} />
        ) : (
          <span className="dim">Its messages are for its listeners only.</span>
        )
      }
      extra={(mailbox) => <UsedBy resource={mailboxes} id={mailbox.id} />}
    />
  );
}
