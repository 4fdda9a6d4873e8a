import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { useNavigate } from "react-router-dom";
import { importFlow, previewFlow, words } from "../../api/client";
import { keys } from "../../api/keys";
import styles from "./flows.module.css";

const states = {
  new: "is made new",
  same: "is here already and is used",
  differs: "is here with other content; the one here is used",
  missing: "is not here, and is left out",
} as const;

/** A flow's file: looked at first, then the flow and what it needs are made, all or nothing. */
export function FlowFileDialog({ close }: { close: () => void }) {
  const [file, setFile] = useState<File | null>(null);
  const navigate = useNavigate();
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const look = useMutation({ mutationFn: (chosen: File) => previewFlow(chosen) });
  const take = useMutation({
    mutationFn: (chosen: File) => importFlow(chosen),
    onSuccess: (flow) => {
      void cache.invalidateQueries({ queryKey: keys.all("flows") });
      enqueueSnackbar(`${flow.name} is here as a draft.`);
      void navigate(`/guide/flows/${flow.id}`);
    },
  });
  const problem = look.error ?? take.error;
  return (
    <Dialog open onClose={close} fullWidth maxWidth="sm">
      <DialogTitle>A flow from a file</DialogTitle>
      <DialogContent>
        <p className={`dim ${styles.lead}`}>
          The JSON file of a flow, as its sheet gives it out. You see what it brings before anything is kept.
        </p>
        <Button variant="outlined" component="label" disabled={look.isPending || take.isPending}>
          {look.isPending ? "Reading…" : "Choose a file…"}
          <input
            type="file"
            hidden
            accept=".json,application/json"
            aria-label="Choose a flow's file"
            onChange={(event) => {
              const chosen = event.target.files?.[0];
              event.target.value = "";
              if (!chosen) return;
              setFile(chosen);
              look.mutate(chosen);
            }}
          />
        </Button>
        {problem && (
          <div role="alert" className={styles.refused}>
            {words(problem)}
          </div>
        )}
        {look.data && (
          <>
            <p>
              <b>{look.data.name}</b>, {look.data.stops} {look.data.stops === 1 ? "stop" : "stops"}. It comes in as a
              draft; nothing is published.
            </p>
            <ul className="listed">
              {look.data.things.map((thing) => (
                <li key={`${thing.kind} ${thing.name}`}>
                  {thing.kind} <b>{thing.name}</b> <span className="dim">{states[thing.state]}</span>
                </li>
              ))}
            </ul>
          </>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!file || !look.data || take.isPending}
          onClick={() => {
            if (file) take.mutate(file);
          }}>
          Take it in
        </Button>
      </DialogActions>
    </Dialog>
  );
}
