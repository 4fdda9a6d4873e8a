import { Button } from "@mui/material";
import { useState } from "react";
import { useNavigate } from "react-router-dom";
import type { Definition, Schemas } from "../../api/client";
import { only, flows, plainFlows, waitingPlans } from "../../api/resources";
import { counted, moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { AllFlows } from "./AllFlows";
import { FlowFileDialog } from "./FlowFileDialog";
import { useInUse } from "../reports/InUse";
import type { Column } from "../shared/columns";
import { ConfigListPage } from "../shared/ConfigListPage";
import { Names, useGlance } from "../shared/glance";
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
  const glance = useGlance("flows");
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
          {
            field: "in_force",
            headerName: "In force",
            width: 250,
            sortable: false,
            renderCell: ({ row }) =>
              row.in_force ? (
                <span title={`Published by ${row.in_force.author_name}`}>
                  version {row.in_force.number}{" "}
                  <span className="dim">since {moment(row.in_force.published_at, session.time_zone)}</span>
                </span>
              ) : (
                <span className="chip warns">nothing yet</span>
              ),
          },
          {
            field: "differs",
            headerName: "Draft",
            width: 110,
            sortable: false,
            renderCell: ({ row }) => {
              const differs = glance.get(row.id)?.differs;
              return differs ? <b>differs</b> : differs === false ? <span className="dim">the same</span> : null;
            },
          },
          ...(purpose === "flow"
            ? ([
                {
                  field: "numbers",
                  headerName: "Numbers that lead here",
                  flex: 1,
                  minWidth: 190,
                  sortable: false,
                  renderCell: ({ row }) => <Names names={glance.get(row.id)?.numbers} />,
                },
                {
                  field: "now",
                  headerName: "Callers now",
                  width: 100,
                  sortable: false,
                  align: "right",
                  headerAlign: "right",
                  renderCell: ({ row }) => glance.get(row.id)?.now,
                },
                {
                  field: "today",
                  headerName: "Today",
                  width: 80,
                  sortable: false,
                  align: "right",
                  headerAlign: "right",
                  renderCell: ({ row }) => counted(glance.get(row.id)?.today),
                },
                ...used,
              ] satisfies Column<Schemas["FlowDraft"]>[])
            : []),
          {
            field: "updated_at",
            headerName: "Last edited",
            width: 140,
            spare: purpose === "flow",
            renderCell: ({ row }) => moment(row.updated_at, session.time_zone),
          },
          {
            field: "channel",
            headerName: "Answers",
            width: 110,
            spare: true,
            valueFormatter: (value: string) => (value === "text" ? "texts" : "calls"),
          },
          { field: "stops", headerName: "Stops", width: 80, align: "right", headerAlign: "right", spare: true },
        ]}
        tools={
          purpose === "flow" && (
            <>
              <Button onClick={() => setRuling(true)}>All flows…</Button>
              <Button onClick={() => setTaking(true)}>From a file…</Button>
            </>
          )
        }
        fields={[{ kind: "text", name: "name", label: "Name", required: true }]}
      />
      {ruling && <AllFlows close={() => setRuling(false)} />}
      {taking && <FlowFileDialog close={() => setTaking(false)} />}
    </>
  );
}
