import {
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  TextField,
} from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Schemas, words as errorWords } from "../../api/client";
import { lengths } from "../../api/lengths";
import { keys } from "../../api/keys";
import { dateIn, dayOf, zonedIso } from "../../frame/format";
import { useSession } from "../../frame/session";
import { useNow } from "../../frame/useLive";
import { read, words } from "./spans";
import { DateBox, MomentBox } from "../shared/MomentBox";

export type HoursException = Schemas["Exception"];
export type HoursClosure = Schemas["Closure"];

interface ExceptionProps {
  exception: HoursException;
  save: (exception: HoursException) => void;
  close: () => void;
}

/** Other hours on one date, or that date every year. */
export function ExceptionDialog({ exception, save, close }: ExceptionProps) {
  const [name, setName] = useState(exception.name);
  const [day, setDay] = useState(exception.day);
  const [yearly, setYearly] = useState(exception.yearly ?? false);
  const [text, setText] = useState(exception.spans.length ? words(exception.spans) : "");
  const spans = read(text);
  const ready = name.trim() !== "" && day !== "" && spans !== null;
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xs">
      <DialogTitle>Exception</DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 2.5, pt: "12px !important" }}>
        <TextField
          label="Name"
          value={name}
          autoFocus
          onChange={(event) => setName(event.target.value)}
          slotProps={{ htmlInput: { maxLength: lengths.Exception.name } }}
        />
        <DateBox label="Date" value={day} change={setDay} />
        <FormControlLabel
          control={<Checkbox size="small" checked={yearly} onChange={(_, on) => setYearly(on)} />}
          label="every year on this date"
        />
        <TextField
          label="Open"
          value={text}
          placeholder="closed all day"
          onChange={(event) => setText(event.target.value)}
          error={spans === null}
          helperText={
            spans === null
              ? "Write times like 08:00–13:00, 14:00–18:00."
              : "Times like 08:00–13:00, 14:00–18:00; empty: closed all day."
          }
        />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={!ready}
          onClick={() => save({ name: name.trim(), day, yearly, spans: spans ?? [] })}>
          Take it
        </Button>
      </DialogActions>
    </Dialog>
  );
}

interface HolidayProps {
  taken: Set<string>;
  take: (exceptions: HoursException[]) => void;
  close: () => void;
}

/** Public holidays of a country and region: looked at first, then taken in as closed days. */
export function HolidaysDialog({ taken, take, close }: HolidayProps) {
  const [country, setCountry] = useState("GB");
  const [region, setRegion] = useState("ENG");
  const { session } = useSession();
  const today = dateIn(new Date(useNow(60_000)).toISOString(), session.time_zone);
  const [year, setYear] = useState(today.slice(0, 4));
  const [without, setWithout] = useState<Set<string>>(new Set());
  const ready = country.length === 2 && /^\d{4}$/.test(year);
  const list = useQuery({
    queryKey: keys.of("holidays", country, region, year),
    queryFn: () => data(api.GET("/api/v1/holidays", { params: { query: { country, region, year: Number(year) } } })),
    enabled: ready,
    retry: false,
  });
  // What is over closes nobody's door.
  const days = list.data?.filter((holiday) => holiday.day >= today) ?? [];
  const fresh = days.filter((holiday) => !taken.has(holiday.day) && !without.has(holiday.day));
  const toggle = (day: string) => {
    const next = new Set(without);
    if (!next.delete(day)) next.add(day);
    setWithout(next);
  };
  return (
    <Dialog open onClose={close} fullWidth maxWidth="sm">
      <DialogTitle>Public holidays</DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 1.5, pt: "12px !important" }}>
        <div className="beside">
          <TextField
            label="Country"
            value={country}
            onChange={(event) => setCountry(event.target.value.toUpperCase().slice(0, 2))}
          />
          <TextField label="Region" value={region} onChange={(event) => setRegion(event.target.value.toUpperCase())} />
          <TextField label="Year" value={year} onChange={(event) => setYear(event.target.value)} />
        </div>
        {list.isError && (
          <div role="alert" className="wrong">
            {errorWords(list.error)}
          </div>
        )}
        {list.data && days.length === 0 && <span className="dim">None of them is still to come in this year.</span>}
        {days.map((holiday) => (
          <FormControlLabel
            key={holiday.day}
            sx={{ my: -0.5 }}
            disabled={taken.has(holiday.day)}
            control={
              <Checkbox
                size="small"
                checked={!taken.has(holiday.day) && !without.has(holiday.day)}
                onChange={() => toggle(holiday.day)}
              />
            }
            label={
              <>
                {dayOf(holiday.day)} <b>{holiday.name}</b>{" "}
                {taken.has(holiday.day) && <span className="dim">is an exception already</span>}
              </>
            }
          />
        ))}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          disabled={fresh.length === 0}
          onClick={() =>
            take(
              fresh.map((holiday) => ({ name: holiday.name.slice(0, 80), day: holiday.day, yearly: false, spans: [] })),
            )
          }>
          Close on {fresh.length} {fresh.length === 1 ? "day" : "days"}
        </Button>
      </DialogActions>
    </Dialog>
  );
}

/** Close at once, until a time or until it is lifted. */
export function CloseNowDialog({
  zone,
  closeNow,
  close,
}: {
  zone: string;
  closeNow: (closure: HoursClosure) => void;
  close: () => void;
}) {
  const [reason, setReason] = useState("");
  const [until, setUntil] = useState("");
  return (
    <Dialog open onClose={close} fullWidth maxWidth="xs">
      <DialogTitle>Close now</DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 2.5, pt: "12px !important" }}>
        <div className="dim">Callers who come now meet the way “closed” of every flow that asks these hours.</div>
        <TextField
          label="Reason"
          value={reason}
          autoFocus
          slotProps={{ htmlInput: { maxLength: lengths.Close.reason } }}
          onChange={(event) => setReason(event.target.value)}
        />
        <MomentBox label="Until" value={until} helperText="Empty: until you lift it." change={setUntil} />
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button
          variant="contained"
          color="secondary"
          onClick={() => closeNow({ reason, until: until ? zonedIso(until, zone) : null })}>
          Close at once
        </Button>
      </DialogActions>
    </Dialog>
  );
}
