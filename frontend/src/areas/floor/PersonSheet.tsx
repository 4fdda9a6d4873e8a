import { Button, IconButton, MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router-dom";
import { api, data, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { Chat } from "../../frame/Chat";
import { clock, percent, timeOfDay } from "../../frame/format";
import { useSession } from "../../frame/session";
import { agentStates, Empty, Glyph, Loading } from "../../frame/states";
import { useActing } from "../../frame/useActing";
import { useNow, useTopic } from "../../frame/useLive";
import { useReport } from "../reports/useReport";
import styles from "./floor.module.css";
import { HeldCard } from "./HeldCard";
import { needsNow } from "./needs";
import { doings, type FloorAgent, type FloorQueue } from "./types";

type Now = Schemas["LivePersonNow"];
const FRESH_MS = 10_000;
const SHOWN = 5;
const done: Record<string, string> = { available: "Made available", away: "Set away", sign_out: "Signed out" };

/** What a supervisor has the agent do, and which queues of others they help in. */
function Steering({ id, person, queues }: { id: string; person: Now; queues: Record<string, FloorQueue> }) {
  const { onAgent, busy } = useActing();
  const [wanted, setWanted] = useState("");
  const [queue, setQueue] = useState("");
  const reasons =
    "away" in person.acts
      ? person.away_reasons.map((reason) => [`away ${reason}`, `Set away: ${reason}`] as const)
      : [];
  const choices = [
    ...("available" in person.acts ? [["available", "Make available"] as const] : []),
    ...reasons,
    ...("sign_out" in person.acts ? [["sign_out", "Sign out"] as const] : []),
  ];
  const [act, ...rest] = wanted.split(" ");
  const others = Object.entries(queues).filter(([one]) => !person.own.includes(one) && !person.serves.includes(one));
  const serve = (serves: string[]) => {
    onAgent({ agent: id, act: "serve", queues: serves });
    setQueue("");
  };
  if (choices.length === 0) return null;
  return (
    <>
      <div className={styles.pair}>
        <TextField
          select
          size="small"
          label="State"
          value={wanted}
          slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true } }}
          onChange={(event) => setWanted(event.target.value)}>
          <MenuItem value="">as it is</MenuItem>
          {choices.map(([value, word]) => (
            <MenuItem key={value} value={value}>
              {word}
            </MenuItem>
          ))}
        </TextField>
        <Button
          variant="outlined"
          disabled={!wanted || busy}
          onClick={() => {
            onAgent({ agent: id, act: act ?? "", ...(rest.length > 0 && { reason: rest.join(" ") }) });
            setWanted("");
          }}>
          Set
        </Button>
      </div>
      {wanted && <div className={styles.does}>{person.acts[act ?? ""]} They see that it was you.</div>}
      {person.serves.map((one) => (
        <div key={one} className={styles.pair}>
          <span>
            Also serves <b>{queues[one]?.name ?? "a queue"}</b>, this shift
          </span>
          <Button size="small" disabled={busy} onClick={() => serve(person.serves.filter((other) => other !== one))}>
            End
          </Button>
        </div>
      ))}
      <div className={styles.pair}>
        <TextField
          select
          size="small"
          label="Also serves, this shift"
          value={queue}
          slotProps={{ inputLabel: { shrink: true }, select: { displayEmpty: true } }}
          onChange={(event) => setQueue(event.target.value)}>
          <MenuItem value="">no other queue</MenuItem>
          {others.map(([one, { name }]) => (
            <MenuItem key={one} value={one}>
              {name}
            </MenuItem>
          ))}
        </TextField>
        <Button variant="outlined" disabled={!queue || busy} onClick={() => serve([...person.serves, queue])}>
          Add
        </Button>
      </div>
    </>
  );
}

const states = ["on_contact", "wrapping", "ringing", "available", "away"] as const;
const fills: Record<string, string> = {
  on_contact: "var(--pine)",
  wrapping: "var(--ochre)",
  ringing: "var(--clay)",
  available: "var(--fern)",
  away: "var(--slate-soft)",
};

/** Today in shares, from the rows that reports show too. */
function Today({ id }: { id: string }) {
  const query = { period: "today" as const };
  const day = useReport("agent-day", { ...query, agent: id }, () =>
    data(api.GET("/api/v1/reports/agents/{id}/day", { params: { path: { id }, query } })),
  );
  const row = day.data?.row;
  return (
    <section aria-label="Today">
      <div className={styles.part}>
        <h2>Today</h2>
        <span className="dim">{row ? `signed in ${clock(row.signed_in_ms)}` : ""}</span>
      </div>
      {!row ? (
        <span className="dim">{day.isPending ? "Adding up…" : "Not signed in today."}</span>
      ) : (
        <>
          <div
            className={styles.shares}
            role="img"
            aria-label={states.map((state) => `${agentStates[state]?.word} ${clock(row[`${state}_ms`])}`).join(", ")}>
            {states.map((state) => (
              <i key={state} style={{ flexGrow: row[`${state}_ms`], background: fills[state] }} />
            ))}
          </div>
          <div className={styles.legend}>
            {states.map(
              (state) =>
                row[`${state}_ms`] > 0 && (
                  <span key={state}>
                    {agentStates[state]?.word.toLowerCase()} {percent(row[`${state}_share`], 0)}
                  </span>
                ),
            )}
          </div>
          <div className={styles.figures}>
            <span>
              Contacts <b>{row.legs}</b>
            </span>
            <span>
              Average <b>{row.handle_average_ms === null ? "–" : clock(row.handle_average_ms)}</b>
            </span>
            <span>
              Hold <b>{clock(row.hold_ms)}</b>
            </span>
            <span>
              Missed <b>{row.missed}</b> of {row.rang}
            </span>
            <span>
              Coded <b>{percent(row.coded_share, 0)}</b>
            </span>
          </div>
        </>
      )}
    </section>
  );
}

