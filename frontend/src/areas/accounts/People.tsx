import type { Schemas } from "../../api/client";
import { people, teams } from "../../api/resources";
import { moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { picked } from "../shared/fields";
import { ConfigListPage } from "../shared/ConfigListPage";

type Person = Schemas["Person"];

const roles: Record<NonNullable<Person["role"]>, string> = {
  administrator: "Administrator",
  supervisor: "Supervisor",
  agent: "Agent",
  read_only: "Read only",
};

/** Everybody who signs in: what they may do, and whether they may come in at all. */
export default function People() {
  const { session } = useSession();
  const at = (value: string | null | undefined) =>
    value ? moment(Date.parse(value), session.time_zone) : <span className="dim">never</span>;
  return (
    <ConfigListPage<Person>
      resource={people}
      area="people"
      base="/talk/people"
      title="People"
      noun="person"
      titleOf={(person) => person.full_name}
      sort={[{ field: "full_name", sort: "asc" }]}
      deletes={false}
      empty="Everybody who signs in is listed here, with what they may do."
      columns={[
        { field: "full_name", headerName: "Name", flex: 1, minWidth: 160 },
        { field: "username", headerName: "Signs in as", width: 140 },
        {
          field: "role",
          headerName: "May",
          width: 130,
          valueFormatter: (value: Person["role"]) => (value ? roles[value] : ""),
        },
        {
          field: "is_active",
          headerName: "Comes in",
          width: 110,
          renderCell: ({ row }) => (row.is_active ? "yes" : <span className="dim">disabled</span>),
        },
        { field: "last_login", headerName: "Last came in", width: 170, renderCell: ({ row }) => at(row.last_login) },
      ]}
      initial={{ role: "read_only", is_active: true, teams: [], extension: "" }}
      fields={[
        { kind: "text", name: "full_name", label: "Name", required: true },
        { kind: "text", name: "username", label: "Sign-in name", required: true },
        {
          kind: "choice",
          name: "role",
          label: "May",
          options: Object.entries(roles).map(([value, label]) => ({ value, label })),
        },
        {
          kind: "many",
          name: "teams",
          label: "Supervises",
          help: "They see the agents of these teams on the floor, and may change them.",
          when: (values) => values.role === "supervisor",
          ...picked(teams, (team) => team.name),
        },
        {
          kind: "text",
          name: "extension",
          label: "Extension",
          help: "Where they are rung; all else of an agent is set under Agents.",
          when: (values) => values.role === "agent",
        },
        {
          kind: "password",
          name: "password",
          label: "New password",
          help: "10 characters at least. Empty: the present one stays.",
        },
        {
          kind: "yes",
          name: "is_active",
          label: "May come in",
          help: "Who is disabled is signed out at once, and stays in the change log.",
        },
      ]}
    />
  );
}
