import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useMutation } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, words } from "../../api/client";
import { DateBox } from "../shared/MomentBox";

interface Props {
  close: () => void;
  take: (moments: number[]) => void;
}

/** Which recorded day's callers come again, at the moments at which they came. */
export function DayThatWas({ close, take }: Props) {
  const [day, setDay] = useState("");
  const found = useMutation({
    mutationFn: () => data(api.GET("/api/v1/stand-ins/recorded/moments", { params: { query: { day } } })),
    onSuccess: ({ moments }) => {
      take(moments);
      close();
    },
  });
  const submit = (event: React.SyntheticEvent) => {
    event.preventDefault();
    event.stopPropagation();
    if (day && !found.isPending) found.mutate();
  };
  return (
    <Dialog open onClose={close} aria-labelledby="day-that-was">
      <form onSubmit={submit}>
        <DialogTitle id="day-that-was">As on a day that was</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2 }}>
          <span className="dim">
            As many callers as came on that day, each at the moment of the day at which one came then, on every day.
          </span>
          <DateBox
            label="Day"
            value={day}
            required
            error={found.isError}
            helperText={found.isError ? words(found.error) : "a day of which contacts are still kept"}
            change={(chosen) => {
              setDay(chosen);
              found.reset();
            }}
          />
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={!day || found.isPending}>
            Take its moments
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}
