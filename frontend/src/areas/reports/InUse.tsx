import type { GridColDef } from "@mui/x-data-grid";
import { useQuery } from "@tanstack/react-query";
import { api, data, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { clock, counted, percent } from "../../frame/format";
import { useSession } from "../../frame/session";
import styles from "./reports.module.css";

type Use = Schemas["InUse"];
type Kind = "number" | "flow" | "queue" | "mailbox" | "code" | "agent";

const FRESH_MS = 60_000;
const WIDTH = 84,
  HEIGHT = 18;

/** The last 28 days as a small ridge. */
function Ridge({ days }: { days: number[] }) {
  const most = Math.max(1, ...days);
  const points = days.map(
    (count, day) => `${((day + 0.5) * WIDTH) / days.length},${HEIGHT - 1 - (count / most) * (HEIGHT - 3)}`,
  );
  return (
    <svg width={WIDTH} height={HEIGHT} aria-hidden="true" className="rigid">
      <polyline
        points={points.join(" ")}
        fill="none"
        stroke="var(--pine-70)"
        strokeWidth="1.3"
        strokeLinejoin="round"
      />
    </svg>
  );
}

function Cell({ use, well }: { use: Use | undefined; well: boolean }) {
  if (!use?.count) return <span className="dim">not used</span>;
  return (
    <span className={styles.use} title={`${counted(use.count)} in 28 days`}>
      <Ridge days={use.days} />
      <span className={`num ${styles.uses}`}>{counted(use.count)}</span>
      {well && use.level !== null && (
        <span className="dim nowrap">
          {percent(use.level, 0)}
          {use.wait_average_ms !== null && ` · ${clock(use.wait_average_ms)}`}
        </span>
      )}
    </span>
  );
}

const heads: Record<Kind, string> = {
  number: "Contacts in 28 days",
  flow: "Callers in 28 days",
  queue: "28 days: offered, level, wait",
  mailbox: "Messages in 28 days",
  code: "Parts in 28 days",
  agent: "Contacts in 28 days",
};

function useFound() {
  const { may } = useSession();
  const sees = may("see", "reports");
  return {
    sees,
    found: useQuery({
      queryKey: keys.all("in-use"),
      queryFn: () => data(api.GET("/api/v1/reports/in-use")),
      enabled: sees,
      staleTime: FRESH_MS,
    }),
  };
}

/** What was used in the last 28 days, by reference; null while it is not known yet. */
export function useUses(): Map<string, Use> | null {
  const { found } = useFound();
  return found.isPending ? null : new Map(found.data?.map((use) => [use.thing, use]));
}

/** A column that answers “is it used?”; none for those who may see no reports. */
export function useInUse<T extends { id: string }>(
  kind: Kind,
  nameOf: (row: T) => string = (row) => row.id,
): GridColDef<T>[] {
  const { sees, found } = useFound();
  if (!sees) return [];
  const uses = new Map(found.data?.map((use) => [use.thing, use]));
  return [
    {
      field: "in_use",
      headerName: heads[kind],
      width: kind === "queue" ? 240 : 160,
      sortable: false,
      renderCell: ({ row }) => found.data && <Cell use={uses.get(`${kind}:${nameOf(row)}`)} well={kind === "queue"} />,
    },
  ];
}
