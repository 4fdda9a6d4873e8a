import { Button, Dialog, DialogActions, DialogContent, DialogTitle, MenuItem, TextField } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { api, data, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Failure, Loading } from "../../frame/states";
import styles from "./publish.module.css";
import { TrailMap, type Walk } from "./trail/TrailMap";
import type { Mark } from "./trail/TrailStop";

type Flow = Schemas["FlowDraft"];

const kinds = { added: "New stop", removed: "Gone", changed: "Changed", settings: "Changed" } as const;

type Compared = Schemas["Compared"];

/** Both maps, one under the other; only what changes is lit. */
function ChangedMaps({ compared }: { compared: Compared }) {
  const [selected, setSelected] = useState<string | null>(null);
  const changed = compared.changes.filter((change) => change.step);
  const marks = new Map(changed.map((change) => [change.step, change.kind as Mark]));
  const lit: Walk = { steps: new Map(changed.map((change) => [change.step, ""])), arms: new Set(), current: null };
  const side = (name: "before" | "after", title: string) => {
    const { inspection, start } = compared.maps[name];
    return (
      <figure className={styles.side} aria-label={title}>
        <figcaption>{title}</figcaption>
        <TrailMap
          inspection={{ ...inspection, findings: [] }}
          start={start}
          begins={{ head: "Begins", words: name === "before" ? "as it was" : "as it is then" }}
          selected={selected}
          select={setSelected}
          walk={lit}
          here={{}}
          counts={{}}
          keys={() => undefined}
          marks={marks}
          covered
        />
      </figure>
    );
  };
  return (
    <section aria-label="On the map" className={styles.sides}>
      {side("before", "Before")}
      {side("after", "After")}
    </section>
  );
}

/** What differs between two versions, or a version and the draft: in words, and on the map if wanted. */
export function Changes({ id, before, after }: { id: string; before: number; after?: number }) {
  const [map, setMap] = useState(false);
  const query = { before, ...(after !== undefined && { after }) };
  const list = useQuery({
    queryKey: keys.of("flows", "compare", id, query),
    staleTime: 0,
    queryFn: () => data(api.GET("/api/v1/flows/{id}/compare", { params: { path: { id }, query } })),
  });
  if (list.isPending) return <Loading what="what changes" />;
  if (list.isError) return <Failure error={list.error} retry={() => void list.refetch()} />;
  if (list.data.changes.length === 0) return <p className="dim">Nothing differs.</p>;
  return (
    <>
      <ul className={styles.differences}>
        {list.data.changes.map((change) => (
          <li key={`${change.kind} ${change.step} ${change.words}`}>
            {kinds[change.kind]} · {change.words}
            {change.details.map((detail) => (
              <div key={detail} className="dim fine">
                {detail}
              </div>
            ))}
          </li>
        ))}
      </ul>
      <div>
        <Button aria-expanded={map} onClick={() => setMap(!map)}>
          {map ? "Hide the maps" : "Show it on the map"}
        </Button>
      </div>
      {map && <ChangedMaps compared={list.data} />}
    </>
  );
}

function CompareDialog({
  id,
  versions,
  first,
  close,
}: {
  id: string;
  versions: number[];
  first: number;
  close: () => void;
}) {
  const [before, setBefore] = useState(first);
  const [after, setAfter] = useState(0);
  return (
    <Dialog open onClose={close} fullWidth maxWidth="lg">
      <DialogTitle>Compare versions</DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 2, pt: "12px !important" }}>
        <div className="beside">
          <TextField
            select
            label="From"
            value={before}
            sx={{ maxWidth: 180 }}
            onChange={(event) => setBefore(Number(event.target.value))}>
            {versions.map((number) => (
              <MenuItem key={number} value={number}>
                version {number}
              </MenuItem>
            ))}
          </TextField>
          <TextField
            select
            label="To"
            value={after}
            sx={{ maxWidth: 180 }}
            onChange={(event) => setAfter(Number(event.target.value))}>
            <MenuItem value={0}>the draft</MenuItem>
            {versions.map((number) => (
              <MenuItem key={number} value={number}>
                version {number}
              </MenuItem>
            ))}
          </TextField>
        </div>
        <Changes id={id} before={before} after={after || undefined} />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Close</Button>
      </DialogActions>
    </Dialog>
  );
}

/** Every published version, newest first: compared, and brought back as the draft. */
export function Versions({ flow }: { flow: Flow }) {
  const { id } = flow;
  const { session, may } = useSession();
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const [comparing, setComparing] = useState<number | null>(null);
  const versions = useQuery({
    queryKey: keys.versions(id),
    queryFn: () => data(api.GET("/api/v1/flows/{id}/versions", { params: { path: { id } } })),
  });
  const back = useMutation({
    mutationFn: (number: number) =>
      data(
        api.POST("/api/v1/flows/{id}/bring-back", {
          params: { path: { id } },
          body: { revision: flow.revision ?? 1, number },
        }),
      ),
    onSuccess: (_, number) => {
      void cache.invalidateQueries({ queryKey: keys.all("flows") });
      enqueueSnackbar(`Version ${number} is the draft now; the change log keeps the draft before.`);
    },
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
    },
  });
  const cell = { padding: "4px 16px 4px 0" };
  return (
    <section className={styles.versions} aria-label="Versions">
      <h2>Versions</h2>
      {versions.data?.length === 0 && <p className="dim">None yet.</p>}
      <table className="table">
        <tbody>
          {versions.data?.map((version) => (
            <tr key={version.id} className="ruled">
              <td style={cell}>
                <b>{version.number}</b>
              </td>
              <td style={cell}>{moment(version.published_at, session.time_zone)}</td>
              <td style={cell}>{version.author_name}</td>
              <td style={cell}>
                {version.note}
                {version.overridden && <span className="dim"> Trials were let be: {version.overridden}</span>}
              </td>
              <td style={cell}>
                {version.number === flow.in_force?.number && <span className="chip good">in force</span>}
                {version.number === flow.scheduled?.number && (
                  <span className="chip warns">from {moment(flow.scheduled_at ?? "", session.time_zone)}</span>
                )}
              </td>
              <td>
                <Button onClick={() => setComparing(version.number)}>Compare…</Button>
                {may("change", "flows") && (
                  <Button disabled={back.isPending} onClick={() => back.mutate(version.number)}>
                    Bring back
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
      {comparing !== null && (
        <CompareDialog
          id={id}
          versions={versions.data?.map((version) => version.number) ?? []}
          first={comparing}
          close={() => setComparing(null)}
        />
      )}
    </section>
  );
}
