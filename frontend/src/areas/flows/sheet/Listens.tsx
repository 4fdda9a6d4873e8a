import { Checkbox, FormControlLabel } from "@mui/material";

/** Whether a stop understands words beside keys. */
export function Listens({
  step,
  disabled,
  change,
}: {
  step: { listens: boolean };
  disabled: boolean;
  change: (listens: boolean) => void;
}) {
  return (
    <FormControlLabel
      label="listens for words too"
      slotProps={{ typography: { sx: { fontSize: 13 } } }}
      control={
        <Checkbox size="small" checked={step.listens} disabled={disabled} onChange={(_, listens) => change(listens)} />
      }
    />
  );
}
