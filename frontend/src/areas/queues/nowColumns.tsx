import { clock, percent } from "../../frame/format";
import { isLate } from "../../frame/late";
import { useSession } from "../../frame/session";
import { useNow, useTopic } from "../../frame/useLive";
import type { Schemas } from "../../api/client";
import type { FloorQueue } from "../floor/types";
import type { Column } from "../shared/columns";
import { HoursNow, useGlance } from "../shared/glance";
import styles from "../shared/shared.module.css";

type Queue = Schemas["Queue"];

function Waiting({ queue }: { queue: FloorQueue }) {
  const now = useNow();
  if (!queue.waiting.length) return <span className="dim">nobody</span>;
  const longest = now - Math.min(...queue.waiting.map((one) => one.entered_ms));
  const late = queue.waiting.some((wait) => isLate(wait, now));
  return (
    <span className="num">
      {queue.waiting.length} · <span className={late ? styles.below : undefined}>{clock(longest)}</span>
    </span>
  );
}

function Level({ queue }: { queue: FloorQueue }) {
  const level = queue.figures.service_level,
    goal = queue.goal_percent / 100;
  if (level === null) return <span className="dim">nobody yet · goal {queue.goal_percent} %</span>;
  const below = queue.below_goal;
  return (
    <span className={styles.cell}>
      <span className={styles.meter} data-below={below || undefined} aria-hidden="true">
        <i style={{ width: `${level * 100}%` }} />
        <b style={{ left: `${goal * 100}%` }} />
      </span>
      <span className={below ? styles.below : styles.met}>{percent(level, 0)}</span>
      <span className="dim">of {queue.goal_percent} %</span>
    </span>
  );
}

/** How queues stand: their hours, and for those who may see the floor who waits, who can take it, and today's level. */
export function useQueuesNow(): Column<Queue>[] {
  const { may } = useSession();
  const sees = may("see", "floor");
  const glance = useGlance("queues");
  const floor = useTopic("floor", sees ? undefined : null).view?.queues;
  const hours: Column<Queue> = {
    field: "hours_now",
    headerName: "Hours now",
    width: 220,
    sortable: false,
    renderCell: ({ row }) => <HoursNow hours={glance.get(row.id)?.hours} none="always" />,
  };
  if (!sees) return [hours];
  return [
    {
      field: "waiting",
      headerName: "Waiting",
      width: 100,
      sortable: false,
      renderCell: ({ row }) => {
        const queue = floor?.[row.id];
        return queue && <Waiting queue={queue} />;
      },
    },
    {
      field: "able",
      headerName: "Free of signed in",
      width: 130,
      sortable: false,
      align: "right",
      headerAlign: "right",
      renderCell: ({ row }) => {
        const queue = floor?.[row.id];
        return (
          queue && (
            <span title="Agents who could take its contacts">
              {queue.available} of {queue.signed_in}
            </span>
          )
        );
      },
    },
    {
      field: "level",
      headerName: "Level today",
      width: 170,
      sortable: false,
      renderCell: ({ row }) => {
        const queue = floor?.[row.id];
        return queue && <Level queue={queue} />;
      },
    },
    hours,
  ];
}
