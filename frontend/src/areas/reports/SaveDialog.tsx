import {
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  MenuItem,
  TextField,
  ToggleButton,
  ToggleButtonGroup,
} from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { api, data, type Schemas, words } from "../../api/client";
import { lengths } from "../../api/lengths";
import { keys } from "../../api/keys";
import { useSession } from "../../frame/session";
import styles from "./reports.module.css";

export type Saved = Schemas["SavedReport"];
/** What is kept of a report that is not saved yet. */
export type Draft = Pick<Saved, "name" | "report" | "asked" | "shared" | "at_min" | "weekdays" | "to" | "file"> & {
  id?: number;
};

const days = ["Mon", "Tue", "Wed", "Thu", "Fri", "Sat", "Sun"];
const minutes = Array.from({ length: 48 }, (_, half) => half * 30);
export const timeOf = (minute: number) =>
  `${String(Math.floor(minute / 60)).padStart(2, "0")}:${String(minute % 60).padStart(2, "0")}`;

function When({ draft, set }: { draft: Draft; set: (change: Partial<Draft>) => void }) {
  return (
    <>
      <div className={styles.pair}>
        <TextField
          select
          size="small"
          label="A file is made"
          value={draft.at_min ?? "never"}
          sx={{ width: 170 }}
          onChange={(event) => set({ at_min: event.target.value === "never" ? null : Number(event.target.value) })}>
          <MenuItem value="never">never by itself</MenuItem>
          {minutes.map((minute) => (
            <MenuItem key={minute} value={minute}>
              at {timeOf(minute)}
            </MenuItem>
          ))}
        </TextField>
        <TextField
          select
          size="small"
          label="As"
          value={draft.file ?? "xlsx"}
          sx={{ width: 100 }}
          onChange={(event) => set({ file: event.target.value as Draft["file"] })}>
          <MenuItem value="xlsx">XLSX</MenuItem>
          <MenuItem value="csv">CSV</MenuItem>
          <MenuItem value="pdf">PDF</MenuItem>
        </TextField>
      </div>
      {draft.at_min !== null && draft.at_min !== undefined && (
        <>
          <ToggleButtonGroup
            size="small"
            value={draft.weekdays ?? []}
            aria-label="Only on these days"
            onChange={(_, value: number[]) => set({ weekdays: value.toSorted() })}>
            {days.map((name, day) => (
              <ToggleButton key={name} value={day}>
                {name}
              </ToggleButton>
            ))}
          </ToggleButtonGroup>
          <TextField
            size="small"
            label="Sent to"
            placeholder="addresses, by commas"
            value={(draft.to ?? []).join(", ")}
            onChange={(event) =>
              set({
                to: event.target.value
                  .split(",")
                  .map((one) => one.trimStart())
                  .filter((one, at, all) => one || at === all.length - 1),
              })
            }
            helperText="Nothing is sent where this is empty: the file is listed under Saved."
          />
        </>
      )}
    </>
  );
}

/** What a report is kept as, and when files are made of it. */
export function SaveDialog({ begun, close }: { begun: Draft; close: () => void }) {
  const { session } = useSession();
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const [draft, setDraft] = useState(begun);
  const set = (change: Partial<Draft>) => {
    setDraft({ ...draft, ...change });
  };
  const save = useMutation({
    mutationFn: () => {
      const { id, ...rest } = draft;
      const body = { ...rest, to: (draft.to ?? []).map((one) => one.trim()).filter(Boolean) } as Saved;
      return id === undefined
        ? data(api.POST("/api/v1/reports/saved", { body }))
        : data(api.PUT("/api/v1/reports/saved/{id}", { params: { path: { id } }, body }));
    },
    onSuccess: () => {
      void cache.invalidateQueries({ queryKey: keys.all("saved-reports") });
      enqueueSnackbar("Saved.");
      close();
    },
  });
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xs">
      <DialogTitle>{begun.id === undefined ? "Save this report" : begun.name}</DialogTitle>
      <DialogContent>
        <div className={`${styles.days} ${styles.form}`}>
          <TextField
            size="small"
            label="Name"
            required
            autoFocus
            value={draft.name}
            slotProps={{ htmlInput: { maxLength: lengths.SavedReport.name } }}
            onChange={(event) => set({ name: event.target.value })}
          />
          {session.role !== "read_only" && (
            <FormControlLabel
              control={
                <Checkbox checked={draft.shared ?? false} onChange={(event) => set({ shared: event.target.checked })} />
              }
              label="Shared with everybody who may see reports"
            />
          )}
          <When draft={draft} set={set} />
          {save.isError && (
            <div role="alert" className="wrong">
              {words(save.error)}
            </div>
          )}
        </div>
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button variant="contained" disabled={!draft.name.trim() || save.isPending} onClick={() => save.mutate()}>
          Save
        </Button>
      </DialogActions>
    </Dialog>
  );
}
