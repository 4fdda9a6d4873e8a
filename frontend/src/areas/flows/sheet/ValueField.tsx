import { Autocomplete, TextField } from "@mui/material";
import { valueName } from "../flowValues";

interface Props {
  label: string;
  value: string | null;
  known: string[];
  help?: string;
  disabled: boolean;
  /** Within a sentence, which says what it is. */
  bare?: boolean;
  change: (name: string | null) => void;
}

/** The name of a value: one that is known, or (where it is set here) a new one. */
export function ValueField({ label, value, known, help, disabled, bare = false, change }: Props) {
  return (
    <Autocomplete
      freeSolo
      disableClearable={bare}
      size="small"
      disabled={disabled}
      options={known}
      value={value ?? ""}
      inputValue={value ?? ""}
      onInputChange={(_, typed, why) => {
        if (why !== "reset" || typed) change(valueName(typed) || null);
      }}
      renderInput={(params) => (
        <TextField
          {...params}
          {...(bare
            ? { slotProps: { ...params.slotProps, htmlInput: { ...params.slotProps.htmlInput, "aria-label": label } } }
            : { label })}
          helperText={help}
        />
      )}
    />
  );
}
