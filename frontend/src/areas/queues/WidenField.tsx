import { Button, IconButton, InputAdornment, TextField } from "@mui/material";
import { teams } from "../../api/resources";
import type { OwnProps } from "../shared/fields";
import { ThingsPicker } from "../shared/ThingPicker";
import styles from "./queues.module.css";

/** Figures stay as they were typed: the server says what is wrong with one that is none. */
interface Step {
  after_s: number | string;
  lower: number | string;
  teams: string[];
}

const unit = (words: string) => ({ input: { endAdornment: <InputAdornment position="end">{words}</InputAdornment> } });
const typed = (text: string) => (text === "" ? "" : Number(text));

/** How a queue widens for somebody who waits: lower levels, other teams. */
export function WidenField({ value, error, disabled, change }: OwnProps) {
  const steps = (value ?? []) as Step[];
  const set = (at: number, changed: Partial<Step>) => {
    change(steps.map((step, i) => (i === at ? { ...step, ...changed } : step)));
  };
  return (
    <div role="group" aria-label="Look further after" className="stack">
      <span className="caption">Look further, while somebody waits</span>
      {steps.map((step, at) => (
        <div key={at} className={styles.widening}>
          <TextField
            label="After"
            type="number"
            value={step.after_s}
            disabled={disabled}
            slotProps={unit("s")}
            onChange={(event) => set(at, { after_s: typed(event.target.value) })}
          />
          <TextField
            label="Levels lower by"
            type="number"
            value={step.lower}
            disabled={disabled}
            slotProps={unit("of 10; adds up")}
            onChange={(event) => set(at, { lower: typed(event.target.value) })}
          />
          <IconButton
            size="small"
            disabled={disabled}
            aria-label="Remove this step"
            onClick={() => change(steps.filter((_, i) => i !== at))}>
            ✕
          </IconButton>
          <div className="across">
            <ThingsPicker
              resource={teams}
              nameOf={(team) => team.name}
              disabled={disabled}
              field={{ label: "Lets in these teams too" }}
              value={step.teams}
              choose={(ids) => set(at, { teams: ids })}
            />
          </div>
        </div>
      ))}
      {!disabled && (
        <div>
          <Button
            variant="outlined"
            onClick={() =>
              change([...steps, { after_s: Number(steps[steps.length - 1]?.after_s ?? 0) + 60, lower: 0, teams: [] }])
            }>
            Add a step
          </Button>
        </div>
      )}
      {error && (
        <div role="alert" className="wrong">
          {error}
        </div>
      )}
    </div>
  );
}
