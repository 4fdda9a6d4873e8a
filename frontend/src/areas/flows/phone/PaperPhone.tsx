import { Button, TextField } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { api, data, type Definition, type Stop, words } from "../../../api/client";
import { lengths } from "../../../api/lengths";
import { keys } from "../../../api/keys";
import { clock } from "../../../frame/format";
import { useSession } from "../../../frame/session";
import { endingWords } from "../endings";
import type { Walk } from "../trail/TrailMap";
import styles from "./phone.module.css";
import { Saying } from "./Saying";
import { Writing } from "./Thread";
import { CallerFields, PretendFields } from "./PretendFields";
import type { Paper, Tried } from "./usePaper";

const KEYS = ["1", "2", "3", "4", "5", "6", "7", "8", "9", "*", "0", "#"];

/** The path of a trial on paper, as the map lights it. */
export function walkOfTrial(tried: Tried): Walk {
  const steps = new Map<string, string>();
  const arms = new Set<string>();
  for (const line of tried.lines) {
    if (line.kind !== "moved") continue;
    arms.add(`${line.step} ${line.exit}`);
    if (line.to) steps.set(line.to, clock(line.at_ms));
  }
  return { steps, arms, current: tried.ending ? null : (tried.step.split(".")[0] ?? null) };
}

function stateOf(tried: Tried): string {
  if (tried.ending) return `Over: ${endingWords[tried.ending]?.toLowerCase() ?? tried.ending}`;
  if (tried.phase === "recording") return "Is recorded: # ends the message";
  return tried.open === "key" ? "Waits for a key" : "Waits without end: pretend an answer";
}

/** Keep a finished trial, with what happened as the expectation. */
function SaveTrial({ id, definition, paper }: { id: string; definition: Definition; paper: Paper }) {
  const [name, setName] = useState("");
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const save = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/v1/flows/{id}/trials", {
          params: { path: { id } },
          body: { draft: definition, name, setup: { ...paper.setup } },
        }),
      ),
    onSuccess: (saved) => {
      setName("");
      void cache.invalidateQueries({ queryKey: keys.of("flows", "trials", id) });
      enqueueSnackbar(`The trial “${saved.name}” is saved; it runs before each publishing.`);
    },
  });
  return (
    <form
      className={styles.typed}
      onSubmit={(event) => {
        event.preventDefault();
        save.mutate();
      }}>
      <TextField
        label="Save as the trial"
        value={name}
        error={save.isError}
        helperText={save.isError ? words(save.error) : undefined}
        slotProps={{ htmlInput: { maxLength: lengths.SaveTrial.name } }}
        onChange={(event) => setName(event.target.value)}
      />
      <Button type="submit" variant="contained" disabled={!name.trim() || save.isPending}>
        Save
      </Button>
    </form>
  );
}

interface Props {
  id: string;
  definition: Definition;
  stops: Stop[];
  paper: Paper;
}

/** A trial call on paper: nothing reaches the exchange, anything can be pretended, a step can be taken back. */
export function PaperPhone({ id, definition, stops, paper }: Props) {
  const { may } = useSession();
  const { setup, dialled, run } = paper;
  const tried = run.data;
  const over = Boolean(tried?.ending);
  const awaits = tried?.open === "key";
  const texts = definition.channel === "text";
  return (
    <div
      className={styles.scrolls}
      onKeyDown={(event) => {
        if ((event.target as HTMLElement).closest("input,textarea,[role=combobox]")) return;
        if (awaits && !texts && KEYS.includes(event.key)) paper.press(event.key);
        else if (event.key === "Backspace" && setup.keys.length) paper.back();
      }}>
      {!dialled && (
        <div className={styles.paper}>
          <CallerFields setup={setup} change={paper.setSetup} />
          <Button size="medium" variant="contained" onClick={paper.dial}>
            {texts ? "Write on paper" : "Dial on paper"}
          </Button>
          <h2>What is made up</h2>
          <PretendFields definition={definition} stops={stops} setup={setup} change={paper.setSetup} />
        </div>
      )}
      {dialled && run.isError && (
        <div role="alert" className={styles.refused}>
          {words(run.error)} <Button onClick={paper.hangUp}>Change the setup</Button>
        </div>
      )}
      {dialled && tried && (
        <>
          <div className={texts ? styles.setup : styles.hand}>
            {texts ? (
              <Writing
                label={setup.keys.length ? "Next message" : "First message"}
                disabled={!awaits && setup.keys.length > 0}
                send={paper.press}
              />
            ) : (
              <div className={styles.keys}>
                {KEYS.map((key) => (
                  <button
                    key={key}
                    className={styles.key}
                    disabled={!awaits}
                    aria-label={`Press ${key}`}
                    onClick={() => paper.press(key)}>
                    {key}
                  </button>
                ))}
              </div>
            )}
            <div className={styles.keypad}>
              <div role="status" className="marked">
                {stateOf(tried)}
              </div>
              <div className={styles.clock}>{clock(tried.seconds * 1000)}</div>
              <Button variant="outlined" disabled={!awaits} onClick={() => paper.press("wait")}>
                Say nothing
              </Button>
              <Button variant="outlined" disabled={setup.keys.length === 0} onClick={paper.back}>
                One step back
              </Button>
              <Button variant="outlined" color="secondary" onClick={paper.hangUp}>
                Change the setup
              </Button>
            </div>
            {!texts && <Saying listens={tried.listens} say={(said) => paper.press(`say:${said}`)} />}
          </div>
          {over && may("change", "flows") && <SaveTrial id={id} definition={definition} paper={paper} />}
          <ol className={styles.log} aria-label="Heard and decided, and why" aria-live="polite">
            {tried.lines
              .filter((line) => line.words || line.why)
              .map((line, i) => (
                <li key={i}>
                  <span className="dim">{clock(line.at_ms)}</span>
                  <span>
                    <b>{line.words || line.why}</b>
                    {line.words && line.why && (
                      <span className="dim">
                        <br />
                        {line.why}
                      </span>
                    )}
                  </span>
                </li>
              ))}
            {over && (
              <li>
                <span className="dim">{clock(tried.seconds * 1000)}</span>
                <span>
                  <b>The call is over</b> <span className="dim">{tried.place}</span>
                </span>
              </li>
            )}
          </ol>
        </>
      )}
    </div>
  );
}
