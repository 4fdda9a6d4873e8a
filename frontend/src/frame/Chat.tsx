import { Button, InputBase } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../api/client";
import { lengths } from "../api/lengths";
import { timeOfDay } from "./format";
import styles from "./frame.module.css";
import { useSession } from "./session";

type Line = Schemas["LiveChatLine"];

interface Props {
  title: string;
  lines: Record<string, Line>;
  /** Whether the agent reads it: their own lines stand on the right. */
  agent: boolean;
  send: (text: string) => void;
  empty: string;
}

/** What an agent and their supervisors write to each other today. */
export function Chat({ title, lines, agent, send, empty }: Props) {
  const { session } = useSession();
  const [text, setText] = useState("");
  const all = Object.values(lines).sort((a, b) => a.at_ms - b.at_ms);
  const submit = () => {
    if (text.trim()) {
      send(text.trim());
      setText("");
    }
  };
  return (
    <section aria-label={title} className={styles.chat}>
      <div className={styles.chatHead}>
        <h2>{title}</h2>
        <span className="dim">kept with the day</span>
      </div>
      <ol aria-live="polite">
        {all.length === 0 && <li className="dim">{empty}</li>}
        {all.map((line, at) => (
          <li key={at} className={line.mine === agent ? styles.mine : styles.theirs}>
            {line.mine !== agent && <b>{line.by}: </b>}
            {line.words} <span className="dim">{timeOfDay(line.at_ms, session.time_zone).slice(0, 5)}</span>
          </li>
        ))}
      </ol>
      <div className={styles.chatWrite}>
        <InputBase
          value={text}
          placeholder="Write…"
          inputProps={{ "aria-label": `${title}: write`, maxLength: lengths.OnAgent.text }}
          onChange={(event) => setText(event.target.value)}
          onKeyDown={(event) => {
            if (event.key === "Enter") submit();
          }}
        />
        <Button size="small" disabled={!text.trim()} onClick={submit}>
          Send
        </Button>
      </div>
    </section>
  );
}
