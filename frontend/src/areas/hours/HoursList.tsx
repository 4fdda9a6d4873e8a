import { useNavigate } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { hours } from "../../api/resources";
import { ConfigListPage } from "../shared/ConfigListPage";

/** Every set of opening hours, with its answer for this moment. */
export default function HoursList() {
  const navigate = useNavigate();
  return (
    <ConfigListPage<Schemas["Hours"]>
      resource={hours}
      area="hours"
      base="/arrive/hours"
      title="Hours & closures"
      noun="hours"
      titleOf={(item) => item.name}
      sort={[{ field: "name", sort: "asc" }]}
      open={(id) => void navigate(`/arrive/hours/${id}`)}
      empty="Hours say when it is open: a painted week, exceptions, and closures by hand. Flows ask them."
      columns={[
        { field: "name", headerName: "Name", flex: 1, minWidth: 160 },
        { field: "now", headerName: "Now", flex: 1, minWidth: 220, sortable: false },
        { field: "time_zone", headerName: "Time zone", width: 180 },
        { field: "exceptions", headerName: "Exceptions", width: 110, align: "right", headerAlign: "right", sortable: false, renderCell: ({ row }) => row.exceptions?.length ?? 0 },
      ]}
      fields={[{ kind: "text", name: "name", label: "Name", required: true }]}
    />
  );
}
