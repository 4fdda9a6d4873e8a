import { Autocomplete, Checkbox, FormControlLabel, InputAdornment, MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { keys } from "../../api/keys";
import type { Field } from "./fields";

interface Props {
  field: Field;
  value: unknown;
  error?: string;
  disabled: boolean;
  change: (value: unknown) => void;
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
    <div style={{ display: "flex", gap: 12, alignItems: "flex-start" }}>
      <TextField
        {...rest}
        type="number"
        disabled={p.disabled || none}
        value={none ? "" : ((value as number | string | undefined) ?? "")}
        onChange={(event) => { change(event.target.value === "" ? "" : Number(event.target.value)); }}
        slotProps={{ input: { endAdornment: <InputAdornment position="end">{field.unit}</InputAdornment> } }}
        sx={{ maxWidth: 190 }}
      />
      {field.nullable && (
        <FormControlLabel
          control={<Checkbox size="small" checked={none} disabled={p.disabled} onChange={(_, on) => { change(on ? null : 900); }} />}
          label={field.nullable}
        />
      )}
    </div>
  );
}

function Picker({ field, ...p }: Common & { field: Extract<Field, { kind: "one" | "many" }> }) {
  const { value, change, disabled, ...rest } = p;
  const query = { page_size: 500 };
  const list = useQuery({ queryKey: keys.list(field.from.what, query), queryFn: () => field.from.list(query) });
  const items = list.data?.results ?? [];
  const byId = new Map(items.map((item) => [item.id, item]));
  const labelOf = (id: string) => {
    const item = byId.get(id);
    return item ? field.labelOf(item) : "…";
  };
  const shared = { options: items.map((item) => item.id), getOptionLabel: labelOf, loading: list.isPending, disabled };
  if (field.kind === "many")
    return (
      <Autocomplete
        {...shared}
        multiple
        disableCloseOnSelect
        size="small"
        value={(value as string[] | undefined) ?? []}
        onChange={(_, ids) => { change(ids); }}
        renderInput={(params) => <TextField {...params} {...rest} />}
      />
    );
  return (
    <Autocomplete
      {...shared}
      size="small"
      value={(value as string | null | undefined) ?? null}
      onChange={(_, id) => { change(id); }}
      renderInput={(params) => <TextField {...params} {...rest} placeholder={field.none} />}
    />
  );
}

/** One field, whatever its kind. */
export function FieldInput({ field, value, error, disabled, change }: Props) {
  const plain = { label: field.label, value, disabled, error: Boolean(error), helperText: error ?? field.help, required: field.required };
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
        <TextField {...plain} select value={text} onChange={(event) => { change(event.target.value); }}>
          {field.options.map((option) => (
            <MenuItem key={option.value} value={option.value}>{option.label}</MenuItem>
          ))}
        </TextField>
      );
    case "own":
      return <field.Input value={value} error={error} disabled={disabled} change={change} />;
    case "list":
      return (
        <TextField {...plain} multiline minRows={3}
          value={((value as string[] | undefined) ?? []).join("\n")}
          onChange={(event) => { change(event.target.value.split("\n")); }} />
      );
    case "area":
      return <TextField {...plain} multiline minRows={3} value={text} onChange={(event) => { change(event.target.value); }} />;
    case "colour":
      return <TextField {...plain} type="color" value={text || "#4a6b66"} sx={{ maxWidth: 120 }} onChange={(event) => { change(event.target.value); }} />;
    default:
      return (
        <TextField {...plain} value={text} onChange={(event) => { change(event.target.value); }}
          type={field.kind === "password" ? "password" : "text"}
          autoComplete={field.kind === "password" ? "new-password" : "off"} />
      );
  }
}
