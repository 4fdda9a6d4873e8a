import { IconButton, TextField } from "@mui/material";
import type { ReactNode } from "react";
import { lengths } from "../../../api/lengths";
import { CopyArm } from "./CopyMenu";
import styles from "./sheet.module.css";
import type { StepProps } from "./stepProps";
import { TargetPicker } from "./TargetPicker";

interface Way {
  id: string;
  label: string;
  next: string | null;
}

interface Props extends Pick<StepProps<{ id: string }>, "step" | "stops" | "kinds" | "disabled" | "lead" | "copyArm"> {
  way: Way;
  /** Which of the fork's ways it is, from 1. */
  number: number;
  rename: (label: string) => void;
  remove: () => void;
  /** When it is taken. */
  children: ReactNode;
}

/** One way of a fork: its name, when it is taken, and where it leads. */
export function WayBox({ step, stops, kinds, disabled, lead, copyArm, way, number, rename, remove, children }: Props) {
  return (
    <div role="group" aria-label={`Way ${number}`} className={styles.way}>
      <div className="beside">
        <TextField
          label={`Way ${number}: name`}
          value={way.label}
          disabled={disabled}
          slotProps={{ htmlInput: { maxLength: lengths.DefinitionForkArm.label } }}
          onChange={(event) => rename(event.target.value)}
        />
        <CopyArm name={`way ${number}`} disabled={disabled} copy={() => copyArm(`arm:${way.id}`)} />
        <IconButton size="small" disabled={disabled} aria-label={`Remove way ${number}`} onClick={remove}>
          ✕
        </IconButton>
      </div>
      {children}
      <TargetPicker
        label="Leads to"
        value={way.next}
        own={step.id}
        stops={stops}
        kinds={kinds}
        disabled={disabled}
        choose={(choice) => lead(`arm:${way.id}`, choice)}
      />
    </div>
  );
}
