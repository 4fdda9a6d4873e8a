import { TextField } from "@mui/material";
import { useState } from "react";

interface Props {
  label: string;
  value: number | null;
  least: number;
  most: number;
  disabled?: boolean;
  /** Beneath the field while all is well. */
  help?: string;
  /** What an empty field means; without it something must stand there. */
  empty?: string;
  width?: number;
  change: (value: number | null) => void;
}

/** A whole number between two limits, as text; undefined where it is none. */
function read(typed: string, { least, most, empty }: Pick<Props, "least" | "most" | "empty">): number | null | undefined {
  const text = typed.trim();
  if (text === "") return empty === undefined ? undefined : null;
  const value = /^-?\d+$/.test(text) ? Number(text) : NaN;
  return value >= least && value <= most ? value : undefined;
}

/**
 * A whole number. What is typed stays as it was typed; what fits counts at once, and what does not
 * is said when the field is left, with what counts instead.
 */
export function NumberBox({ label, value, least, most, disabled, help, empty, width = 230, change }: Props) {
  const limits = { least, most, empty };
  const [typed, setTyped] = useState<string | null>(null);
  const [left, setLeft] = useState(true);
  const wrong = typed !== null && read(typed, limits) === undefined;
  const stands = value === null ? (empty ?? "nothing") : String(value);
  return (
    <TextField label={label} value={typed ?? value ?? ""} disabled={disabled} error={wrong && left} sx={{ maxWidth: width }}
      helperText={wrong && left ? `A whole number from ${least} to ${most} is needed; ${stands} still counts.` : value === null ? (empty ?? help) : help}
      slotProps={{ htmlInput: { inputMode: "numeric" } }}
      onFocus={() => { setLeft(false); }}
      onChange={(event) => {
        const to = read(event.target.value, limits);
        setTyped(event.target.value);
        if (to !== undefined && to !== value) change(to);
      }}
      onBlur={() => { setLeft(true); if (!wrong) setTyped(null); }} />
  );
}
