import { Autocomplete, TextField } from "@mui/material";

/** Several values by name. */
export function ValueList({
  label,
  help,
  value,
  known,
  disabled,
  change,
}: {
  label: string;
  help: string;
  value: string[];
  known: string[];
  disabled: boolean;
  change: (names: string[]) => void;
}) {
  return (
    <Autocomplete
      multiple
      size="small"
      disabled={disabled}
      options={known}
      value={value}
      onChange={(_, names) => change(names)}
      renderInput={(params) => <TextField {...params} label={label} helperText={help} />}
    />
  );
}
