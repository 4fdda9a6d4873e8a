import { InputBase } from "@mui/material";

interface Props {
  /** What it is called by those who hear it. */
  label: string;
  placeholder: string;
  value: string;
  width: number;
  change: (value: string) => void;
}

/** What is typed finds rows of the list beneath it. */
export function FindBox({ label, placeholder, value, width, change }: Props) {
  return (
    <InputBase
      placeholder={placeholder}
      value={value}
      onChange={(event) => change(event.target.value)}
      inputProps={{ "aria-label": label }}
      sx={{ px: 1, background: "var(--sheet)", border: "1px solid var(--edge)", borderRadius: 1, height: 28, width }}
    />
  );
}
