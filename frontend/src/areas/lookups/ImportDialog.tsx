import { Button, Dialog, DialogActions, DialogContent, DialogTitle, LinearProgress } from "@mui/material";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, importRows, previewRows, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { counted } from "../../frame/format";

type Preview = Schemas["Preview"];

function Effect({ preview }: { preview: Preview }) {
  return (
    <>
      <div>
        <b>{counted(preview.rows)}</b> good {preview.rows === 1 ? "row" : "rows"}: {counted(preview.new)} new,{" "}
        {counted(preview.changed)} changed, {counted(preview.same)} the same; {counted(preview.gone)} of the table’s
        rows would go.
      </div>
      {preview.bad_count > 0 && (
        <div role="alert" className="wrong">
          <b>
            {counted(preview.bad_count)} {preview.bad_count === 1 ? "line" : "lines"} cannot be taken, so nothing is.
            Mend the file and choose it again.
          </b>
          <ul className="problems">
            {preview.bad.map((line) => (
              <li key={line.line}>
                Line {line.line}
                {line.column && `, ${line.column}`}: {line.words}
              </li>
            ))}
            {preview.bad_count > preview.bad.length && (
              <li>and {counted(preview.bad_count - preview.bad.length)} more</li>
            )}
          </ul>
        </div>
      )}
    </>
  );
}

interface Props {
  id: string;
  revision: number;
  done: () => void;
  close: () => void;
}

/** Looking at a file, having it taken in, following how far that is, and stopping it. */
function useImport(id: string, revision: number) {
  const look = useMutation({ mutationFn: (chosen: File) => previewRows(id, chosen) });
  const begin = useMutation({ mutationFn: (chosen: File) => importRows(id, revision, chosen) });
  const name = begin.data?.name ?? "";
  const state = useQuery({
    queryKey: keys.of("lookup-imports", name),
    queryFn: () => data(api.GET("/api/v1/lookup-imports/{name}", { params: { path: { name } } })),
    enabled: name !== "",
    refetchInterval: ({ state: { data: seen } }) =>
      seen && ["done", "failed", "cancelled"].includes(seen.state) ? false : 400,
  });
  const cancel = useMutation({
    mutationFn: () => api.DELETE("/api/v1/lookup-imports/{name}", { params: { path: { name } } }),
  });
  const stage = name ? (state.data?.state ?? "waiting") : "choose";
  const running = stage === "waiting" || stage === "running";
  return {
    look,
    begin,
    cancel,
    stage,
    running,
    share: state.data?.share ?? 0,
    words: state.data?.words ?? "",
    problem: look.error ?? begin.error,
  };
}

function Outcome({ stage, share, said }: { stage: string; share: number; said: string }) {
  switch (stage) {
    case "waiting":
    case "running":
      return (
        <div role="status">
          <LinearProgress
            aria-label="Rows taken in"
            variant={stage === "waiting" ? "indeterminate" : "determinate"}
            value={share * 100}
          />
          Taking the rows in, {Math.round(share * 100)} %
        </div>
      );
    case "done":
      return <div role="status">All rows are taken in. The change log can take it back.</div>;
    case "failed":
    case "cancelled":
      return (
        <div role="alert" className="wrong">
          {said}
        </div>
      );
    default:
      return null;
  }
}

/** A CSV file in place of a table's rows: looked at first, then all or nothing. */
export function ImportDialog({ id, revision, done, close }: Props) {
  const [file, setFile] = useState<File | null>(null);
  const { look, begin, cancel, stage, running, share, words: said, problem } = useImport(id, revision);
  const ready = file !== null && look.data?.bad_count === 0 && !begin.isPending;
  const leave = () => {
    if (stage === "done") done();
    close();
  };
  return (
    <Dialog open onClose={running ? undefined : leave} fullWidth maxWidth="sm">
      <DialogTitle>Rows from a CSV file</DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 2 }}>
        <div className="along">
          <Button variant="outlined" component="label" disabled={running || look.isPending}>
            {look.isPending ? "Reading…" : "Choose a CSV file…"}
            <input
              type="file"
              hidden
              accept=".csv,text/csv"
              aria-label="Choose a CSV file"
              onChange={(event) => {
                const chosen = event.target.files?.[0];
                event.target.value = "";
                if (!chosen) return;
                setFile(chosen);
                begin.reset();
                look.mutate(chosen);
              }}
            />
          </Button>
          <span className="dim">{file?.name ?? "UTF-8; the first line names the columns."}</span>
        </div>
        {problem && (
          <div role="alert" className="wrong">
            {words(problem)}
          </div>
        )}
        {look.data && stage === "choose" && <Effect preview={look.data} />}
        <Outcome stage={stage} share={share} said={said} />
      </DialogContent>
      <DialogActions>
        {running ? (
          <Button color="error" disabled={cancel.isPending} onClick={() => cancel.mutate()}>
            Cancel the import
          </Button>
        ) : (
          <Button onClick={leave}>Close</Button>
        )}
        {stage === "choose" && (
          <Button
            variant="contained"
            disabled={!ready}
            onClick={() => {
              if (file) begin.mutate(file);
            }}>
            Put these in place of the rows
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}
