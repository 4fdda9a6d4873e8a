import { useNavigate } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { queues } from "../../api/resources";
import { clock } from "../../frame/format";
import { useInUse } from "../reports/InUse";
import { ConfigListPage } from "../shared/ConfigListPage";
import styles from "../shared/shared.module.css";
import { asked, fields, initial } from "./fields";
import { useQueuesNow } from "./nowColumns";

type Queue = Schemas["Queue"];

/** Where contacts wait for a person. */
export default function Queues() {
  const navigate = useNavigate();
  const used = useInUse<Queue>("queue");
  const now = useQueuesNow();
  return (
    <ConfigListPage<Queue>
      resource={queues}
      area="queues"
      base="/wait/queues"
      title="Queues"
      noun="queue"
      open={(id) => void navigate(`/wait/queues/${id}`)}
      titleOf={(queue) => queue.name}
      sort={[{ field: "name", sort: "asc" }]}
      initial={initial}
      empty="A queue needs a name to begin with; members, times and goals can follow."
      columns={[
        {
          field: "name",
          headerName: "Name",
          flex: 1,
          minWidth: 260,
          renderCell: ({ row }) => (
            <span className={styles.cell}>
              <i className={styles.swatch} style={{ background: row.colour }} />
              {row.name}
              {!row.finished && <span className="chip warns">only a name so far</span>}
            </span>
          ),
        },
        ...now,
        ...used,
        { field: "member_count", headerName: "Members", width: 90, align: "right", headerAlign: "right" },
        { field: "extension", headerName: "Extension", width: 112, spare: true },
        { field: "group", headerName: "Group", width: 130, spare: true, sortable: false },
        {
          field: "channels",
          headerName: "Takes",
          width: 130,
          sortable: false,
          spare: true,
          valueFormatter: (value: string[]) => value.map((one) => (one === "voice" ? "calls" : "texts")).join(", "),
        },
        {
          field: "threshold_s",
          headerName: "Threshold",
          width: 100,
          align: "right",
          headerAlign: "right",
          spare: true,
          valueFormatter: (value: number) => clock(value * 1000),
        },
        {
          field: "goal_percent",
          headerName: "Goal",
          width: 80,
          align: "right",
          headerAlign: "right",
          sortable: false,
          spare: true,
          valueFormatter: (value: number) => `${value} %`,
        },
      ]}
      fields={fields}
      asked={asked}
    />
  );
}
