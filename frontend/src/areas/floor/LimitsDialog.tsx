import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useMutation, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { Failure, Loading } from "../../frame/states";
import { NumberBox } from "../shared/NumberBox";

type Limits = Schemas["Limits"];
const fields = [
  ["talk_limit_s", "Long talk over, in seconds", 86_400],
  ["wrap_limit_s", "Long wrap-up over, in seconds", 86_400],
  ["away_limit_s", "Away too long over, in seconds", 86_400],
  ["missed_limit", "Missed, of the last 5 rings", 5],
] as const;

/** From when on the floor points somebody of a team out: the team's supervisors say. */
export function LimitsDialog({ team, name, close }: { team: string; name: string; close: () => void }) {
  const path = { team };
  const limits = useQuery({
    queryKey: keys.one("limits", team),
    queryFn: () => data(api.GET("/api/v1/floor/teams/{team}/limits", { params: { path } })),
    gcTime: 0,
  });
  const [changed, setChanged] = useState<Partial<Limits>>({});
  const save = useMutation({
    mutationFn: (now: Limits) =>
      data(
        api.PATCH("/api/v1/floor/teams/{team}/limits", {
          params: { path },
          body: { revision: now.revision, ...changed },
        }),
      ),
    onSuccess: close,
  });
  const now = limits.data;
  return (
    <Dialog open onClose={close} maxWidth="xs" fullWidth>
      <DialogTitle>Limits of {name}</DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 2 }}>
        {limits.isError ? (
          <Failure error={limits.error} />
        ) : !now ? (
          <Loading what="the limits" />
        ) : (
          fields.map(([field, label, most]) => (
            <NumberBox
              key={field}
              label={label}
              value={changed[field] ?? now[field] ?? 0}
              least={0}
              most={most}
              help="0: never pointed out"
              change={(value) => setChanged({ ...changed, [field]: value ?? 0 })}
            />
          ))
        )}
        {save.isError && <div role="alert">{words(save.error)}</div>}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!now || save.isPending || Object.keys(changed).length === 0}
          onClick={() => {
            if (now) save.mutate(now);
          }}>
          Save
        </Button>
      </DialogActions>
    </Dialog>
  );
}
