import { Button } from "@mui/material";
import { useState } from "react";
import { useLocation, useNavigate } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { flows } from "../../api/resources";
import { moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { FlowFileDialog } from "./FlowFileDialog";
import { KeptPage } from "../shared/KeptPage";

/** Every flow; a click opens its map. */
export default function Flows() {
  const { session } = useSession();
  const navigate = useNavigate();
  const making = useLocation().pathname.endsWith("/new");
  const [taking, setTaking] = useState(false);
  return (
    <>
      <KeptPage<Schemas["FlowDraft"]>
        resource={flows}
        area="flows"
        base="/guide/flows"
        chosen={making ? "new" : undefined}
        title="Flows"
        noun="flow"
        titleOf={(flow) => flow.name}
        sort={[{ field: "name", sort: "asc" }]}
        open={(id) => void navigate(`/guide/flows/${id}`)}
        empty="A flow says what callers meet. Begin with a greeting; queues and sounds can be named on the way."
        columns={[
          { field: "name", headerName: "Name", flex: 1, minWidth: 180 },
          { field: "channel", headerName: "Answers", width: 110, valueFormatter: (value: string) => (value === "text" ? "texts" : "calls") },
          { field: "stops", headerName: "Stops", width: 80, align: "right", headerAlign: "right" },
          {
            field: "in_force", headerName: "In force", flex: 1, minWidth: 220, sortable: false,
            renderCell: ({ row }) =>
              row.in_force ? <>version {row.in_force.number} <span className="dim">&nbsp;since {moment(row.in_force.published_at, session.time_zone)}, {row.in_force.author_name}</span></> : <span className="chip warns">nothing yet</span>,
          },
          { field: "updated_at", headerName: "Last edited", width: 190, renderCell: ({ row }) => moment(row.updated_at, session.time_zone) },
        ]}
        tools={<Button onClick={() => { setTaking(true); }}>From a file…</Button>}
        fields={[{ kind: "text", name: "name", label: "Name", required: true }]}
      />
      {taking && <FlowFileDialog close={() => { setTaking(false); }} />}
    </>
  );
}
