import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { importAgents, previewAgents, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";

function Effect({ found }: { found: Schemas["File"] }) {
  return (
    <>
      <div>
        <b>{found.new}</b> new, <b>{found.changed}</b> changed, {found.same} the same. Who is not in the file stays as
        they are.
      </div>
      {found.bad_count > 0 && (
        <div role="alert" className="wrong">
          <b>
            {found.bad_count} {found.bad_count === 1 ? "line" : "lines"} cannot be taken, so none is. Mend the file and
            choose it again.
          </b>
          <ul className="problems">
            {found.bad.map((line, i) => (
              <li key={i}>
                Line {line.line}
                {line.column && `, ${line.column}`}: {line.words}
              </li>
            ))}
          </ul>
        </div>
      )}
    </>
  );
}

/** Agents from a CSV file: looked at first, then all or none. */
export function AgentsFile() {
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const [open, setOpen] = useState(false);
  const [file, setFile] = useState<File | null>(null);
  const look = useMutation({ mutationFn: previewAgents });
  const take = useMutation({
    mutationFn: importAgents,
    onSuccess: (done) => {
      void cache.invalidateQueries({ queryKey: keys.all("agents") });
      enqueueSnackbar(`${done.new} agents are new, ${done.changed} changed.`);
      setOpen(false);
    },
  });
  const choose = (chosen: File) => {
    setFile(chosen);
    take.reset();
    look.mutate(chosen);
  };
  const begin = () => {
    setFile(null);
    look.reset();
    take.reset();
    setOpen(true);
  };
  const ready = file !== null && look.data?.bad_count === 0 && look.data.new + look.data.changed > 0;
  const problem = look.error ?? take.error;
  return (
    <>
      <Button onClick={begin}>From a file…</Button>
      <Dialog open={open} onClose={() => setOpen(false)} fullWidth maxWidth="sm">
        <DialogTitle>Agents from a CSV file</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2 }}>
          <div className="along">
            <Button variant="outlined" component="label" disabled={look.isPending || take.isPending}>
              {look.isPending ? "Reading…" : "Choose a CSV file…"}
              <input
                type="file"
                hidden
                accept=".csv,text/csv"
                aria-label="Choose a CSV file"
                onChange={(event) => {
                  const chosen = event.target.files?.[0];
                  event.target.value = "";
                  if (chosen) choose(chosen);
                }}
              />
            </Button>
            <span className="dim">
              {file?.name ?? "The list’s own CSV has the columns; the extension says who is who."}
            </span>
          </div>
          {problem && (
            <div role="alert" className="wrong">
              {words(problem)}
            </div>
          )}
          {look.data && <Effect found={look.data} />}
        </DialogContent>
        <DialogActions>
          <Button onClick={() => setOpen(false)}>Close</Button>
          <Button
            variant="contained"
            disabled={!ready || take.isPending}
            onClick={() => {
              if (file) take.mutate(file);
            }}>
            {take.isPending ? "Taking in…" : "Take them in"}
          </Button>
        </DialogActions>
      </Dialog>
    </>
  );
}
