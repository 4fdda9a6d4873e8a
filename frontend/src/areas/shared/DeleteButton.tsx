import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { words } from "../../api/client";
import { keys } from "../../api/keys";
import { type ConfigItem, type Resource, undoLast } from "../../api/resources";
import { Loading } from "../../frame/states";

/** Deletes after saying what uses the thing; refused while something does; can be undone. */
export function DeleteButton<T extends ConfigItem>({
  resource,
  id,
  name,
  gone,
}: {
  resource: Resource<T>;
  id: string;
  name: string;
  gone: () => void;
}) {
  const [asking, setAsking] = useState(false);
  const cache = useQueryClient();
  const { enqueueSnackbar, closeSnackbar } = useSnackbar();
  const uses = useQuery({
    queryKey: keys.uses(resource.what, id),
    queryFn: () => resource.uses(id),
    enabled: asking,
    staleTime: 0,
  });
  const refresh = () => void cache.invalidateQueries({ queryKey: keys.all(resource.what) });
  const undo = useMutation({
    mutationFn: () => undoLast(id),
    onSuccess: () => {
      refresh();
      enqueueSnackbar(`${name} is back.`);
    },
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
    },
  });
  const remove = useMutation({
    mutationFn: () => resource.remove(id),
    onSuccess: () => {
      setAsking(false);
      refresh();
      enqueueSnackbar(`${name} is deleted.`, {
        action: (key) => (
          <Button
            color="inherit"
            onClick={() => {
              closeSnackbar(key);
              undo.mutate();
            }}>
            Undo
          </Button>
        ),
      });
      gone();
    },
  });
  const used = uses.data ?? [];
  return (
    <>
      <Button color="error" onClick={() => setAsking(true)}>
        Delete…
      </Button>
      <Dialog open={asking} onClose={() => setAsking(false)} maxWidth="sm" fullWidth>
        <DialogTitle>{used.length ? `${name} is in use` : `Delete ${name}?`}</DialogTitle>
        <DialogContent>
          {uses.isPending && <Loading what="what uses it" />}
          {used.length > 0 && (
            <>
              It cannot be deleted while these use it:
              <ul>
                {used.map((use) => (
                  <li key={use.id}>
                    {use.name} <span className="dim">({use.how})</span>
                  </li>
                ))}
              </ul>
            </>
          )}
          {uses.data && used.length === 0 && "Nothing uses it. It can be brought back right after."}
          {remove.isError && (
            <p role="alert" className="wrong">
              {words(remove.error)}
            </p>
          )}
        </DialogContent>
        <DialogActions>
          <Button onClick={() => setAsking(false)}>Cancel</Button>
          {uses.data && used.length === 0 && (
            <Button color="error" variant="contained" disabled={remove.isPending} onClick={() => remove.mutate()}>
              Delete
            </Button>
          )}
        </DialogActions>
      </Dialog>
    </>
  );
}
