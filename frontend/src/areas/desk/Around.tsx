import { useQuery } from "@tanstack/react-query";
import { api, data } from "../../api/client";
import { keys } from "../../api/keys";
import { clock } from "../../frame/format";
import { isLate } from "../../frame/late";
import { agentStates, Glyph } from "../../frame/states";
import { useNow, useTopic } from "../../frame/useLive";
import { nameless, WaitRibbon } from "../floor/WaitRibbon";
import styles from "./desk.module.css";

const FRESH_MS = 5_000;
const SHOWN = 8;

/** Who waits in the agent's queues, and for how long: without who they are. */
export function WaitingHere({ queues }: { queues: string[] }) {
  const { view } = useTopic("lines");
  const now = useNow(500);
  const mine = queues.flatMap((id) => (view?.queues[id] ? [[id, view.queues[id]] as const] : []));
  if (mine.length === 0) return null;
  return (
    <section className={styles.panel} aria-label="Waiting in my queues">
      <h2>Waiting in my queues</h2>
      {mine.map(([id, queue]) => {
        const first = queue.waiting[0];
        const late = queue.waiting.some((wait) => isLate(wait, now));
        return (
          <div key={id}>
            <div className={styles.line}>
              <b>{queue.name}</b>
              <span className="num" style={{ color: late ? "var(--plum-ink)" : undefined }}>
                {queue.waiting.length} {first && `· ${clock(now - first.entered_ms)}`}
              </span>
            </div>
            <WaitRibbon beads={nameless(queue.waiting)} threshold={queue.threshold_s} now={now} name={queue.name} />
          </div>
        );
      })}
    </section>
  );
}

/** What colleagues do at the moment; those who could answer soonest first. */
export function Colleagues({ ask }: { ask: ((to: string) => void) | null }) {
  const now = useNow();
  const found = useQuery({
    queryKey: keys.of("desk-targets", ""),
    queryFn: () => data(api.GET("/api/v1/desk/targets", { params: { query: { search: "" } } })),
    refetchInterval: FRESH_MS,
  });
  const there = (found.data ?? []).filter((one) => one.kind === "agent" && one.status).slice(0, SHOWN);
  return (
    <section className={styles.panel} aria-label="Colleagues">
      <h2>Colleagues</h2>
      <ul className={styles.colleagues}>
        {there.map((one) => {
          const state = agentStates[one.status];
          return (
            <li key={one.to}>
              <Glyph name={state?.glyph ?? "dashed"} colour={state?.colour ?? "var(--slate)"} />
              <span className="nowrap" title={`${one.name}, ${one.extension}`}>
                {one.name}
              </span>
              <span className="dim nowrap">{state?.word.toLowerCase()}</span>
              <span className="num">{one.since_ms === null ? "" : clock(now - one.since_ms)}</span>
              {ask && (
                <button type="button" className={styles.ask} onClick={() => ask(one.to)}>
                  ask
                </button>
              )}
            </li>
          );
        })}
      </ul>
      {found.isSuccess && there.length === 0 && <span className="dim">Nobody else of your team is signed in.</span>}
    </section>
  );
}
