import { Button, MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { type ReactNode, useEffect, useRef, useState } from "react";
import { words } from "../../../api/client";
import { keys } from "../../../api/keys";
import { numbers } from "../../../api/resources";
import { clock } from "../../../frame/format";
import { useNow } from "../../../frame/useLive";
import shared from "../../shared/shared.module.css";
import styles from "./phone.module.css";
import { Saying } from "./Saying";
import type { Paper } from "./usePaper";
import { type Where, WhereTried } from "./WhereTried";
import { Transcript } from "./Transcript";
import type { CallState, TelephoneState } from "./useTelephone";

const KEYS = ["1", "2", "3", "4", "5", "6", "7", "8", "9", "*", "0", "#"];

/** Phases of which nothing more is to be said. */
const plain: Record<string, string> = {
  leaving: "Leaves the queue",
  outside: "Talks outside",
  asking: "A table is asked",
  going: "Goes on in another flow",
};
const over: Record<string, string> = {
  person: "Over: talked with a person",
  ended: "Over: ended by the flow",
  hung_up: "Over: the caller hung up",
  failed: "Over: met the failure rule",
  message: "Over: a message was left",
  callback: "Over: a callback is booked",
  elsewhere: "Over: talked outside",
};

function status(call: CallState, now: number): string {
  switch (call.phase) {
    case "playing":
      return "Hears the announcement";
    case "listening":
      return `Waits for a key, ${clock((call.listens_until_ms ?? now) - now)} left`;
    case "queued":
      return `Waits in ${call.queue || "the queue"}${call.position ? `, number ${call.position} in line` : ""}${call.music ? ": music" : ""}`;
    case "with_person":
      return call.music ? `On hold with ${call.agent}: music` : `Talks with ${call.agent}`;
    case "ringing":
      return `Rings, ${clock((call.listens_until_ms ?? now) - now)} left`;
    case "recording":
      return `Is recorded, ${clock((call.listens_until_ms ?? now) - now)} left; # ends it`;
    case "ended":
      return over[call.ending ?? ""] ?? "Over";
    default:
      return plain[call.phase] ?? "";
  }
}

/** What is in the hand while a call goes on: keys, what happens, the time, hanging up. */
function Handset({ phone, call, now }: { phone: TelephoneState; call: CallState; now: number }) {
  const { live } = phone;
  return (
    <div className={styles.hand}>
      <div className={styles.keys}>
        {KEYS.map((key) => (
          <button
            key={key}
            className={styles.key}
            disabled={!live}
            aria-label={`Press ${key}`}
            onClick={() => phone.key.mutate(key)}>
            {key}
          </button>
        ))}
      </div>
      <div className={styles.keypad}>
        <div role="status" className="marked">
          {status(call, now)}
        </div>
        <div className={styles.clock} role="timer" aria-label="Length of the call">
          {clock((call.ended_ms ?? now) - call.arrived_ms)}
        </div>
        {live && (
          <Button
            variant="outlined"
            color="secondary"
            disabled={phone.hangUp.isPending}
            onClick={() => phone.hangUp.mutate()}>
            Hang up <kbd>H</kbd>
          </Button>
        )}
      </div>
      {live && <Saying listens={call.listens} say={(said) => phone.say.mutate(said)} />}
    </div>
  );
}

interface Props {
  phone: TelephoneState;
  flow: string;
  inForce: boolean;
  unsaved: boolean;
  close: () => void;
  paper: Paper;
  /** The telephone that reaches nobody: drawn in place of the exchange's. */
  onPaper: ReactNode;
}

/** Who calls which number, and what runs. */
function Setup({ phone, flow, inForce, unsaved }: Omit<Props, "close" | "paper" | "onPaper">) {
  const query = { page_size: 500 };
  const list = useQuery({ queryKey: keys.list("numbers", query), queryFn: () => numbers.list(query) });
  const [chosen, setChosen] = useState<string | null>(null);
  const [caller, setCaller] = useState("07700 900417");
  const [draft, setDraft] = useState(!inForce);
  const here = (list.data?.results ?? []).filter((number) => number.flow === flow);
  const number = chosen ?? here[0]?.address ?? "";
  const { live } = phone;
  const ready = draft ? !unsaved : number !== "";
  const dialling = phone.dial.isPending ? "Dialling…" : phone.contact ? "Dial again" : "Dial";
  const problem = phone.dial.error ?? phone.key.error ?? phone.say.error;
  return (
    <div className={styles.setup}>
      <TextField
        select
        label="Number"
        value={number}
        disabled={live}
        onChange={(event) => setChosen(event.target.value)}
        helperText={
          list.data && here.length === 0 ? "No number leads here yet: the draft can be tried all the same." : undefined
        }>
        {here.map((n) => (
          <MenuItem key={n.id} value={n.address}>
            {n.national} {n.label}
          </MenuItem>
        ))}
      </TextField>
      <TextField label="Caller" value={caller} disabled={live} onChange={(event) => setCaller(event.target.value)} />
      <TextField
        select
        label="Runs"
        value={draft ? "draft" : "force"}
        disabled={live}
        onChange={(event) => setDraft(event.target.value === "draft")}>
        <MenuItem value="force" disabled={!inForce}>
          what is in force
        </MenuItem>
        <MenuItem value="draft">this draft</MenuItem>
      </TextField>
      {!live && (
        <Button
          data-dial
          size="medium"
          variant="contained"
          disabled={phone.dial.isPending || !ready}
          onClick={() => phone.dial.mutate({ number, caller, flow: draft ? flow : null })}>
          {draft && unsaved ? "Saving the draft…" : dialling}
        </Button>
      )}
      {problem && (
        <div role="alert" className="wrong">
          {words(problem)}
        </div>
      )}
    </div>
  );
}

/** A telephone in place of the sheet: a real call through the exchange, of the draft or of what is in force. */
export function Telephone({ phone, close, paper, onPaper, ...setup }: Props) {
  const [chosen, setChosen] = useState<Where | null>(null);
  const mode = chosen ?? (paper.dialled ? "paper" : "exchange");
  const now = useNow(250);
  const { call, live } = phone;
  const region = useRef<HTMLDivElement>(null);
  // The telephone is in the hand as soon as it is opened, and when a call begins.
  useEffect(() => {
    region.current?.focus();
  }, [live]);
  const press = (event: React.KeyboardEvent) => {
    const target = event.target as HTMLElement;
    if (target.closest("input,[role=combobox]")) return;
    if (live && KEYS.includes(event.key)) phone.key.mutate(event.key);
    else if (live && event.key.toLowerCase() === "h") phone.hangUp.mutate();
    else if (!live && event.key === "Enter" && target === region.current)
      region.current.querySelector<HTMLElement>("[data-dial]")?.click();
    else if (event.key === "Escape") close();
    else return;
    event.preventDefault();
    event.stopPropagation();
  };
  return (
    <div
      ref={region}
      tabIndex={-1}
      className={`${shared.sheet} ${styles.held}`}
      role="region"
      aria-label="Telephone"
      onKeyDown={press}>
      <div className={shared.sheetHead}>
        <h1>
          <span className="news">Trial call</span> Telephone
        </h1>
        <Button onClick={close}>Close</Button>
      </div>
      <WhereTried
        where={mode}
        live={live}
        choose={(next) => {
          setChosen(next);
          paper.hangUp();
        }}
      />
      {mode === "paper" ? (
        onPaper
      ) : (
        <>
          <Setup phone={phone} {...setup} />
          {call && <Handset phone={phone} call={call} now={now} />}
          {call && <Transcript log={phone.log} began={call.arrived_ms} />}
        </>
      )}
    </div>
  );
}
