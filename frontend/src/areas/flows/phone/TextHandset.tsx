import { Button, MenuItem, TextField } from "@mui/material";
import { useMutation, useQuery } from "@tanstack/react-query";
import { type ReactNode, useState } from "react";
import { api, data, words } from "../../../api/client";
import { keys } from "../../../api/keys";
import { numbers } from "../../../api/resources";
import shared from "../../shared/shared.module.css";
import styles from "./phone.module.css";
import { Thread, Writing, type Written } from "./Thread";
import type { Paper } from "./usePaper";
import { type Where, WhereTried } from "./WhereTried";
import type { TelephoneState } from "./useTelephone";

interface Props {
  phone: TelephoneState;
  flow: string;
  inForce: boolean;
  unsaved: boolean;
  close: () => void;
  paper: Paper;
  onPaper: ReactNode;
}

const states: Record<string, string> = {
  queued: "Waits for a person",
  with_person: "With a person",
  listening: "The flow waits for an answer",
  ended: "Over",
};

/** Which number is written to, and what runs. */
function useTexts({ phone, flow, inForce }: Pick<Props, "phone" | "flow" | "inForce">) {
  const query = { page_size: 500 };
  const list = useQuery({ queryKey: keys.list("numbers", query), queryFn: () => numbers.list(query) });
  const here = (list.data?.results ?? []).filter((number) => number.flow === flow && number.channel === "text");
  const [chosen, setChosen] = useState<string | null>(null);
  const [caller, setCaller] = useState("07700 900417");
  const [draft, setDraft] = useState(!inForce);
  const number = chosen ?? here[0]?.address ?? "";
  const send = useMutation({
    mutationFn: (text: string) =>
      data(
        api.POST("/api/v1/texts", {
          body: { number, caller, text, flow: draft ? flow : null, contact: phone.live ? phone.contact : null },
        }),
      ),
    onSuccess: (placed) => {
      phone.follow(placed.contact);
    },
  });
  return { here, number, setChosen, caller, setCaller, draft, setDraft, send };
}

/** A text handset in place of the sheet: real messages through the exchange, or a trial on paper. */
export function TextHandset({ phone, flow, inForce, unsaved, close, paper, onPaper }: Props) {
  const [chosen, setMode] = useState<Where | null>(null);
  const mode = chosen ?? (paper.dialled ? "paper" : "exchange");
  const texts = useTexts({ phone, flow, inForce });
  const { live, call } = phone;
  const thread = phone.log
    .filter((line) => line.kind === "contact.texted" || line.kind === "contact.heard")
    .map((line): Written => ({ at_ms: line.at_ms, by: line.by ?? "flow", words: line.words ?? "" }));
  const waits = texts.draft ? unsaved : texts.number === "";
  return (
    <div className={shared.sheet} role="region" aria-label="Text handset">
      <div className={shared.sheetHead}>
        <h1>
          <span className="news">Trial</span> Text handset
        </h1>
        <Button onClick={close}>Close</Button>
      </div>
      <WhereTried
        where={mode}
        live={live}
        choose={(next) => {
          setMode(next);
          paper.hangUp();
        }}
      />
      {mode === "paper" ? (
        onPaper
      ) : (
        <>
          <div className={styles.setup}>
            <TextField
              select
              label="Number"
              value={texts.number}
              disabled={live}
              helperText={
                texts.here.length === 0
                  ? "No text number leads here yet: the draft can be tried all the same."
                  : undefined
              }
              onChange={(event) => texts.setChosen(event.target.value)}>
              {texts.here.map((n) => (
                <MenuItem key={n.id} value={n.address}>
                  {n.national} {n.label}
                </MenuItem>
              ))}
            </TextField>
            <TextField
              label="Writes from"
              value={texts.caller}
              disabled={live}
              onChange={(event) => texts.setCaller(event.target.value)}
            />
            <TextField
              select
              label="Runs"
              value={texts.draft ? "draft" : "force"}
              disabled={live}
              onChange={(event) => texts.setDraft(event.target.value === "draft")}>
              <MenuItem value="force" disabled={!inForce}>
                what is in force
              </MenuItem>
              <MenuItem value="draft">this draft</MenuItem>
            </TextField>
          </div>
          <Thread thread={thread} mine={["caller"]} />
          <div className={styles.foot}>
            {call && (
              <div role="status" className="marked">
                {states[call.phase] ?? "The flow writes"}
                {call.phase === "with_person" && call.agent ? `: ${call.agent}` : ""}
              </div>
            )}
            {texts.send.isError && (
              <div role="alert" className="wrong">
                {words(texts.send.error)}
              </div>
            )}
            <Writing
              label={live ? "Next message" : "First message"}
              disabled={texts.send.isPending || (!live && waits)}
              send={(text) => texts.send.mutate(text)}
            />
            {live && (
              <div>
                <Button disabled={phone.hangUp.isPending} onClick={() => phone.hangUp.mutate()}>
                  End the thread
                </Button>
              </div>
            )}
          </div>
        </>
      )}
    </div>
  );
}
