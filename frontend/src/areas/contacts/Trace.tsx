import { Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router-dom";
import { api, data, type Definition, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { clock, moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Failure, Loading } from "../../frame/states";
import { usePageTitle } from "../../frame/title";
import { endingWords } from "../flows/endings";
import styles from "../flows/flows.module.css";
import { Transcript } from "../flows/phone/Transcript";
import type { LogLine } from "../flows/phone/useTelephone";
import { TrailMap, type Walk } from "../flows/trail/TrailMap";
import { Around } from "./Around";
import own from "./contacts.module.css";
import { HearIt } from "./HearIt";
import { Lanes } from "./Lanes";

type Contact = Schemas["Contact"];

const FRESH_MS = 2000;

/** The stops and arms that a contact took in the flow that answered it. */
function walkOf(lines: LogLine[], began: number, current: string | null): Walk {
  const steps = new Map<string, string>();
  const arms = new Set<string>();
  for (const line of lines) {
    if (line.kind === "contact.went_on") break;
    if (line.kind !== "contact.moved") continue;
    arms.add(`${line.step ?? ""} ${line.exit ?? ""}`);
    if (line.to) steps.set(line.to, clock(line.at_ms - began));
  }
  return { steps, arms, current };
}

/** The map of the version that the contact ran, with its path lit. */
function PathMap({ contact, definition, lines }: { contact: Contact; definition: Definition; lines: LogLine[] }) {
  const [selected, setSelected] = useState<string | null>(null);
  const drawn = useQuery({
    queryKey: keys.inspection(contact.flow, JSON.stringify(definition)),
    queryFn: () =>
      data(
        api.POST("/api/v1/flows/{id}/inspect", { params: { path: { id: contact.flow } }, body: { draft: definition } }),
      ),
    staleTime: Infinity,
    retry: false,
  });
  if (drawn.isError)
    return (
      <p className={`dim ${own.note}`}>The flow is gone, and its map with it. What happened stands at the right.</p>
    );
  if (!drawn.data) return <Loading what="the map" />;
  const last = lines.filter((line) => line.kind === "contact.moved" && line.to).pop();
  const walk = walkOf(lines, Date.parse(contact.arrived_at), contact.ended_at ? null : (last?.to ?? null));
  return (
    <TrailMap
      inspection={{ ...drawn.data, findings: [] }}
      start={definition.start}
      begins={{ head: "Arrives on", words: "this number" }}
      selected={selected}
      select={setSelected}
      walk={walk}
      here={{}}
      counts={{}}
      covered={false}
      keys={() => undefined}
    />
  );
}

/** How it ended and after how long, or that it goes on. */
function overWords(ending: string | null | undefined, ended: string | null | undefined, began: number): string {
  return ended ? `${endingWords[ending ?? ""] ?? "Over"}, after ${clock(Date.parse(ended) - began)}` : "Under way";
}

/** Hears the contact once it is wanted. */
function Hearing({ id, at, begin }: { id: string; at: (moment: number | null) => void; begin: () => void }) {
  const [hears, setHears] = useState(false);
  return hears ? (
    <HearIt id={id} at={at} />
  ) : (
    <Button
      onClick={() => {
        setHears(true);
        begin();
      }}>
      Hear it
    </Button>
  );
}

/** What happened to one contact, live or past: its way on the map, and every reason. */
export default function Trace() {
  const { id = "" } = useParams();
  const { session } = useSession();
  const navigate = useNavigate();
  const trace = useQuery({
    queryKey: keys.one("contacts", id),
    queryFn: () => data(api.GET("/api/v1/contacts/{id}", { params: { path: { id } } })),
    refetchInterval: (query) => (query.state.data?.contact.ended_at ? false : FRESH_MS),
  });
  const ended = trace.data?.contact.ended_at;
  usePageTitle(
    trace.data && `${trace.data.contact.caller}, ${moment(trace.data.contact.arrived_at, session.time_zone)}`,
  );
  const course = useQuery({
    queryKey: keys.one("courses", id),
    queryFn: () => data(api.GET("/api/v1/contacts/{id}/course", { params: { path: { id } } })),
    refetchInterval: (query) => (ended && query.state.data?.over ? false : FRESH_MS),
  });
  const [onMap, setOnMap] = useState(false);
  const [heardAt, setHeardAt] = useState<number | null>(null);
  if (trace.isError)
    return (
      <Failure
        error={course.error ?? trace.error}
        retry={() => void trace.refetch()}
        of={{ noun: "contact", list: "/learn/contacts" }}
      />
    );
  if (!trace.data) return <Loading what="the trace" />;
  const { contact, definition, flow_name, version } = trace.data;
  const lines = trace.data.lines.map(
    (line) => ({ ...line.body, at_ms: line.at_ms, kind: line.kind, agent_name: line.agent_name }) as LogLine,
  );
  const began = Date.parse(contact.arrived_at);
  const over = overWords(contact.ending, contact.ended_at, began);
  const ran = contact.flow ? <Link to={`/guide/flows/${contact.flow}`}>{flow_name}</Link> : flow_name;
  return (
    <section className={`${styles.main} ${own.whole}`} aria-label="Trace">
      <div className={styles.head}>
        <h1 className="nowrap">{contact.caller}</h1>
        <span className="dim nowrap">
          called {contact.number}, {moment(contact.arrived_at, session.time_zone)} · <b>{over}</b> · {ran}
          {version ? `, version ${version}` : contact.flow ? ", a draft on trial" : ""}
        </span>
        <span className="fill" />
        {ended && <Hearing id={id} at={setHeardAt} begin={() => setOnMap(false)} />}
        {definition && contact.flow && (
          <Button aria-pressed={onMap} onClick={() => setOnMap(!onMap)}>
            {onMap ? "What happened" : "On the map"}
          </Button>
        )}
        <Button onClick={() => void navigate("/learn/contacts")}>All contacts</Button>
      </div>
      {course.data && <p className={own.sentence}>{course.data.sentence}</p>}
      {course.data && <Lanes course={course.data} />}
      <div className={own.below}>
        {onMap && definition && contact.flow ? (
          <div className={own.map}>
            <PathMap contact={contact} definition={definition as Definition} lines={lines} />
          </div>
        ) : (
          <div className={own.happened} tabIndex={0} role="region" aria-label="What happened">
            <Transcript log={lines} began={began} now={heardAt} />
          </div>
        )}
        {course.data && <Around course={course.data} caller={contact.caller} />}
      </div>
    </section>
  );
}
