import { useNavigate } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { hours } from "../../api/resources";
import { dateIn, dayOf } from "../../frame/format";
import { useNow } from "../../frame/useLive";
import { ConfigListPage } from "../shared/ConfigListPage";
import styles from "../shared/shared.module.css";
import { SmallWeek } from "./SmallWeek";

/** The day on which an exception comes next, from a day on. */
function comes(exception: { day: string; yearly: boolean }, today: string): string {
  if (!exception.yearly || exception.day >= today) return exception.day;
  const thisYear = today.slice(0, 4) + exception.day.slice(4);
  return thisYear >= today ? thisYear : String(Number(today.slice(0, 4)) + 1) + exception.day.slice(4);
}

/** The exception that comes next, and what it does. */
function NextException({ hours }: { hours: Schemas["Hours"] }) {
  const today = dateIn(new Date(useNow(60_000)).toISOString(), hours.time_zone ?? "UTC");
  const coming = (hours.exceptions ?? [])
    .map((one) => ({ ...one, next: comes(one, today) }))
    .filter((one) => one.next >= today)
    .toSorted((a, b) => a.next.localeCompare(b.next));
  const [first] = coming;
  if (!first) return <span className="dim">none ahead</span>;
  const day = dayOf(first.next);
  return (
    <span title={`${coming.length} ahead`}>
      {day}{" "}
      <span className="dim">
        {first.name || "unnamed"}, {first.spans.length ? "other hours" : "closed"}
      </span>
    </span>
  );
}

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
        {
          field: "now",
          headerName: "Now",
          width: 240,
          sortable: false,
          renderCell: ({ row }) => <span className={row.now.startsWith("Open") ? undefined : "dim"}>{row.now}</span>,
        },
        {
          field: "week",
          headerName: "Week",
          width: 130,
          sortable: false,
          renderCell: ({ row }) => (
            <span className={styles.cell}>
              <SmallWeek week={row.week ?? []} />
            </span>
          ),
        },
        {
          field: "exceptions",
          headerName: "Next exception",
          width: 260,
          sortable: false,
          renderCell: ({ row }) => <NextException hours={row} />,
        },
        { field: "time_zone", headerName: "Time zone", width: 160, spare: true },
      ]}
      fields={[{ kind: "text", name: "name", label: "Name", required: true }]}
    />
  );
}
