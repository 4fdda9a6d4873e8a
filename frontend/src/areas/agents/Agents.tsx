import { useNavigate } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { agents, teams } from "../../api/resources";
import { useSession } from "../../frame/session";
import { useInUse } from "../reports/InUse";
import { picked } from "../shared/fields";
import { ConfigListPage } from "../shared/ConfigListPage";
import { Names, useGlance } from "../shared/glance";
import { UsedBy } from "../shared/UsedBy";
import { AgentsFile } from "./AgentsFile";
import { ChangeSeveral } from "./ChangeSeveral";
import { Leaving } from "./Leaving";
import { LanguagesField, SkillLevels, SkillNames } from "./SkillLevels";
import { useStateNow } from "./stateNow";

/** The people who take contacts. */
export default function Agents() {
  const navigate = useNavigate();
  const { may } = useSession();
  const used = useInUse<Schemas["Agent"]>("agent");
  const glance = useGlance("agents");
  const state = useStateNow();
  return (
    <ConfigListPage<Schemas["Agent"]>
      resource={agents}
      area="agents"
      base="/talk/agents"
      title="Agents"
      noun="agent"
      titleOf={(agent) => agent.name}
      sort={[{ field: "name", sort: "asc" }]}
      empty="Add the people who will answer. Queues choose their members from them."
      columns={[
        { field: "name", headerName: "Name", flex: 1, minWidth: 160, editable: true },
        ...state,
        { field: "team__name", headerName: "Team", flex: 1, minWidth: 150, renderCell: ({ row }) => row.team_name },
        {
          field: "queues",
          headerName: "Queues",
          flex: 1,
          minWidth: 150,
          sortable: false,
          renderCell: ({ row }) => <Names names={glance.get(row.id)?.queues} />,
        },
        {
          field: "skills",
          headerName: "Skills",
          flex: 1,
          minWidth: 150,
          sortable: false,
          renderCell: ({ row }) => <SkillNames skills={row.skills ?? {}} />,
        },
        { field: "extension", headerName: "Extension", width: 112, editable: true },
        ...used,
        { field: "site", headerName: "Site", width: 110, editable: true, spare: true },
        { field: "staff_number", headerName: "Staff no.", width: 100, editable: true, spare: true },
        {
          field: "languages",
          headerName: "Speaks",
          width: 90,
          sortable: false,
          spare: true,
          renderCell: ({ row }) => (row.languages ?? []).join(", "),
        },
        {
          field: "username",
          headerName: "Signs in as",
          width: 120,
          sortable: false,
          spare: true,
          renderCell: ({ row }) => row.username || <span className="dim">cannot yet</span>,
        },
      ]}
      fields={[
        { kind: "text", name: "name", label: "Name", required: true },
        {
          kind: "text",
          name: "extension",
          label: "Extension",
          required: true,
          help: "2 to 6 digits; no two agents share one.",
        },
        {
          kind: "text",
          name: "staff_number",
          label: "Staff number",
          help: "As the personnel office has it; no two agents share one.",
        },
        { kind: "one", name: "team", label: "Team", none: "No team", ...picked(teams, (team) => team.name) },
        { kind: "text", name: "site", label: "Site" },
        { kind: "own", name: "languages", label: "Languages", Input: LanguagesField },
        { kind: "own", name: "skills", label: "Skills", Input: SkillLevels },
        {
          kind: "text",
          name: "outside_number",
          label: "Outside telephone",
          help: "Used where the handling rules say that they work from an outside line.",
        },
        { kind: "text", name: "username", label: "Sign-in name" },
        { kind: "password", name: "password", label: "New password", help: "Empty: the present one stays." },
      ]}
      initial={{ languages: ["en"], skills: {} }}
      tools={<AgentsFile />}
      several={(ids, done) => <ChangeSeveral ids={ids} done={done} />}
      extra={(agent) => (
        <>
          <UsedBy resource={agents} id={agent.id} />
          {may("change", "agents") && <Leaving agent={agent} gone={() => void navigate("/talk/agents")} />}
        </>
      )}
    />
  );
}
