import type { Schemas } from "../../api/client";
import { agents } from "../../api/resources";
import { KeptPage } from "../shared/KeptPage";

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
        { field: "team", headerName: "Team", flex: 1, minWidth: 140 },
        {
          field: "username", headerName: "Signs in as", width: 140, sortable: false,
          renderCell: ({ row }) => row.username || <span className="dim">cannot yet</span>,
        },
      ]}
      fields={[
        { kind: "text", name: "name", label: "Name", required: true },
        { kind: "text", name: "extension", label: "Extension", required: true, help: "2 to 6 figures; no two agents share one." },
        { kind: "text", name: "team", label: "Team" },
        { kind: "text", name: "username", label: "Sign-in name" },
        { kind: "password", name: "password", label: "New password", help: "Leave it empty to keep the present one." },
      ]}
    />
  );
}
