import { Button, Dialog, DialogActions, DialogContent, DialogTitle, MenuItem, TextField } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { api, data, type Schemas, words } from "../../api/client";
import { lengths } from "../../api/lengths";
import { keys } from "../../api/keys";
import { hours as resource } from "../../api/resources";
import { byName, zonedIso } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Empty, Failure, Glyph, Loading } from "../../frame/states";
import { MomentBox } from "../shared/MomentBox";

type ByHand = Schemas["ByHand"];

/** Closes hours by hand, and opens them again: whoever runs the floor may, as with diversions. */
export function ClosuresDialog({ close }: { close: () => void }) {
  const { session } = useSession();
  const client = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const [chosen, setChosen] = useState("");
  const [reason, setReason] = useState("");
  const [until, setUntil] = useState("");
  const all = useQuery({
    queryKey: keys.list("closures", {}),
    queryFn: () => data(api.GET("/api/v1/floor/closures")),
    gcTime: 0,
  });
  const hours = all.data?.find((one) => one.id === chosen) ?? all.data?.[0];
  const change = useMutation({
    mutationFn: (one: ByHand) =>
      data(
        api.POST("/api/v1/floor/closures/{hours}", {
          params: { path: { hours: one.id } },
          body: {
            revision: one.revision,
            closed: !one.closed,
            reason,
            until: until ? zonedIso(until, session.time_zone) : null,
          },
        }),
      ),
    onSuccess: (now) => {
      void client.invalidateQueries({ queryKey: keys.all("hours") });
      enqueueSnackbar(now.closed ? `${now.name} are closed.` : `${now.name}: the closure is lifted. ${now.now}`);
      close();
    },
    onError: () => void all.refetch(),
  });
  const uses = useQuery({
    queryKey: keys.uses("hours", hours?.id ?? ""),
    queryFn: () => resource.uses(hours?.id ?? ""),
    enabled: hours !== undefined,
  });
  const askers = [...new Set(uses.data?.map((use) => use.name))].sort(byName);
  const met =
    uses.data === undefined ? "" : askers.length ? `Asked by ${askers.join(", ")}.` : "No flow and no queue asks them.";
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xs">
      <DialogTitle>Close or open by hand</DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 2, pt: "12px !important" }}>
        {all.isError ? (
          <Failure error={all.error} />
        ) : !all.data ? (
          <Loading what="the hours" />
        ) : !hours ? (
          <Empty title="There are no hours yet">An administrator makes them under Arrive.</Empty>
        ) : (
          <>
            <TextField
              select
              label="Hours"
              value={hours.id}
              autoFocus
              onChange={(event) => {
                setChosen(event.target.value);
                change.reset();
              }}>
              {all.data.map((one) => (
                <MenuItem key={one.id} value={one.id}>
                  <Glyph name={one.open ? "ridge" : "flat"} colour={one.open ? "var(--fern)" : "var(--plum)"} />
                  &nbsp;{one.name}&nbsp;<span className="dim">{one.now}</span>
                </MenuItem>
              ))}
            </TextField>
            <div>
              {met}{" "}
              <span className="dim">
                {hours.closed
                  ? "Callers who come from now on meet their hours again."
                  : "Callers who come from now on meet the way “closed”; who waits already goes on waiting."}
              </span>
            </div>
            {hours.closed ? (
              <div>
                {hours.reason && <b>{hours.reason}. </b>}
                {hours.now}
              </div>
            ) : (
              <>
                <TextField
                  label="Reason"
                  value={reason}
                  slotProps={{ htmlInput: { maxLength: lengths.Close.reason } }}
                  onChange={(event) => setReason(event.target.value)}
                />
                <MomentBox label="Until" value={until} helperText="Empty: until somebody lifts it." change={setUntil} />
              </>
            )}
          </>
        )}
        {change.isError && (
          <div role="alert" className="wrong">
            {words(change.error)}
          </div>
        )}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        {hours && (
          <Button
            variant="contained"
            color={hours.closed ? "primary" : "secondary"}
            disabled={change.isPending}
            onClick={() => change.mutate(hours)}>
            {hours.closed ? "Lift the closure" : "Close at once"}
          </Button>
        )}
      </DialogActions>
    </Dialog>
  );
}
