import { MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import { mailboxes, plainFlows, queues } from "../../api/resources";
import type { OwnProps } from "../shared/fields";
import { ThingPicker } from "../shared/ThingPicker";

const kinds = { mailbox: "A message is left", queue: "Another queue", flow: "Another flow" };
type Kind = keyof typeof kinds | "";

/** Where callers go whom a queue lets go by one of its ways: a reference, or what counts without one. */
function Destination({ label, none, value, error, disabled, change }: OwnProps & { label: string; none: string }) {
  const [kind, id = ""] = (typeof value === "string" ? value : "").split(":") as [Kind, string?];
  const [begun, setBegun] = useState<Kind | null>(null);
  const shown = kind || begun || "";
  const picker = {
    creates: true,
    disabled,
    value: id || null,
    choose: (chosen: string | null) => {
      change(chosen ? `${shown}:${chosen}` : "");
    },
    field: { label: shown ? kinds[shown] : "", error: Boolean(error), helperText: error },
  };
  return (
    <div style={{ display: "grid", gridTemplateColumns: shown ? "1fr 1fr" : "1fr", gap: 8 }}>
      <TextField
        select
        label={label}
        value={shown}
        disabled={disabled}
        slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
        onChange={(event) => {
          setBegun(event.target.value as Kind);
          change("");
        }}>
        <MenuItem value="">{none}</MenuItem>
        {Object.entries(kinds).map(([name, label]) => (
          <MenuItem key={name} value={name}>
            {label}
          </MenuItem>
        ))}
      </TextField>
      {shown === "mailbox" && <ThingPicker resource={mailboxes} nameOf={(one) => one.name} {...picker} />}
      {shown === "queue" && <ThingPicker resource={queues} nameOf={(one) => one.name} {...picker} />}
      {shown === "flow" && <ThingPicker resource={plainFlows} nameOf={(one) => one.name} {...picker} />}
    </div>
  );
}

export function WaitedField(props: OwnProps) {
  return <Destination {...props} label="After the longest wait" none="The flow goes on" />;
}

export function NobodyField(props: OwnProps) {
  return <Destination {...props} label="While nobody is signed in" none="As after the longest wait" />;
}

export function ClosedField(props: OwnProps) {
  return <Destination {...props} label="While it is closed" none="As after the longest wait" />;
}
