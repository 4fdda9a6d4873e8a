import { Checkbox, FormControlLabel, InputAdornment, MenuItem, TextField } from "@mui/material";
import { wallClock, zonedIso } from "../../frame/format";
import { useSession } from "../../frame/session";
import type { Values } from "../../api/resources";
import type { Field } from "./fields";
import { MomentBox } from "./MomentBox";
import { ThingPicker, ThingsPicker } from "./ThingPicker";
import styles from "./shared.module.css";

interface Props {
  field: Field;
  value: unknown;
  error?: string;
  disabled: boolean;
  change: (value: unknown) => void;
  /** Everything in the form, for fields that depend on others. */
  values?: Values;
}

type Common = Pick<Props, "value" | "disabled" | "change"> & {
  label: string;
  error: boolean;
  helperText?: string;
  required?: boolean;
};

function NumberInput({ field, ...p }: Common & { field: Extract<Field, { kind: "number" }> }) {
  const { value, change, ...rest } = p;
  const none = value === null;
  return (
    <div className={styles.pair}>
      <TextField
        {...rest}
        type="number"
        disabled={p.disabled || none}
        value={none ? "" : ((value as number | string | undefined) ?? "")}
        onChange={(event) => change(event.target.value === "" ? "" : Number(event.target.value))}
        slotProps={{ input: { endAdornment: <InputAdornment position="end">{field.unit}</InputAdornment> } }}
        sx={{ maxWidth: 190 }}
      />
      {field.nullable && (
        <FormControlLabel
          control={
            <Checkbox size="small" checked={none} disabled={p.disabled} onChange={(_, on) => change(on ? null : 900)} />
          }
          label={field.nullable}
        />
      )}
    </div>
  );
}

function Picker({ field, ...p }: Common & { field: Extract<Field, { kind: "one" | "many" }> }) {
  const { value, change, disabled, label, error, helperText, required } = p;
  const shared = {
    resource: field.from,
    nameOf: field.labelOf,
    disabled,
    field: { label, error, helperText, required, placeholder: field.none },
  };
  if (field.kind === "many")
    return <ThingsPicker {...shared} value={(value as string[] | undefined) ?? []} choose={change} />;
  return <ThingPicker creates {...shared} value={(value as string | null | undefined) ?? null} choose={change} />;
}

/** A date and time in the centre's zone, or none. */
function MomentInput({
  value,
  change,
  ...rest
}: Omit<Common, "value" | "change"> & { value: unknown; change: (value: unknown) => void }) {
  const { session } = useSession();
  const shown = typeof value === "string" && value ? wallClock(value, session.time_zone) : "";
  return (
    <MomentBox {...rest} value={shown} change={(typed) => change(typed ? zonedIso(typed, session.time_zone) : null)} />
  );
}

/** A chosen option by its name alone, where it has one beside its words. */
function named(options: Extract<Field, { kind: "choice" }>["options"], chosen: string): string {
  const option = options.find((one) => one.value === chosen);
  return option?.name ?? option?.label ?? "";
}

/** One field, whatever its kind. */
export function FieldInput({ field, value, error, disabled, change, values = {} }: Props) {
  if (field.when && !field.when(values)) return null;
  const plain = {
    label: field.label,
    value,
    disabled,
    error: Boolean(error),
    helperText: error ?? field.help,
    required: field.required,
  };
  const common: Common = { ...plain, change };
  const text = typeof value === "string" ? value : "";
  switch (field.kind) {
    case "number":
      return <NumberInput field={field} {...common} />;
    case "one":
    case "many":
      return <Picker field={field} {...common} />;
    case "choice":
      return (
        <TextField
          {...plain}
          select
          value={text}
          slotProps={{ select: { renderValue: (chosen) => named(field.options, String(chosen)) } }}
          onChange={(event) => change(event.target.value)}>
          {field.options.map((option) => (
            <MenuItem key={option.value} value={option.value}>
              {option.label}
            </MenuItem>
          ))}
        </TextField>
      );
    case "own":
      return <field.Input value={value} error={error} disabled={disabled} change={change} values={values} />;
    case "list":
      return (
        <TextField
          {...plain}
          multiline
          minRows={3}
          value={((value as string[] | undefined) ?? []).join("\n")}
          onChange={(event) => change(event.target.value.split("\n"))}
        />
      );
    case "area":
      return (
        <TextField {...plain} multiline minRows={3} value={text} onChange={(event) => change(event.target.value)} />
      );
    case "moment":
      return <MomentInput {...plain} change={change} />;
    case "yes":
      return (
        <FormControlLabel
          label={field.label}
          control={
            <Checkbox size="small" checked={Boolean(value)} disabled={disabled} onChange={(_, on) => change(on)} />
          }
        />
      );
    case "colour":
      return (
        <TextField
          {...plain}
          type="color"
          value={text || "#4a6b66"}
          sx={{ maxWidth: 120 }}
          onChange={(event) => change(event.target.value)}
        />
      );
    default:
      return (
        <TextField
          {...plain}
          value={text}
          onChange={(event) => change(event.target.value)}
          type={field.kind === "password" ? "password" : "text"}
          autoComplete={field.kind === "password" ? "new-password" : "off"}
        />
      );
  }
}
