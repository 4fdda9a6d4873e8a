import type { Schemas } from "../../api/client";
import { agents, teams } from "../../api/resources";
import { picked } from "../shared/fields";
import { KeptPage } from "../shared/KeptPage";
import { UsedBy } from "../shared/UsedBy";
import { LanguagesField, SkillLevels } from "./SkillLevels";

/** The people who take contacts. */
export default function Agents() {
  return (
    <KeptPage<Schemas["Agent"]>
      resource={agents}
      area="agents"
      base="/talk/agents"
      title="Agents"
      noun="agent"
      titleOf={(agent) => agent.name}
      sort={[{ field: "name", sort: "asc" }]}
      empty="Add the people who will answer. Queues choose their members from them."
      columns={[
        { field: "name", headerName: "Name", flex: 1, minWidth: 160 },
        { field: "extension", headerName: "Extension", width: 110 },
        { field: "team__name", headerName: "Team", flex: 1, minWidth: 140, renderCell: ({ row }) => row.team_name },
        { field: "site", headerName: "Site", width: 120 },
        { field: "languages", headerName: "Speaks", width: 90, sortable: false, renderCell: ({ row }) => (row.languages ?? []).join(", ") },
        {
          field: "username", headerName: "Signs in as", width: 140, sortable: false,
          renderCell: ({ row }) => row.username || <span className="dim">cannot yet</span>,
        },
      ]}
      fields={[
        { kind: "text", name: "name", label: "Name", required: true },
        { kind: "text", name: "extension", label: "Extension", required: true, help: "2 to 6 figures; no two agents share one." },
        { kind: "one", name: "team", label: "Team", none: "No team", ...picked(teams, (team) => team.name) },
        { kind: "text", name: "site", label: "Site" },
        { kind: "own", name: "languages", label: "Languages", Input: LanguagesField },
        { kind: "own", name: "skills", label: "Skills", Input: SkillLevels },
        { kind: "text", name: "username", label: "Sign-in name" },
        { kind: "password", name: "password", label: "New password", help: "Leave it empty to keep the present one." },
      ]}
      initial={{ languages: ["en"], skills: {} }}
      extra={(agent) => <UsedBy resource={agents} id={agent.id} />}
    />
  );
}
