import { Button, TextField } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router-dom";
import { api, data, type Definition, type Inspection, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { flows } from "../../api/resources";
import { moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Failure, Loading } from "../../frame/states";
import shared from "../shared/shared.module.css";
import { Findings } from "./Findings";

const settingWords: Record<string, string> = { language: "the language", start: "the first stop", stay_limit_s: "the longest stay", failure_prompt: "what is said when something fails" };

/** What changes for callers, in words. */
function Differences({ inspection }: { inspection: Inspection }) {
  const { difference } = inspection;
  if (!difference) return <p className="dim">The first version: everything is new to callers.</p>;
  const stop = (id: string) => inspection.stops.find((s) => s.id === id);
  const name = (id: string) => { const s = stop(id); return s ? `${s.title}: ${s.sentence}` : id; };
  const rows = [
    ...difference.added.map((id) => `New stop · ${name(id)}`),
    ...difference.changed.map((id) => `Changed · ${name(id)}`),
    ...difference.removed.map((id) => `Gone · ${id}`),
    ...difference.settings.map((setting) => `Changed · ${settingWords[setting] ?? setting}`),
  ];
  if (rows.length === 0) return <p className="dim">Nothing differs from the version in force.</p>;
  return <ul style={{ margin: "6px 0", paddingLeft: 20 }}>{rows.map((row) => <li key={row}>{row}</li>)}</ul>;
}

type Published = Schemas["Published"];

/** From when callers meet it, as the exchange acknowledged it. */
function InEffect({ done }: { done: Published }) {
  const { version, in_effect } = done;
  return (
    <div role="status" style={{ padding: "0 16px 12px", color: "var(--fern-ink)", fontWeight: 620 }}>
      {in_effect !== null
        ? `Version ${version.number} is in effect on the exchange, revision ${in_effect}. Calls that arrive from now on meet it.`
        : `Version ${version.number} is published. The exchange does not answer now; it takes effect when it runs.`}
    </div>
  );
}

/** Every published version, newest first. */
function Versions({ id, inForce }: { id: string; inForce: number | undefined }) {
  const { session } = useSession();
  const versions = useQuery({ queryKey: keys.versions(id), queryFn: () => data(api.GET("/api/v1/flows/{id}/versions", { params: { path: { id } } })) });
  const cell = { padding: "5px 16px 5px 0" };
  return (
    <section style={{ padding: "0 16px 24px" }} aria-label="Versions">
      <h2>Versions</h2>
      {versions.data?.length === 0 && <p className="dim">None yet.</p>}
      <table style={{ borderCollapse: "collapse", fontSize: 13 }}>
        <tbody>
          {versions.data?.map((version) => (
            <tr key={version.id} style={{ borderTop: "1px solid var(--line)" }}>
              <td style={cell}><b>{version.number}</b></td>
              <td style={cell}>{moment(version.published_at, session.time_zone)}</td>
              <td style={cell}>{version.author_name}</td>
              <td style={cell}>{version.note}</td>
              <td>{version.number === inForce && <span className="chip good">in force</span>}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** The page on which a draft becomes what callers meet. */
export default function Publish() {
  const { id = "" } = useParams();
  const { may } = useSession();
  const navigate = useNavigate();
  const cache = useQueryClient();
  const [note, setNote] = useState("");
  const flow = useQuery({ queryKey: keys.one("flows", id), queryFn: () => flows.get(id), staleTime: 0 });
  const draft = flow.data?.draft as Definition | undefined;
  const inspection = useQuery({
    queryKey: [...keys.inspection(id, JSON.stringify(draft)), flow.data?.in_force?.number],
    queryFn: () => data(api.POST("/api/v1/flows/{id}/inspect", { params: { path: { id } }, body: { draft: draft as Definition } })),
    enabled: draft !== undefined,
    staleTime: 0,
  });
  const publish = useMutation({
    mutationFn: () => data(api.POST("/api/v1/flows/{id}/publish", { params: { path: { id } }, body: { revision: flow.data?.revision ?? 1, note } })),
    onSettled: () => { void cache.invalidateQueries({ queryKey: keys.all("flows") }); },
    onSuccess: () => { setNote(""); },
  });
  if (flow.isError) return <Failure error={flow.error} retry={() => void flow.refetch()} />;
  if (!flow.data || !inspection.data) return inspection.isError ? <Failure error={inspection.error} retry={() => void inspection.refetch()} /> : <Loading what="the draft" />;
  const same = inspection.data.changes === 0;
  return (
    <div style={{ maxWidth: 1080 }}>
      <div className={shared.head}>
        <h1>Publish {flow.data.name}</h1>
        <span className="dim">as version {(flow.data.in_force?.number ?? 0) + 1}, at once</span>
        <span className={shared.grow} />
        <Button onClick={() => void navigate(`/guide/flows/${id}`)}>Back to the map</Button>
      </div>
      <section style={{ padding: "0 16px 12px" }} aria-label="What changes for callers"><h2>What changes for callers</h2><Differences inspection={inspection.data} /></section>
      <section aria-label="Findings" style={{ background: "var(--sheet)", borderTop: "1px solid var(--line)", borderBottom: "1px solid var(--line)" }}>
        <h2 style={{ padding: "8px 16px 4px" }}>Findings</h2>
        <Findings findings={inspection.data.findings} mayChange={false} go={() => void navigate(`/guide/flows/${id}`)} fix={() => undefined} />
      </section>
      {may("change", "flows") && (
        <section style={{ padding: 16, display: "flex", gap: 12, alignItems: "flex-start" }}>
          <TextField label="Note" value={note} placeholder="What changes, and why" sx={{ maxWidth: 520 }} slotProps={{ htmlInput: { maxLength: 300 } }} onChange={(event) => { setNote(event.target.value); }} />
          <Button size="medium" variant="contained" disabled={publish.isPending || inspection.data.blocked || same} onClick={() => { publish.mutate(); }}>
            {publish.isPending ? "Publishing…" : "Publish now"}
          </Button>
          {inspection.data.blocked && <span style={{ color: "var(--plum-ink)", paddingTop: 6 }}>Publishing waits for the findings that block. <Link to={`/guide/flows/${id}`}>Mend them</Link></span>}
        </section>
      )}
      {publish.isError && <div role="alert" style={{ color: "var(--plum-ink)", padding: "0 16px 12px" }}>{words(publish.error)}</div>}
      {publish.data && <InEffect done={publish.data} />}
      <Versions id={id} inForce={flow.data.in_force?.number} />
    </div>
  );
}