function LastContacts({ id }: { id: string }) {
  const { session } = useSession();
  const query = { agent: id, period: "today" as const };
  const list = useQuery({
    queryKey: keys.list("found", query),
    queryFn: () => data(api.GET("/api/v1/contacts/find", { params: { query } })),
    refetchInterval: FRESH_MS,
  });
  return (
    <section aria-label="Last contacts">
      <div className={styles.part}>
        <h2>Last contacts</h2>
        <Link to={`/learn/contacts?agent=${id}&period=today`}>all of today</Link>
      </div>
      <ul className={styles.last}>
        {list.data?.contacts.slice(0, SHOWN).map((one) => (
          <li key={one.id}>
            <span className="num">{timeOfDay(one.arrived_ms, session.time_zone).slice(0, 5)}</span>
            <Link to={`/learn/contacts/${one.id}`}>{one.caller || "withheld"}</Link>
            <span className="nowrap dim">{one.queue_name}</span>
            <span className="nowrap">
              {clock(one.talk_ms)} {one.code_name || <span className="dim">no code</span>}
            </span>
          </li>
        ))}
      </ul>
      {list.data?.contacts.length === 0 && <span className="dim">None today.</span>}
    </section>
  );
}

/** The state, as large as it matters, and why it needs a look. */
function BigState({ agent }: { agent: FloorAgent | undefined }) {
  const now = useNow(500);
  const state = agent && agentStates[agent.status];
  if (!agent || !state)
    return (
      <div className={styles.bigState}>
        <Glyph name="dashed" colour="var(--slate)" /> Signed out
      </div>
    );
  return (
    <div className={styles.bigState}>
      <Glyph name={state.glyph} colour={state.colour} /> {state.word}{" "}
      <span className="num">{clock(now - agent.since_ms)}</span>
      <span className="dim">{agent.reason || doings[agent.doing]}</span>
      {needsNow(agent, now).map((why) => (
        <span key={why} className={styles.need}>
          {why}
        </span>
      ))}
    </div>
  );
}

/** What a supervisor had them do, while it counts. */
function Steered({ person, status }: { person: Now; status: string | undefined }) {
  const { session } = useSession();
  const { steered, next } = person;
  if (!steered) return null;
  const later = next && next[0] !== status ? "; takes effect after this contact" : "";
  return (
    <div className={styles.does}>
      {done[steered.act]}
      {steered.reason && ` (${steered.reason})`} by {steered.by} at{" "}
      {timeOfDay(steered.at_ms, session.time_zone).slice(0, 5)}
      {later}.
    </div>
  );
}

interface Props {
  id: string;
  agent: FloorAgent | undefined;
  queues: Record<string, FloorQueue>;
  close: () => void;
}

/** One agent, opened: state, the contact in hand, what can be done, and the day so far. */
export function PersonSheet({ id, agent, queues, close }: Props) {
  const { view, refused } = useTopic("person", id);
  const { may } = useSession();
  const { onAgent } = useActing();
  const mayAct = may("use", "floor");
  const name = agent?.name ?? view?.person.name ?? "An agent";
  return (
    <aside className={styles.sheet} aria-label={name}>
      <div className={styles.sheetHead}>
        <h2>{name}</h2>
        <span className="dim nowrap">{agent && `${agent.extension} · ${agent.team || "no team"}`}</span>
        <IconButton size="small" aria-label="Close" onClick={close}>
          ✕
        </IconButton>
      </div>
      {refused ? (
        <Empty title={refused} />
      ) : !view ? (
        <Loading what="the agent" />
      ) : (
        <div className={styles.sheetBody}>
          <BigState agent={agent} />
          <Steered person={view.person} status={agent?.status} />
          {Object.entries(view.contacts).map(([contact, held], at) => (
            <HeldCard key={contact} id={contact} contact={held} mayAct={mayAct} first={at === 0} />
          ))}
          {mayAct && <Steering id={id} person={view.person} queues={queues} />}
          {mayAct && (
            <div className={styles.chatPart}>
              <Chat
                title={`Chat with ${name}`}
                lines={view.chat}
                agent={false}
                send={(text) => onAgent({ agent: id, act: "say", text })}
                empty="Nothing was written today."
              />
            </div>
          )}
          <Today id={id} />
          <LastContacts id={id} />
        </div>
      )}
    </aside>
  );
}
