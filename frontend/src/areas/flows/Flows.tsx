import { Button } from "@mui/material";
import { useState } from "react";
import { useNavigate } from "react-router-dom";
import type { Definition, Schemas } from "../../api/client";
import { only, flows, plainFlows, waitingPlans } from "../../api/resources";
import { moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { AllFlows } from "./AllFlows";
import { FlowFileDialog } from "./FlowFileDialog";
import { useInUse } from "../reports/InUse";
import { ConfigListPage } from "../shared/ConfigListPage";
import { places } from "./places";

const resources = { flow: plainFlows, block: only(flows, { purpose: "block" }), plan: waitingPlans };

/** Every flow of a purpose; a click opens its map. */
export default function Flows({ purpose = "flow" }: { purpose?: Definition["purpose"] }) {
  const { session } = useSession();
  const navigate = useNavigate();
  const place = places[purpose];
  const [taking, setTaking] = useState(false);
  const [ruling, setRuling] = useState(false);
  const used = useInUse<Schemas["FlowDraft"]>("flow");
  return (
    <>
      <ConfigListPage<Schemas["FlowDraft"]>
        key={purpose}
        resource={resources[purpose]}
        area="flows"
        base={place.base}
        title={place.title}
        noun={place.noun}
        initial={{ purpose }}
        titleOf={(flow) => flow.name}
        sort={[{ field: "name", sort: "asc" }]}
        open={(id) => void navigate(`${place.base}/${id}`)}
        empty={place.empty}
        columns={[
          { field: "name", headerName: "Name", flex: 1, minWidth: 180 },
          { field: "channel", headerName: "Answers", width: 110, valueFormatter: (value: string) => (value === "text" ? "texts" : "calls") },
          { field: "stops", headerName: "Stops", width: 80, align: "right", headerAlign: "right" },
          {
            field: "in_force", headerName: "In force", flex: 1, minWidth: 220, sortable: false,
            renderCell: ({ row }) =>
              row.in_force ? <>version {row.in_force.number} <span className="dim">&nbsp;since {moment(row.in_force.published_at, session.time_zone)}, {row.in_force.author_name}</span></> : <span className="chip warns">nothing yet</span>,
          },
          ...(purpose === "flow" ? used : []),
          { field: "updated_at", headerName: "Last edited", width: 190, renderCell: ({ row }) => moment(row.updated_at, session.time_zone) },
        ]}
        tools={purpose === "flow" && <><Button onClick={() => { setRuling(true); }}>All flows…</Button><Button onClick={() => { setTaking(true); }}>From a file…</Button></>}
        fields={[{ kind: "text", name: "name", label: "Name", required: true }]}
      />
      {ruling && <AllFlows close={() => { setRuling(false); }} />}
      {taking && <FlowFileDialog close={() => { setTaking(false); }} />}
    </>
  );
}
