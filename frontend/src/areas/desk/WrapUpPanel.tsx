import { Button } from "@mui/material";
import { Fragment, useEffect, useState } from "react";
import { clock } from "../../frame/format";
import { useNow } from "../../frame/useLive";
import styles from "./desk.module.css";
import type { Code, Desk, DeskAgent } from "./useDesk";

/** Digits typed anywhere choose the code that has them, as on a desk phone; Enter is done. */
function useTypedDigits(codes: Code[], choose: (id: string | null) => void, done: () => void): [string, () => void] {
  const [digits, setDigits] = useState("");
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      const target = event.target as HTMLElement;
      if (event.ctrlKey || event.metaKey || event.altKey || target.closest("input,textarea")) return;
      // Digits that are no code are a slip, not a wish to do without one.
      if (
        event.key === "Enter" &&
        !target.closest("button") &&
        (digits === "" || codes.some((code) => code.digits === digits))
      )
        done();
      if (event.key === "Backspace") {
        setDigits("");
        choose(null);
      }
      if (!/^[0-9]$/.test(event.key)) return;
      const exact = (text: string) => codes.find((code) => code.digits === text);
      const begun = codes.some((code) => code.digits.startsWith(digits + event.key));
      const next = begun ? digits + event.key : event.key;
      setDigits(next);
      choose(exact(next)?.id ?? null);
    };
    window.addEventListener("keydown", press);
    return () => {
      window.removeEventListener("keydown", press);
    };
  });
  return [
    digits,
    () => {
      setDigits("");
    },
  ];
}

/** Says aloud, once, that a code is missing. */
function useReminder(agent: DeskAgent, waited_ms: number, chosen: string | null) {
  const due = agent.reminder_s > 0 && waited_ms >= agent.reminder_s * 1000 && !chosen;
  useEffect(() => {
    if (due) void new Audio("/api/v1/desk/reminder").play().catch(() => undefined);
  }, [due]);
}

/** The code of the agent's own part of a contact, within its time. */
export function WrapUpPanel({ agent, codes, desk }: { agent: DeskAgent; codes: Code[]; desk: Desk }) {
  const now = useNow(500);
  const [chosen, setChosen] = useState<string | null>(null);
  const waited = now - agent.since_ms;
  const left = agent.due_ms === null ? 0 : agent.due_ms - now;
  const over = waited > agent.screen_s * 1000;
  const required = agent.must_code && !over;
  const code = over ? null : chosen;
  const done = () => {
    if (code || !required) desk.act({ action: "wrap_up", code });
  };
  const [typed, forget] = useTypedDigits(codes, setChosen, done);
  const unknown = typed !== "" && !chosen && !over;
  useReminder(agent, waited, chosen);
  const late = waited - agent.target_wrap_s * 1000;
  const groups = [...new Set(codes.map((one) => one.group))];
  return (
    <section className={styles.panel} aria-label="Wrap-up">
      <h2>What was it about?</h2>
      {agent.to_wrap > 0 && (
        <div className="dim">
          {agent.to_wrap === 1 ? "One more contact wants" : `${agent.to_wrap} more contacts want`} a code after this
          one.
        </div>
      )}
      {late > 0 && <div className="chip warns">{clock(late)} over the target</div>}
      <div className={styles.codes} role="radiogroup" aria-label="Wrap-up codes">
        {codes.length === 0 && <span className="dim">This queue has no wrap-up codes.</span>}
        {groups.map((group) => (
          <Fragment key={group}>
            {group && <span className={`dim ${styles.below}`}>{group}</span>}
            {codes
              .filter((one) => one.group === group)
              .map((one) => (
                <button
                  key={one.id}
                  type="button"
                  role="radio"
                  disabled={over}
                  aria-checked={chosen === one.id}
                  className={styles.code}
                  title={one.long_label || one.name}
                  onClick={() => {
                    setChosen(one.id);
                    forget();
                  }}>
                  <span className="dim">{one.digits}</span> {one.name}
                </button>
              ))}
          </Fragment>
        ))}
      </div>
      <Button variant="contained" disabled={desk.busy || (required && !code)} onClick={done}>
        {code ? "Done" : required ? "Choose a code" : "Done without a code"}
      </Button>
      {unknown ? (
        <div role="alert" className="wrong">
          {codes.some((one) => one.digits.startsWith(typed))
            ? `${typed} is not a whole code yet.`
            : `${typed} is no code of this queue.`}{" "}
          <kbd>⌫</kbd> begins again.
        </div>
      ) : (
        <div className="dim">
          {over
            ? "The time to enter a code is over."
            : typed
              ? `Digits: ${typed}`
              : "Type a code’s digits, then Enter."}
        </div>
      )}
      <div className="dim">
        {agent.due_ms === null
          ? "It does not end by itself."
          : `Ends by itself in ${clock(left)}, then with “no code” if none was saved.`}
      </div>
    </section>
  );
}
