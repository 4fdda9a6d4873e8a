import { Button, TextField } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import type { Schemas } from "../../../api/client";
import { lengths } from "../../../api/lengths";
import styles from "./phone.module.css";

export type Written = Schemas["LiveWritten"];

const writers: Record<string, string> = { caller: "They", agent: "Agent", flow: "The flow" };

/** What was written to and fro, newest at the bottom; `mine` stand at the right. */
export function Thread({ thread, mine }: { thread: Written[]; mine: string[] }) {
  const end = useRef<HTMLLIElement>(null);
  useEffect(() => {
    end.current?.scrollIntoView({ block: "nearest" });
  }, [thread.length]);
  return (
    <ol className={styles.thread} aria-label="Messages to and fro" aria-live="polite">
      {thread.map((line, i) => (
        <li key={i} className={mine.includes(line.by) ? styles.mine : styles.theirs}>
          <span className="dim">{mine.includes(line.by) && line.by !== "flow" ? "You" : writers[line.by]}</span>
          <span>{line.words}</span>
        </li>
      ))}
      <li ref={end} aria-hidden="true" />
    </ol>
  );
}

/** Types a message: Enter sends it. */
export function Writing({ label, disabled, send }: { label: string; disabled: boolean; send: (text: string) => void }) {
  const [text, setText] = useState("");
  const ready = text.trim() !== "" && !disabled;
  const go = () => {
    if (!ready) return;
    send(text.trim());
    setText("");
  };
  return (
    <form
      className={styles.writes}
      onSubmit={(event) => {
        event.preventDefault();
        go();
      }}>
      <TextField
        label={label}
        value={text}
        multiline
        maxRows={4}
        slotProps={{ htmlInput: { maxLength: lengths.PlaceText.text } }}
        onChange={(event) => setText(event.target.value)}
        onKeyDown={(event) => {
          if (event.key === "Enter" && !event.shiftKey) {
            event.preventDefault();
            go();
          }
        }}
      />
      <Button type="submit" variant="contained" disabled={!ready}>
        Send
      </Button>
    </form>
  );
}
