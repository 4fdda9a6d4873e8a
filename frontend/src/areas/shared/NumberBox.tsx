import { InputAdornment, TextField } from "@mui/material";
import { useState } from "react";

interface Props {
  label: string;
  value: number | null;
  least: number;
  most: number;
  disabled?: boolean;
  /** What is counted, inside of the field. */
  unit?: string;
  /** Beneath the field while all is well. */
  help?: string;
  /** What an empty field means; without it something must stand there. */
  empty?: string;
  width?: number;
  /** Within a sentence, which says what it is and has its error beneath. */
  bare?: boolean;
  change: (value: number | null) => void;
}

/** Room for three digits and a unit. */
const IN_SENTENCE = 88;

/** A whole number between two limits, as text; undefined where it is none. */
export function readWhole(
  typed: string,
  { least, most, empty }: Pick<Props, "least" | "most" | "empty">,
): number | null | undefined {
  const text = typed.trim();
  if (text === "") return empty === undefined ? undefined : null;
  const value = /^-?\d+$/.test(text) ? Number(text) : NaN;
  return value >= least && value <= most ? value : undefined;
}

/**
 * A whole number. What is typed stays as it was typed; what fits counts at once, and what does not
 * is said when the field is left, with what counts instead.
 */
export function NumberBox({
  label,
  value,
  least,
  most,
  disabled,
  unit,
  help,
  empty,
  width = 230,
  bare = false,
  change,
}: Props) {
  const limits = { least, most, empty };
  const [typed, setTyped] = useState<string | null>(null);
  const [left, setLeft] = useState(true);
  const wrong = typed !== null && readWhole(typed, limits) === undefined;
  const stands = value === null ? (empty ?? "nothing") : String(value);
  const mistake = wrong && left ? `A whole number from ${least} to ${most} is needed; ${stands} still counts.` : null;
  const beneath = mistake ?? (value === null ? (empty ?? help) : help);
  return (
    <>
      <TextField
        {...(!bare && { label })}
        value={typed ?? value ?? ""}
        disabled={disabled}
        error={mistake !== null}
        sx={{ maxWidth: bare ? IN_SENTENCE : width }}
        helperText={bare ? undefined : beneath}
        slotProps={{
          htmlInput: {
            inputMode: "numeric",
            ...(bare && { "aria-label": label, title: `${label}: ${least} to ${most}` }),
          },
          ...(unit && { input: { endAdornment: <InputAdornment position="end">{unit}</InputAdornment> } }),
        }}
        onFocus={() => setLeft(false)}
        onChange={(event) => {
          const to = readWhole(event.target.value, limits);
          setTyped(event.target.value);
          if (to !== undefined && to !== value) change(to);
        }}
        onBlur={() => {
          setLeft(true);
          if (!wrong) setTyped(null);
        }}
      />
      {bare && mistake !== null && (
        <span role="alert">
          {label}: {mistake}
        </span>
      )}
    </>
  );
}
