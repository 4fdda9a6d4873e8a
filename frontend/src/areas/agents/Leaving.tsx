import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { api, data, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { Failure, Loading } from "../../frame/states";
import styles from "./agents.module.css";

type Covered = Schemas["Covered"];

const W = 11;
const H = 26;

/** Agents there at each hour: with the person (outline) and without (solid); bare hours stand out. */
function Hours({ covered }: { covered: Covered }) {
  const most = Math.max(1, ...covered.before);
  const high = (n: number) => (n / most) * H;
  return (
    <svg
      width={24 * W}
      height={H + 12}
      role="img"
      aria-label={`Agents by hour with and without; bare at ${covered.bare.map((hour) => `${hour}:00`).join(", ") || "no hour"}`}>
      {covered.before.map((n, hour) => (
        <g key={hour}>
          <title>{`${hour}:00 to ${hour + 1}:00: ${n.toFixed(1)} agents on average, ${(covered.after[hour] ?? 0).toFixed(1)} without`}</title>
          <rect x={hour * W} y={0} width={W} height={H} fill="transparent" />
          <rect
            x={hour * W + 1}
            y={H - high(n)}
            width={W - 2}
            height={high(n)}
            fill="none"
            stroke={covered.bare.includes(hour) ? "var(--plum)" : "var(--edge)"}
          />
          <rect
            x={hour * W + 1}
            y={H - high(covered.after[hour] ?? 0)}
            width={W - 2}
            height={high(covered.after[hour] ?? 0)}
            fill="var(--pine-70, var(--pine))"
          />
        </g>
      ))}
      <line x1={0} x2={24 * W} y1={H} y2={H} stroke="var(--line)" />
      {[0, 6, 12, 18].map((hour) => (
        <text key={hour} x={hour * W} y={H + 10} fontSize={9} fill="var(--slate-ink)">
          {hour}:00
        </text>
      ))}
    </svg>
  );
}

function Row({ covered }: { covered: Covered }) {
  const nobody = covered.others === 0;
  return (
    <tr className="ruled">
      <td className={styles.covered}>
        <b>{covered.name}</b> <span className="dim">{covered.kind}</span>
      </td>
      <td className={`num ${styles.others}`}>{covered.others}</td>
      <td>
        <Hours covered={covered} />
      </td>
      <td className={styles.verdict}>
        {nobody ? (
          <span className="chip blocks">nobody is left</span>
        ) : covered.bare.length ? (
          <span className="chip warns">bare at {covered.bare.map((hour) => `${hour}`).join(", ")} h</span>
        ) : (
          <span className="dim">covered</span>
        )}
      </td>
    </tr>
  );
}

/** What the queues and skills of a person lose if they leave, and letting them leave. */
export function Leaving({ agent, gone }: { agent: Schemas["Agent"]; gone: () => void }) {
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const [open, setOpen] = useState(false);
  const found = useQuery({
    queryKey: keys.of("agents", "coverage", agent.id),
    enabled: open,
    staleTime: 0,
    queryFn: () => data(api.GET("/api/v1/agents/{id}/coverage", { params: { path: { id: agent.id } } })),
  });
  const leave = useMutation({
    mutationFn: () => api.POST("/api/v1/agents/{id}/leave", { params: { path: { id: agent.id } } }),
    onSuccess: () => {
      setOpen(false);
      void cache.invalidateQueries();
      enqueueSnackbar(`${agent.name} has left, and cannot sign in any more. The change log can bring the agent back.`);
      gone();
    },
  });
  const covered = found.data?.covered ?? [];
  return (
    <>
      <div>
        <Button
          onClick={() => {
            leave.reset();
            setOpen(true);
          }}>
          If {agent.name} leaves…
        </Button>
      </div>
      <Dialog open={open} onClose={() => setOpen(false)} maxWidth="md">
        <DialogTitle>If {agent.name} leaves</DialogTitle>
        <DialogContent>
          {found.isPending && <Loading what="who covers which hours" />}
          {found.isError && <Failure error={found.error} />}
          {found.data && (
            <>
              <p className={`dim ${styles.lead}`}>
                {found.data.days
                  ? `Agents signed in at each hour of the day, on average over ${found.data.days === 1 ? "today" : `the last ${found.data.days} days`}: filled without ${agent.name}, outlined with.`
                  : "No sign-ins are recorded yet, so only heads can be counted."}
              </p>
              <table className="table">
                <thead>
                  <tr>
                    <th align="left">Queue or skill</th>
                    <th align="right" className={styles.othersHead}>
                      Others
                    </th>
                    <th align="left">By the hour</th>
                    <th />
                  </tr>
                </thead>
                <tbody>
                  {covered.map((one) => (
                    <Row key={`${one.kind} ${one.id}`} covered={one} />
                  ))}
                </tbody>
              </table>
              {covered.length === 0 && <p>No queue and no skill depends on {agent.name}.</p>}
            </>
          )}
          {leave.isError && (
            <p role="alert" className="wrong">
              {words(leave.error)}
            </p>
          )}
        </DialogContent>
        <DialogActions>
          <Button onClick={() => setOpen(false)}>Keep {agent.name}</Button>
          <Button
            color="error"
            variant="contained"
            disabled={!found.data || leave.isPending}
            onClick={() => leave.mutate()}>
            Take out of everything and delete
          </Button>
        </DialogActions>
      </Dialog>
    </>
  );
}
