import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { type FormEvent, useState } from "react";
import { api, data, Problem, words } from "../../api/client";

const fields = [
  { name: "current", label: "Present password", hint: "current-password" },
  { name: "password", label: "New password", hint: "new-password" },
  { name: "again", label: "New password again", hint: "new-password" },
] as const;

type Typed = Record<(typeof fields)[number]["name"], string>;

const nothing: Typed = { current: "", password: "", again: "" };

/** Everybody changes their own password here; their other browsers are signed out by it. */
export function PasswordDialog({ open, close }: { open: boolean; close: () => void }) {
  const [typed, setTyped] = useState(nothing);
  const { enqueueSnackbar } = useSnackbar();
  const done = () => {
    setTyped(nothing);
    change.reset();
    close();
  };
  const change = useMutation({
    mutationFn: () =>
      data(api.POST("/api/v1/session/password", { body: { current: typed.current, password: typed.password } })),
    onSuccess: () => {
      done();
      enqueueSnackbar("Your password is changed. Other browsers are signed out.");
    },
  });
  const differs = typed.again !== "" && typed.again !== typed.password;
  const errorOf = (name: string) =>
    (change.error instanceof Problem ? change.error.fields[name]?.[0] : undefined) ??
    (name === "again" && differs ? "The two differ." : undefined);
  const told = change.error !== null && !fields.some((field) => errorOf(field.name));
  const submit = (event: FormEvent) => {
    event.preventDefault();
    change.mutate();
  };
  return (
    <Dialog open={open} onClose={done} maxWidth="xs" fullWidth>
      <form onSubmit={submit}>
        <DialogTitle>Change your password</DialogTitle>
        <DialogContent>
          {fields.map((field, at) => (
            <TextField
              key={field.name}
              type="password"
              margin="dense"
              fullWidth
              size="small"
              autoFocus={at === 0}
              label={field.label}
              autoComplete={field.hint}
              value={typed[field.name]}
              error={Boolean(errorOf(field.name))}
              helperText={
                errorOf(field.name) ??
                (field.name === "password" ? "10 characters at least, and not only figures." : " ")
              }
              onChange={(event) => setTyped({ ...typed, [field.name]: event.target.value })}
            />
          ))}
          {told && <div role="alert">{words(change.error)}</div>}
        </DialogContent>
        <DialogActions>
          <Button onClick={done}>Cancel</Button>
          <Button
            type="submit"
            variant="contained"
            disabled={change.isPending || differs || Object.values(typed).includes("")}>
            {change.isPending ? "Changing…" : "Change password"}
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
