import type { Schemas } from "../../api/client";
import { useSession } from "../../frame/session";
import { agentStates, Glyph } from "../../frame/states";
import { useTopic } from "../../frame/useLive";
import type { Column } from "../shared/columns";
import styles from "../shared/shared.module.css";

type Agent = Schemas["Agent"];

/** The state of each agent, for those who may see the floor. */
export function useStateNow(): Column<Agent>[] {
  const { may } = useSession();
  const sees = may("see", "floor");
  const agents = useTopic("floor", sees ? undefined : null).view?.agents;
  if (!sees) return [];
  return [
    {
      field: "state",
      headerName: "Now",
      width: 140,
      sortable: false,
      renderCell: ({ row }) => {
        const state = agents && agentStates[agents[row.id]?.status ?? "out"];
        return (
          state && (
            <span className={`${styles.cell} ${agents[row.id] ? "" : "dim"}`} title={agents[row.id]?.reason}>
              <Glyph name={state.glyph} colour={state.colour} />
              {state.word}
            </span>
          )
        );
      },
    },
  ];
}
