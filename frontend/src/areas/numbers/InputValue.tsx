import { Checkbox, FormControlLabel, MenuItem, TextField } from "@mui/material";
import type { Schemas } from "../../api/client";
import { hours, type Named, mailboxes, queues, type Resource, sounds } from "../../api/resources";
import { ThingPicker } from "../shared/ThingPicker";

export type FlowInput = Schemas["Input"];

const things: Partial<Record<FlowInput["type"], Resource<Named>>> = {
  queue: queues,
  hours: hours,
  sound: sounds,
  mailbox: mailboxes,
};

/** What each type of value is called. */
export const typeWords: Record<FlowInput["type"], string> = {
  queue: "a queue",
  hours: "opening hours",
  sound: "a sound",
  mailbox: "a mailbox",
  yes_no: "yes or no",
  text: "a text",
  number: "a whole number",
  duration: "a time in seconds",
};

interface Props {
  type: FlowInput["type"];
  label: string;
  value: unknown;
  /** What counts where nothing is given. */
  fallback: string;
  disabled: boolean;
  change: (value: unknown) => void;
}

/** One typed value: of a number for a flow's input, or an input's default. */
export function InputValue({ type, label, value, fallback, disabled, change }: Props) {
  const resource = things[type];
  const help = value === null || value === undefined ? fallback : undefined;
  if (resource) {
    const id = typeof value === "string" ? (value.split(":")[1] ?? null) : null;
    return (
      <ThingPicker
        resource={resource}
        nameOf={(item) => item.name}
        disabled={disabled}
        field={{ label, helperText: help }}
        value={id}
        choose={(chosen) => change(chosen ? `${type}:${chosen}` : null)}
      />
    );
  }
  if (type === "yes_no")
    return (
      <TextField
        select
        label={label}
        disabled={disabled}
        helperText={help}
        value={value === true ? "yes" : value === false ? "no" : ""}
        onChange={(event) => change(event.target.value === "" ? null : event.target.value === "yes")}>
        <MenuItem value="">not given</MenuItem>
        <MenuItem value="yes">yes</MenuItem>
        <MenuItem value="no">no</MenuItem>
      </TextField>
    );
  const number = type === "number" || type === "duration";
  return (
    <TextField
      label={label}
      disabled={disabled}
      helperText={help}
      type={number ? "number" : "text"}
      value={(value as string | number | null | undefined) ?? ""}
      onChange={(event) => {
        const typed = event.target.value;
        change(typed === "" ? null : number ? Math.round(Number(typed)) : typed);
      }}
    />
  );
}

interface ValuesProps {
  inputs: FlowInput[];
  values: Record<string, unknown>;
  disabled: boolean;
  change: (values: Record<string, unknown>) => void;
}

function shownDefault(input: FlowInput): string {
  const given = input.default;
  if (given === null || given === undefined) return "Nothing given, and the flow has no default.";
  return typeof given === "string" && given.includes(":") && things[input.type]
    ? "The flow’s default counts."
    : `The flow’s default counts: ${String(given)}`;
}

/** Values for all inputs of a flow; what is left open falls back to the flow's default. */
export function InputValues({ inputs, values, disabled, change }: ValuesProps) {
  const set = (name: string, value: unknown) => {
    const rest = Object.fromEntries(Object.entries(values).filter(([other]) => other !== name));
    change(value === null ? rest : { ...rest, [name]: value });
  };
  const known = new Set(inputs.map((input) => input.name));
  const stray = Object.keys(values).filter((name) => !known.has(name));
  return (
    <>
      {inputs.map((input) => (
        <InputValue
          key={input.name}
          type={input.type}
          label={input.label || input.name}
          value={values[input.name]}
          fallback={shownDefault(input)}
          disabled={disabled}
          change={(value) => set(input.name, value)}
        />
      ))}
      {stray.map((name) => (
        <FormControlLabel
          key={name}
          control={<Checkbox size="small" checked onChange={() => set(name, null)} disabled={disabled} />}
          label={`${name}: the flow takes no such value; clear it`}
        />
      ))}
    </>
  );
}
