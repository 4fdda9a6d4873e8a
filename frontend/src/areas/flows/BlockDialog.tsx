import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Definition, type Stop, words } from "../../api/client";
import { lengths } from "../../api/lengths";
import { keys } from "../../api/keys";

interface Props {
  id: string;
  definition: Definition;
  chosen: string[];
  stops: Stop[];
  close: () => void;
  done: (definition: Definition, made: string) => void;
}

/** Makes a shared block of the chosen stops, which this flow then uses in their place. */
export function BlockDialog({ id, definition, chosen, stops, close, done }: Props) {
  const [name, setName] = useState("");
  const cache = useQueryClient();
  const extract = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/v1/flows/{id}/extract", {
          params: { path: { id } },
          body: { draft: definition, steps: chosen, name },
        }),
      ),
    onSuccess: (made) => {
      void cache.invalidateQueries({ queryKey: keys.of("flows", "list") });
      done(made.draft as Definition, made.made);
      close();
    },
  });
  const names = chosen.map((step) => stops.find((stop) => stop.id === step)?.name ?? step);
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xs">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          extract.mutate();
        }}>
        <DialogTitle>Make a shared block</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2, pt: "8px !important" }}>
          <span className="dim">
            Of {names.length === 1 ? "one stop" : `${names.length} stops`}: {names.join(", ")}. Values that they use go
            in, values that they set come out. Other flows can use the block too, once it is published.
          </span>
          <TextField
            autoFocus
            label="Name of the block"
            value={name}
            error={extract.isError}
            helperText={extract.isError ? words(extract.error) : undefined}
            slotProps={{ htmlInput: { maxLength: lengths.Extracting.name } }}
            onChange={(event) => setName(event.target.value)}
          />
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={!name.trim() || extract.isPending}>
            Make the block
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
