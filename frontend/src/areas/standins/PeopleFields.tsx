import { MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import type { Length, People } from "./people";
import styles from "./standins.module.css";
import { choices } from "../shared/choices";

const kinds = choices<Length["kind"]>({
  exponential: "Exponential",
  lognormal: "Lognormal",
  erlang: "Erlang",
  fixed: "Always the same",
});

const lengths = [
  { name: "patience", label: "Patience in a queue" },
  { name: "talk", label: "Talk" },
  { name: "wraps", label: "Wrap-up" },
] as const;

const shares = [
  { name: "called_back", label: "Want a callback" },
  { name: "leaves", label: "Hang up in a menu" },
  { name: "miskeyed", label: "Press a wrong key" },
  { name: "missed", label: "Rings missed" },
  { name: "held", label: "Put on hold" },
  { name: "sent_on", label: "Sent on" },
] as const;

interface FigureProps {
  label: string;
  value: number;
  disabled: boolean;
  /** Why the server did not take it. */
  error?: string;
  change: (value: number) => void;
}

/** A figure with decimals: what is typed stays, what is a number counts; the server says what cannot be. */
function Figure({ label, value, disabled, error, change }: FigureProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const wrong = typed !== null && (typed.trim() === "" || Number.isNaN(Number(typed)));
  return (
    <TextField
      label={label}
      size="small"
      value={typed ?? String(Math.round(value * 1000) / 1000)}
      disabled={disabled}
      error={wrong || error !== undefined}
      helperText={wrong ? "A number is needed." : error}
      slotProps={{ htmlInput: { inputMode: "decimal" } }}
      onChange={(event) => {
        setTyped(event.target.value);
        if (event.target.value.trim() !== "" && !Number.isNaN(Number(event.target.value)))
          change(Number(event.target.value));
      }}
      onBlur={() => {
        if (!wrong) setTyped(null);
      }}
    />
  );
}

type Weights = Record<string, number>;

const asLines = (weights: Weights) =>
  Object.entries(weights)
    .map(([of, figure]) => `${of} = ${figure}`)
    .join("\n");

/** Shares by words, from lines like "Bookings = 3"; the first line that is none. */
function read(text: string): { weights: Weights; wrong?: string } {
  const weights: Weights = {};
  for (const line of text.split("\n").filter((one) => one.trim())) {
    const at = line.lastIndexOf("=");
    const figure = Number(line.slice(at + 1));
    if (at < 1 || line.slice(at + 1).trim() === "" || !(figure >= 0)) return { weights, wrong: line };
    weights[line.slice(0, at).trim()] = figure;
  }
  return { weights };
}

interface LinesProps {
  label: string;
  help: string;
  value: Weights;
  disabled: boolean;
  error?: string;
  change: (value: Weights) => void;
}

/** Figures by words, one a line. */
function Lines({ label, help, value, disabled, error, change }: LinesProps) {
  const [typed, setTyped] = useState<string | null>(null);
  const wrong = typed === null ? undefined : read(typed).wrong;
  return (
    <TextField
      label={label}
      size="small"
      multiline
      minRows={2}
      maxRows={8}
      value={typed ?? asLines(value)}
      disabled={disabled}
      error={wrong !== undefined || error !== undefined}
      helperText={
        wrong !== undefined ? `“${wrong.trim().slice(0, 40)}” is no line like “Bookings = 3”.` : (error ?? help)
      }
      onChange={(event) => {
        setTyped(event.target.value);
        const known = read(event.target.value);
        if (known.wrong === undefined) change(known.weights);
      }}
      onBlur={() => {
        if (wrong === undefined) setTyped(null);
      }}
    />
  );
}

/** How long things take, as a distribution; and shares of all, in percent. */
export function PeopleFields({
  people,
  disabled,
  wrong,
  change,
}: {
  people: People;
  disabled: boolean;
  wrong: Record<string, string[]>;
  change: (people: People) => void;
}) {
  const said = (name: string) => wrong[`people.${name}`]?.join(" ");
  return (
    <section className={styles.group} aria-label="What they are like">
      <h2>What they are like</h2>
      {lengths.map(({ name, label }) => {
        const value = people[name];
        if (!value) return null;
        const set = (changed: Partial<Length>) => {
          change({ ...people, [name]: { ...value, ...changed } });
        };
        const spreads = value.kind === "lognormal" || value.kind === "erlang";
        return (
          <div key={name} className={styles.row} role="group" aria-label={label}>
            <TextField
              select
              size="small"
              label={label}
              value={value.kind}
              disabled={disabled}
              onChange={(event) =>
                set({
                  kind: event.target.value as Length["kind"],
                  spread: value.spread > 0 && value.spread <= 1 ? value.spread : 0.5,
                })
              }>
              {kinds.map((kind) => (
                <MenuItem key={kind.value} value={kind.value}>
                  {kind.label}
                </MenuItem>
              ))}
            </TextField>
            <Figure
              label="Mean, s"
              value={value.mean_s}
              disabled={disabled}
              error={said(name)}
              change={(mean_s) => set({ mean_s })}
            />
            {spreads ? (
              <Figure label="Spread" value={value.spread} disabled={disabled} change={(spread) => set({ spread })} />
            ) : (
              <span />
            )}
          </div>
        );
      })}
      <span className="dim">Spread: the standard deviation, as a share of the mean.</span>
      <div className={styles.shares}>
        {shares.map(({ name, label }) => (
          <Figure
            key={name}
            label={`${label}, %`}
            value={(people[name] ?? 0) * 100}
            disabled={disabled}
            error={said(name)}
            change={(percent) => change({ ...people, [name]: percent / 100 })}
          />
        ))}
      </div>
      <Lines
        label="Ways in menus"
        help="By their words, one a line: “Bookings = 3”. A way that is not named has 1; none named: the first key is pressed most."
        value={people.choices ?? {}}
        disabled={disabled}
        error={said("choices")}
        change={(choices) => change({ ...people, choices })}
      />
      <Lines
        label="What people write"
        help="Where a flow asks them in writing: “booking = 4”. Empty: a few usual words."
        value={people.texts ?? {}}
        disabled={disabled}
        error={said("texts")}
        change={(texts) => change({ ...people, texts })}
      />
    </section>
  );
}
