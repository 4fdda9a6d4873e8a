import { Button, TextField } from "@mui/material";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router-dom";
import { api, data, type Definition, type Inspection, type Schemas, words } from "../../api/client";
import { lengths } from "../../api/lengths";
import { keys } from "../../api/keys";
import { flows } from "../../api/resources";
import { moment, zonedIso } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Failure, Loading } from "../../frame/states";
import { useHeartbeat } from "../../frame/useLive";
import { usePageTitle } from "../../frame/title";
import { places } from "./places";
import shared from "../shared/shared.module.css";
import { Findings } from "./Findings";
import styles from "./publish.module.css";
import { Trials, useTrials } from "./Trials";
import { Changes, Versions } from "./Versions";
import { MomentBox } from "../shared/MomentBox";

type Published = Schemas["Published"];

/** From when callers meet it, as the exchange acknowledged it. */
function InEffect({ done }: { done: Published }) {
  const { version, at, change } = done;
  const heartbeat = useHeartbeat();
  const taken =
    heartbeat.state === "running" && heartbeat.revision !== null && heartbeat.revision >= change
      ? heartbeat.revision
      : null;
  const in_effect = done.in_effect ?? taken;
  if (at)
    return (
      <div role="status" className={styles.done}>
        Version {version.number} is published for then.
      </div>
    );
  return (
    <div role="status" className={styles.done}>
      {in_effect !== null
        ? `Version ${version.number} is in effect on the exchange, revision ${in_effect}. Calls that arrive from now on meet it.`
        : `Version ${version.number} is published. The exchange does not answer now; it takes effect when it runs.`}
    </div>
  );
}

/** What counts from a date on, and taking that back. */
function Scheduled({ flow }: { flow: Schemas["FlowDraft"] }) {
  const { session, may } = useSession();
  const cache = useQueryClient();
  const drop = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/v1/flows/{id}/unschedule", {
          params: { path: { id: flow.id } },
          body: { revision: flow.revision ?? 1 },
        }),
      ),
    onSuccess: () => void cache.invalidateQueries({ queryKey: keys.all("flows") }),
  });
  if (!flow.scheduled || !flow.scheduled_at) return null;
  return (
    <div role="status" className={styles.planned}>
      <span>
        Version {flow.scheduled.number} comes into force {moment(flow.scheduled_at, session.time_zone)}, by itself.
      </span>
      {may("change", "flows") && (
        <Button variant="outlined" disabled={drop.isPending} onClick={() => drop.mutate()}>
          Cancel publication
        </Button>
      )}
      {drop.isError && <span role="alert">{words(drop.error)}</span>}
    </div>
  );
}

interface ActProps {
  flow: Schemas["FlowDraft"];
  blocked: boolean;
  same: boolean;
  failing: number;
}

/** When it takes effect, a note, and (where trials fail) why it is published all the same. */
function Act({ flow, blocked, same, failing }: ActProps) {
  const { id } = flow;
  const { session } = useSession();
  const cache = useQueryClient();
  const [note, setNote] = useState("");
  const [at, setAt] = useState("");
  const [override, setOverride] = useState("");
  const publish = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/v1/flows/{id}/publish", {
          params: { path: { id } },
          body: { revision: flow.revision ?? 1, note, override, at: at ? zonedIso(at, session.time_zone) : null },
        }),
      ),
    onSettled: () => {
      void cache.invalidateQueries({ queryKey: keys.all("flows") });
    },
    onSuccess: () => {
      setNote("");
      setAt("");
      setOverride("");
    },
  });
  const waits = blocked || same || (failing > 0 && !override.trim());
  return (
    <>
      <section className={styles.act} aria-label="Publish it">
        <MomentBox label="In force from" value={at} helperText="Empty: at once." change={setAt} />
        <TextField
          label="Note"
          value={note}
          placeholder="What changes, and why"
          sx={{ maxWidth: 420 }}
          slotProps={{ htmlInput: { maxLength: lengths.Publishing.note } }}
          onChange={(event) => setNote(event.target.value)}
        />
        {failing > 0 && (
          <TextField
            label="Why it is published all the same"
            value={override}
            sx={{ maxWidth: 420 }}
            slotProps={{ htmlInput: { maxLength: lengths.Publishing.note } }}
            onChange={(event) => setOverride(event.target.value)}
          />
        )}
        <Button
          size="medium"
          variant="contained"
          disabled={publish.isPending || waits}
          onClick={() => publish.mutate()}>
          {publish.isPending ? "Publishing…" : at ? "Publish for then" : "Publish now"}
        </Button>
        {blocked && (
          <span className={styles.waits}>
            Publishing waits for the findings that block.{" "}
            <Link to=".." relative="path">
              Mend them
            </Link>
          </span>
        )}
        {!blocked && failing > 0 && (
          <span className={styles.waits}>
            Publishing waits for {failing === 1 ? "the trial that goes" : `${failing} trials that go`} otherwise, or a
            reason.
          </span>
        )}
      </section>
      {publish.isError && (
        <div role="alert" className={styles.refused}>
          {words(publish.error)}
        </div>
      )}
      {publish.data && <InEffect done={publish.data} />}
    </>
  );
}

