import { Button, InputBase } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { api, data, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { agentStates, Glyph } from "../../frame/states";
import { useOnce } from "../../frame/useOnce";
import styles from "./desk.module.css";

type Target = Schemas["Target"];

/** Whether what was typed can be rung as it stands. */
function rings(text: string): boolean {
  return /^[+0-9][0-9 ]{1,20}$/.test(text);
}

function TargetRow({ target, chosen, choose }: { target: Target; chosen: boolean; choose: () => void }) {
  const state = target.kind === "agent" ? agentStates[target.status || "out"] : undefined;
  return (
    <button type="button" role="option" aria-selected={chosen} className={styles.code} onClick={choose}>
      <span className={`dim ${styles.extension}`}>{target.extension}</span>
      <span className="nowrap fill" title={`${target.name}${target.about ? `, ${target.about}` : ""}`}>
        {target.name}
        {target.kind !== "agent" && (
          <span className="dim light"> {target.kind === "queue" ? "queue" : "ring group"}</span>
        )}
      </span>
      {state && (
        <span className={styles.target}>
          <Glyph name={state.glyph} colour={state.colour} /> {state.word}
        </span>
      )}
    </button>
  );
}

/** Whom to transfer to or to ask: queues, colleagues by who is free, or a number that is typed. */
export function TargetPicker({ title, go, close }: { title: string; go: (to: string) => void; close: () => void }) {
  const [text, setText] = useState("");
  const [at, setAt] = useState(0);
  const search = useDeferredValue(text.trim());
  const found = useQuery({
    queryKey: keys.of("desk-targets", search),
    queryFn: () => data(api.GET("/api/v1/desk/targets", { params: { query: { search } } })),
    placeholderData: keepPreviousData,
  });
  const targets = found.data ?? [];
  const typed = text.trim();
  // What is shown may be what was found for less of the text: nobody is rung by it.
  const current = search === typed && found.isSuccess && !found.isPlaceholderData;
  const pick = () => {
    const target = targets[at];
    if (target) go(target.to);
    else if (rings(typed)) go(typed);
  };
  const enter = useOnce(current, pick);
  return (
    <section className={styles.panel} aria-label={title}>
      <h2>{title}</h2>
      <InputBase
        autoFocus
        value={text}
        placeholder="Name, extension or number"
        inputProps={{ "aria-label": "Name, extension or number" }}
        onChange={(event) => {
          setText(event.target.value);
          setAt(0);
        }}
        onKeyDown={(event) => {
          if (event.key === "Escape") close();
          if (event.key === "Enter") enter();
          if (event.key === "ArrowDown") setAt(Math.min(at + 1, targets.length - 1));
          if (event.key === "ArrowUp") setAt(Math.max(at - 1, 0));
        }}
        sx={{ px: 1, border: "1px solid var(--edge)", borderRadius: 1 }}
      />
      <div className={styles.codes} role="listbox" aria-label="Found">
        {targets.map((target, i) => (
          <TargetRow key={target.to} target={target} chosen={i === at} choose={() => go(target.to)} />
        ))}
        {rings(typed) && (
          <button type="button" className={styles.code} onClick={() => go(typed)}>
            Ring {typed}
          </button>
        )}
        {found.isSuccess && targets.length === 0 && !rings(typed) && <span className="dim">Nobody is called so.</span>}
      </div>
      <div>
        <Button onClick={close}>Close</Button> <span className="dim">Enter chooses, Esc closes.</span>
      </div>
    </section>
  );
}
