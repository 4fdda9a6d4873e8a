import type { Schemas } from "../../api/client";
import { notices, teams } from "../../api/resources";
import { moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { picked } from "../shared/fields";
import { ConfigListPage } from "../shared/ConfigListPage";

/** What agents read at their desk until a moment. */
export default function Notices() {
  const { session } = useSession();
  return (
    <ConfigListPage<Schemas["Notice"]>
      resource={notices}
      area="agents"
      base="/talk/notices"
      title="Notices"
      noun="notice"
      titleOf={(notice) => notice.text.slice(0, 40)}
      sort={[{ field: "until", sort: "desc" }]}
      empty="A notice stands at the top of agents’ desks until its moment: of some teams, or of everybody."
      columns={[
        { field: "text", headerName: "Text", flex: 1, minWidth: 240 },
        {
          field: "team_names",
          headerName: "Teams",
          width: 240,
          sortable: false,
          valueFormatter: (value: string[]) => value.join(", ") || "everybody",
        },
        {
          field: "until",
          headerName: "Until",
          width: 180,
          valueFormatter: (value: string) => moment(value, session.time_zone),
        },
      ]}
      initial={{ teams: [] }}
      fields={[
        { kind: "area", name: "text", label: "Text", required: true },
        {
          kind: "many",
          name: "teams",
          label: "Teams",
          help: "None: everybody.",
          ...picked(teams, (team) => team.name),
        },
        { kind: "moment", name: "until", label: "Until", required: true },
      ]}
    />
  );
}