/** Whether it can go out, in a sentence. */
function Verdict({ inspection, failing, first }: { inspection: Inspection; failing: number; first: boolean }) {
  const { blocked, changes, findings } = inspection;
  const blocks = findings.filter((finding) => finding.severity === "blocks").length;
  const few = (n: number, one: string, many: string) => `${n} ${n === 1 ? one : many}`;
  const said = blocked
    ? `Not yet: ${few(blocks, "finding blocks", "findings block")} it.`
    : failing > 0
      ? `${few(failing, "trial goes", "trials go")} otherwise than it was kept.`
      : first
        ? "It can go out: no caller can be stranded."
        : changes === 0
          ? "Nothing to publish: callers meet just this already."
          : `It can go out: ${few(changes ?? 0, "change", "changes")}, and no caller can be stranded.`;
  return (
    <p className={styles.verdict} data-waits={blocked || failing > 0 || undefined} role="status">
      {said}
    </p>
  );
}

/** The page on which a draft becomes what callers meet. */
export default function Publish() {
  const { id = "" } = useParams();
  const { may } = useSession();
  const navigate = useNavigate();
  const flow = useQuery({ queryKey: keys.one("flows", id), queryFn: () => flows.get(id), staleTime: 0 });
  const draft = flow.data?.draft as Definition | undefined;
  const inspection = useQuery({
    queryKey: keys.of(...keys.inspection(id, JSON.stringify(draft)), flow.data?.in_force?.number),
    queryFn: () =>
      data(api.POST("/api/v1/flows/{id}/inspect", { params: { path: { id } }, body: { draft: draft as Definition } })),
    enabled: draft !== undefined,
    // The page stays while the version just published is looked at: it tells whether it is in effect.
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  const trials = useTrials(id, draft);
  usePageTitle(flow.data && `Publish ${flow.data.name}`);
  if (flow.isError)
    return <Failure error={flow.error} retry={() => void flow.refetch()} of={{ noun: "flow", list: "/guide/flows" }} />;
  if (!flow.data || !draft || !inspection.data)
    return inspection.isError ? (
      <Failure error={inspection.error} retry={() => void inspection.refetch()} />
    ) : (
      <Loading what="the draft" />
    );
  const force = flow.data.in_force?.number;
  const home = places[draft.purpose].base;
  const failing = trials.data?.filter((trial) => !trial.passed).length ?? 0;
  return (
    <div className={styles.publish}>
      <div className={shared.head}>
        <h1>Publish {flow.data.name}</h1>
        <span className="dim">{force ? `version ${force} is in force` : "nothing is in force yet"}</span>
        <span className={shared.grow} />
        <Button onClick={() => void navigate(`${home}/${id}`)}>Back to the map</Button>
      </div>
      <Scheduled flow={flow.data} />
      <Verdict inspection={inspection.data} failing={failing} first={force === undefined} />
      <section className={styles.said} aria-label="What changes for callers">
        <h2>What changes for callers</h2>
        {force ? (
          <Changes key={flow.data.revision} id={id} before={force} />
        ) : (
          <p className="dim">The first version: everything is new to callers.</p>
        )}
      </section>
      {inspection.data.findings.length > 0 && (
        <section aria-label="Findings" className={styles.block}>
          <h2>Findings</h2>
          <Findings
            findings={inspection.data.findings}
            mayChange={false}
            go={() => void navigate(`${home}/${id}`)}
            fix={() => undefined}
          />
        </section>
      )}
      <section aria-label="Trials" className={styles.block}>
        <h2>Trials</h2>
        <Trials id={id} definition={draft} mayChange={may("change", "flows")} />
      </section>
      {may("change", "flows") && (
        <Act
          flow={flow.data}
          blocked={inspection.data.blocked}
          same={inspection.data.changes === 0}
          failing={failing}
        />
      )}
      <Versions flow={flow.data} />
    </div>
  );
}
