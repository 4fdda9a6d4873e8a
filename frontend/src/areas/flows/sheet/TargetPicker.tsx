import { Autocomplete, createFilterOptions, TextField } from "@mui/material";
import { useState } from "react";
import type { Stop } from "../../../api/client";
import { queues } from "../../../api/resources";
import { useThings } from "../../shared/ThingPicker";
import { useCreating } from "../../shared/useCreating";
import { kindWord, stepForms, type StepKind } from "../kinds";

/** Where an exit may lead: a stop that is there, a new one, or a queue (that need not exist yet). */
type Option =
  | { type: "stop"; id: string; label: string; group: string }
  | { type: "new"; kind: StepKind; label: string; group: string }
  | { type: "queue"; ref: string; label: string; group: string }
  | { type: "create"; name: string; label: string; group: string };

export type Choice = { to: string | null } | { make: StepKind; filled: object };

interface Props {
  label: string;
  value: string | null;
  own: string;
  stops: Stop[];
  /** What a new stop may be. */
  kinds: StepKind[];
  disabled: boolean;
  /** What counts where nothing is chosen. */
  empty?: string;
  /** In a row whose head says what it is. */
  bare?: boolean;
  choose: (choice: Choice) => void;
}

const filter = createFilterOptions<Option>({ stringify: (option) => option.label });

export function stopName(stop: Stop): string {
  return `${stop.title.split(" · ")[0] ?? stop.kind}: ${stop.name}`;
}

/** Where a way leads, in the line of a folded part. */
export function wayWords(label: string, to: string | null, empty: string | undefined, stops: Stop[]): string {
  const stop = stops.find((one) => one.id === to);
  return `${label.replace(/,? leads to$/, "")}: ${stop ? stopName(stop) : to === null ? (empty ?? "nowhere yet").toLowerCase() : "nowhere"}`;
}

/** Chooses where an exit leads; forward references are free. */
export function TargetPicker({
  label,
  value,
  own,
  stops,
  kinds,
  disabled,
  empty = "Leads nowhere yet",
  bare = false,
  choose,
}: Props) {
  const creating = useCreating(queues);
  const [text, setText] = useState("");
  const { found: list } = useThings(queues, value === null ? text : "", []);
  const [open, setOpen] = useState(false);
  const optionOf = (stop: Stop): Option => ({
    type: "stop",
    id: stop.id,
    label: stop.id === own ? `This stop again: ${stop.name}` : stopName(stop),
    group: "Stops",
  });
  const target = value === null ? undefined : stops.find((stop) => stop.id === value);
  const chosen = target ? optionOf(target) : null;
  // Several pickers stand in a sheet, and a flow may have hundreds of stops: a closed one lists nothing.
  const options: Option[] = !open
    ? chosen
      ? [chosen]
      : []
    : [
        ...stops.map(optionOf),
        ...kinds.map((kind): Option => ({
          type: "new",
          kind,
          label: `New stop: ${kindWord(kind)}`,
          group: `New stop · ${stepForms[kind].group}`,
        })),
        ...list.map((queue): Option => ({
          type: "queue",
          ref: `queue:${queue.id}`,
          label: `New stop: Queue ${queue.name}`,
          group: "New stop at a queue",
        })),
      ];
  const take = (option: Option | null) => {
    if (option === null) choose({ to: null });
    else if (option.type === "stop") choose({ to: option.id });
    else if (option.type === "new") choose({ make: option.kind, filled: {} });
    else if (option.type === "queue") choose({ make: "queue", filled: { queue: option.ref } });
    else
      creating.make(option.name, (id) => {
        choose({ make: "queue", filled: { queue: `queue:${id}` } });
      });
  };
  return (
    <Autocomplete
      size="small"
      forcePopupIcon={bare ? false : "auto"}
      disabled={disabled || creating.pending}
      options={options}
      onOpen={() => setOpen(true)}
      onClose={() => setOpen(false)}
      value={chosen}
      inputValue={text}
      onInputChange={(_, typed) => setText(typed)}
      groupBy={(option) => option.group}
      isOptionEqualToValue={(a, b) => a.type === "stop" && b.type === "stop" && a.id === b.id}
      filterOptions={(all, state) => {
        const found = filter(all, state);
        const label = creating.offered(state.inputValue, [...list.map((queue) => queue.name), chosen?.label ?? ""]);
        if (label) found.push({ type: "create", name: state.inputValue, label, group: "New stop at a queue" });
        return found;
      }}
      onChange={(_, option) => take(option)}
      renderInput={(params) => (
        <TextField
          {...params}
          {...(bare
            ? { slotProps: { ...params.slotProps, htmlInput: { ...params.slotProps.htmlInput, "aria-label": label } } }
            : { label })}
          placeholder={empty}
          error={value !== null && chosen === null && stops.length > 0}
          helperText={value !== null && chosen === null && stops.length > 0 ? "This stop does not exist." : undefined}
        />
      )}
    />
  );
}
