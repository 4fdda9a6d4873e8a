import { Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router-dom";
import { api, data, type Definition, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { clock, moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Failure, Loading } from "../../frame/states";
import { endingWords } from "../flows/endings";
import styles from "../flows/flows.module.css";
import { Transcript } from "../flows/phone/Transcript";
import type { LogLine } from "../flows/phone/useTelephone";
import { TrailMap, type Walk } from "../flows/trail/TrailMap";
import shared from "../shared/shared.module.css";

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
    queryFn: () => data(api.POST("/api/v1/flows/{id}/inspect", { params: { path: { id: contact.flow } }, body: { draft: definition } })),
    staleTime: Infinity, retry: false,
  });
  if (drawn.isError) return <p className="dim" style={{ padding: 16 }}>The flow is gone, and its map with it. What happened stands at the right.</p>;
  if (!drawn.data) return <Loading what="the map" />;
  const last = lines.filter((line) => line.kind === "contact.moved" && line.to).pop();
  const walk = walkOf(lines, Date.parse(contact.arrived_at), contact.ended_at ? null : (last?.to ?? null));
  return (
    <TrailMap inspection={{ ...drawn.data, findings: [] }} start={definition.start} begins={{ head: "Arrives on", words: "this number" }} selected={selected} select={setSelected} walk={walk} here={{}} counts={{}} covered={false}
      keys={() => undefined} />
  );
}

/** What happened to one contact, live or past: its way on the map, and every reason. */
export default function Trace() {
  const { id = "" } = useParams();
  const { session } = useSession();
  const navigate = useNavigate();
  const trace = useQuery({
    queryKey: keys.one("contacts", id), queryFn: () => data(api.GET("/api/v1/contacts/{id}", { params: { path: { id } } })),
    refetchInterval: (query) => (query.state.data?.contact.ended_at ? false : FRESH_MS),
  });
  if (trace.isError) return <Failure error={trace.error} retry={() => void trace.refetch()} />;
  if (!trace.data) return <Loading what="the trace" />;
  const { contact, definition, flow_name, version } = trace.data;
  const lines = trace.data.lines.map((line) => ({ ...line.body, at_ms: line.at_ms, kind: line.kind, agent_name: line.agent_name }) as LogLine);
  const began = Date.parse(contact.arrived_at);
  const over = contact.ended_at ? `${endingWords[contact.ending ?? ""] ?? "Over"}, after ${clock(Date.parse(contact.ended_at) - began)}` : "Under way";
  return (
    <div className={styles.editor}>
      <section className={styles.main} aria-label="Trace">
        <div className={styles.head}>
          <h1 className="nowrap">{contact.caller}</h1>
          <span className="dim nowrap">called {contact.number}, {moment(contact.arrived_at, session.time_zone)} · <b>{over}</b></span>
          <span style={{ flex: 1 }} />
          <Button onClick={() => void navigate("/learn/contacts")}>All contacts</Button>
        </div>
        {definition && contact.flow ? <PathMap contact={contact} definition={definition as Definition} lines={lines} /> : <p className="dim" style={{ padding: 16 }}>No flow of its own answered: a diversion, or a callback.</p>}
      </section>
      <aside className={styles.aside}>
        <div className={shared.sheet}>
          <div className={shared.sheetHead}><h1><span style={{ color: "var(--clay-ink)", fontWeight: 500, fontSize: 13 }}>Trace</span> What happened</h1></div>
          <div style={{ padding: "8px 16px 0" }} className="dim">
            {contact.flow ? <Link to={`/guide/flows/${contact.flow}`}>{flow_name}</Link> : flow_name}{version ? `, version ${version}` : contact.flow ? ", a draft on trial" : ""}
          </div>
          <Transcript log={lines} began={began} />
        </div>
      </aside>
    </div>
  );
}
