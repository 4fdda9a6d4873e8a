import { Checkbox, FormControlLabel } from "@mui/material";
import type { OwnProps } from "../shared/fields";

const channels = [
  ["voice", "Calls"],
  ["text", "Text messages"],
] as const;

/** Which channels a queue takes; at least one. */
export function ChannelsField({ value, error, disabled, change }: OwnProps) {
  const taken = (value ?? ["voice", "text"]) as string[];
  return (
    <div role="group" aria-label="Takes" className="close">
      <span className="fine">Takes</span>
      {channels.map(([name, label]) => (
        <FormControlLabel
          key={name}
          label={label}
          control={
            <Checkbox
              size="small"
              checked={taken.includes(name)}
              disabled={disabled || (taken.length === 1 && taken.includes(name))}
              onChange={(_, on) => change(on ? [...taken, name] : taken.filter((one) => one !== name))}
            />
          }
        />
      ))}
      {error && (
        <div role="alert" className="wrong">
          {error}
        </div>
      )}
    </div>
  );
}
