import { Button } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { api, data, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { diversions, mailboxes, numbers, plainFlows, type Values } from "../../api/resources";
import { moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Glyph } from "../../frame/states";
import { type Field, picked } from "../shared/fields";
import { ConfigListPage } from "../shared/ConfigListPage";
import { choices } from "../shared/choices";

type Diversion = Schemas["Diversion"];

const states = {
  "in force": { glyph: "fall", colour: "var(--ochre)" },
  coming: { glyph: "rise", colour: "var(--slate)" },
  over: { glyph: "flat", colour: "var(--slate)" },
  lifted: { glyph: "flat", colour: "var(--slate)" },
} as const;

function State({ state }: { state: string }) {
  const look = states[state as keyof typeof states];
  return (
    <span className="together">
      <Glyph name={look.glyph} colour={look.colour} />
      {state}
    </span>
  );
}

/** When it counts, and the button that ends it now. */
function Lift({ diversion, took }: { diversion: Diversion; took: (record: Diversion) => void }) {
  const { session, may } = useSession();
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const lift = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/v1/diversions/{id}/lift", {
          params: { path: { id: diversion.id } },
          body: { revision: diversion.revision ?? 1 },
        }),
      ),
    onSuccess: (record) => {
      took(record);
      void cache.invalidateQueries({ queryKey: keys.all("diversions") });
      enqueueSnackbar("Lifted: new calls go the normal way again.");
    },
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
    },
  });
  const standing = diversion.state === "in force" || diversion.state === "coming";
  const ends = diversion.lifted_at
    ? `lifted ${moment(diversion.lifted_at, session.time_zone)}`
    : diversion.until
      ? `until ${moment(diversion.until, session.time_zone)}`
      : "until lifted";
  return (
    <section aria-label="State" className="along">
      <State state={diversion.state} />
      <span className="dim">
        since {moment(diversion.begins ?? "", session.time_zone)}, {ends}
      </span>
      <span className="fill" />
      {standing && may("change", "diversions") && (
        <Button variant="contained" color="secondary" disabled={lift.isPending} onClick={() => lift.mutate()}>
          Lift it now
        </Button>
      )}
    </section>
  );
}

const is = (name: string, wanted: string) => (values: Values) => values[name] === wanted;
const outside = is("where", "outside");
const byName = (item: { name: string }) => item.name;

const fields: Field[] = [
  {
    kind: "text",
    name: "reason",
    label: "Reason",
    required: true,
    help: "Callers do not hear it; it stands on the strip and in the trace of each call.",
  },
  {
    kind: "many",
    name: "numbers",
    label: "Numbers",
    ...picked(numbers, (number) => `${number.national} ${number.label ?? ""}`.trim()),
  },
  {
    kind: "choice",
    name: "where",
    label: "Their calls go to",
    options: [
      { value: "outside", label: "an outside number" },
      { value: "mailbox", label: "a mailbox" },
      { value: "flow", label: "another flow" },
    ],
  },
  { kind: "text", name: "outside", label: "Outside number", when: outside },
  { kind: "one", name: "mailbox", label: "Mailbox", when: is("where", "mailbox"), ...picked(mailboxes, byName) },
  { kind: "one", name: "flow", label: "Flow", when: is("where", "flow"), ...picked(plainFlows, byName) },
  { kind: "number", name: "ring_s", label: "Rings for", unit: "s", when: outside },
  {
    kind: "choice",
    name: "then",
    label: "If nobody answers",
    when: outside,
    options: choices<Schemas["Diversion"]["then"]>({
      normal: "the normal way",
      mailbox: "a mailbox",
      flow: "another flow",
      end: "the call ends",
    }),
  },
  {
    kind: "one",
    name: "then_mailbox",
    label: "That mailbox",
    when: (v) => outside(v) && v.then === "mailbox",
    ...picked(mailboxes, byName),
  },
  {
    kind: "one",
    name: "then_flow",
    label: "That flow",
    when: (v) => outside(v) && v.then === "flow",
    ...picked(plainFlows, byName),
  },
  { kind: "moment", name: "begins", label: "From", help: "Empty: from now on." },
  { kind: "moment", name: "until", label: "Until", help: "Empty: until it is lifted." },
];

/** Numbers sent elsewhere for a while; no flow is touched. */
export default function Diversions() {
  const { session } = useSession();
  const when = (value: string | null) => (value ? moment(value, session.time_zone) : "");
  return (
    <ConfigListPage<Diversion>
      resource={diversions}
      area="diversions"
      base="/arrive/diversions"
      title="Diversions"
      noun="diversion"
      titleOf={(diversion) => diversion.reason}
      sort={[{ field: "begins", sort: "desc" }]}
      initial={{ numbers: [], where: "outside", then: "normal", ring_s: 20 }}
      copy={({
        reason,
        numbers: diverted,
        where,
        outside: number,
        mailbox,
        flow,
        ring_s,
        then,
        then_mailbox,
        then_flow,
      }) => ({
        reason,
        numbers: diverted,
        where,
        outside: number,
        mailbox,
        flow,
        ring_s,
        then,
        then_mailbox,
        then_flow,
      })}
      empty="A diversion sends a number’s calls to an outside number, a mailbox or another flow for a while: a storm, a broken line, a works outing."
      columns={[
        { field: "reason", headerName: "Reason", flex: 1, minWidth: 120 },
        {
          field: "state",
          headerName: "Now",
          width: 110,
          sortable: false,
          renderCell: ({ row }) => <State state={row.state} />,
        },
        {
          field: "number_names",
          headerName: "Numbers",
          flex: 1,
          minWidth: 120,
          sortable: false,
          valueGetter: (_, row) => row.number_names.join(", "),
        },
        { field: "to", headerName: "To", flex: 1, minWidth: 110, sortable: false },
        { field: "begins", headerName: "From", width: 140, valueFormatter: when },
        {
          field: "until",
          headerName: "Until",
          width: 140,
          valueFormatter: (value: string | null) => when(value) || "lifted by hand",
        },
      ]}
      fields={fields}
      extra={(diversion, took) => <Lift diversion={diversion} took={took} />}
    />
  );
}
