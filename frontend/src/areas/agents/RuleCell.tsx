import { Autocomplete, MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data } from "../../api/client";
import { keys } from "../../api/keys";
import { type Layer, rules, type Setting } from "./rules";
import { chosenOf } from "../shared/chosen";

export interface Target {
  to: string;
  name: string;
  extension: string;
}

/** Everybody and every queue that a rule can name. */
export function useTargets(): Target[] {
  const found = useQuery({
    queryKey: keys.of("desk-targets", ""),
    queryFn: () => data(api.GET("/api/v1/desk/targets", { params: { query: {} } })),
    retry: false,
  });
  return found.data ?? [];
}

interface Props {
  setting: Setting;
  layer: Layer;
  disabled: boolean;
  targets: Target[];
  reasons: string[];
  set: (value: unknown) => void;
}

const width = { minWidth: 150, maxWidth: 220 };

function TargetCell({
  value,
  label,
  layer,
  disabled,
  targets,
  set,
}: Omit<Props, "setting" | "reasons"> & { value: string | null; label: string }) {
  const shown = targets.find((one) => one.to === value)?.name ?? value ?? "";
  return (
    <Autocomplete
      freeSolo
      selectOnFocus
      clearOnBlur
      disabled={disabled}
      size="small"
      sx={{ width: 210 }}
      value={shown}
      options={targets}
      getOptionLabel={(one) =>
        typeof one === "string" ? one : `${one.name}${one.extension ? ` ${one.extension}` : ""}`
      }
      onChange={(_, chosen) =>
        set(
          chosen === null || chosen === ""
            ? layer === "centre"
              ? ""
              : null
            : typeof chosen === "string"
              ? chosen
              : chosen.to,
        )
      }
      renderInput={(params) => (
        <TextField
          {...params}
          placeholder={layer === "centre" ? "nobody" : "inherited"}
          slotProps={{ ...params.slotProps, htmlInput: { ...params.slotProps.htmlInput, "aria-label": label } }}
        />
      )}
    />
  );
}

function ReasonsCell({
  value,
  label,
  layer,
  disabled,
  reasons,
  set,
}: Omit<Props, "setting" | "targets"> & { value: string[] | null; label: string }) {
  return (
    <TextField
      select
      size="small"
      value={value ?? []}
      disabled={disabled}
      sx={width}
      slotProps={{
        htmlInput: { "aria-label": label },
        select: {
          multiple: true,
          displayEmpty: true,
          renderValue: (chosen) =>
            (chosen as string[]).length ? (
              (chosen as string[]).join(", ")
            ) : (
              <span className="dim">{value === null && layer !== "centre" ? "inherited" : "all of them"}</span>
            ),
        },
      }}
      onChange={(event) => {
        const chosen = chosenOf(event.target.value);
        set(chosen.length || layer === "centre" ? chosen : null);
      }}>
      {reasons.map((reason) => (
        <MenuItem key={reason} value={reason}>
          {reason}
        </MenuItem>
      ))}
    </TextField>
  );
}

function NumberCell({
  setting,
  layer,
  disabled,
  label,
  set,
}: Pick<Props, "setting" | "layer" | "disabled" | "set"> & { label: string }) {
  const value = setting[layer] as number | null;
  const [typed, setTyped] = useState<string | null>(null);
  const done = () => {
    if (typed === null) return;
    set(typed === "" ? null : Number(typed));
    setTyped(null);
  };
  return (
    <TextField
      size="small"
      type="number"
      value={typed ?? value ?? ""}
      placeholder={layer === "centre" ? "" : "inherited"}
      disabled={disabled}
      slotProps={{ htmlInput: { "aria-label": label, min: setting.least, max: setting.most } }}
      sx={{ width: 110 }}
      onChange={(event) => setTyped(event.target.value)}
      onBlur={done}
      onKeyDown={(event) => {
        if (event.key === "Enter") done();
      }}
    />
  );
}

/** What one layer sets: nothing, or a value of the rule's kind. */
export function RuleCell({ setting, layer, disabled, targets, reasons, set }: Props) {
  const value = setting[layer] as unknown;
  const label = `${rules[setting.name]?.label ?? setting.name}, ${layer}`;
  switch (setting.kind) {
    case "target":
      return (
        <TargetCell
          value={value as string | null}
          label={label}
          layer={layer}
          disabled={disabled}
          targets={targets}
          set={set}
        />
      );
    case "reasons":
      return (
        <ReasonsCell
          value={value as string[] | null}
          label={label}
          layer={layer}
          disabled={disabled}
          reasons={reasons}
          set={set}
        />
      );
    case "number":
      return <NumberCell setting={setting} layer={layer} disabled={disabled} label={label} set={set} />;
    default:
      return (
        <TextField
          select
          size="small"
          value={value ?? ""}
          disabled={disabled}
          slotProps={{ htmlInput: { "aria-label": label }, select: { displayEmpty: true } }}
          onChange={(event) => set(event.target.value || null)}
          sx={width}>
          {layer !== "centre" && (
            <MenuItem value="">
              <span className="dim">inherited</span>
            </MenuItem>
          )}
          {setting.choices.map((choice) => (
            <MenuItem key={choice} value={choice}>
              {rules[setting.name]?.choices?.[choice] ?? choice}
            </MenuItem>
          ))}
        </TextField>
      );
  }
}
