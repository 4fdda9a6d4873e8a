import { MenuItem, TextField } from "@mui/material";

/** A choice among ways that always shows which one counts. */
export function Ways({
  label,
  value,
  ways,
  choose,
}: {
  label: string;
  value: string;
  ways: readonly (readonly [string, string])[];
  choose: (value: string) => void;
}) {
  return (
    <TextField
      select
      label={label}
      value={value}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
      onChange={(event) => choose(event.target.value)}>
      {ways.map(([way, words]) => (
        <MenuItem key={way} value={way}>
          {words}
        </MenuItem>
      ))}
    </TextField>
  );
}
