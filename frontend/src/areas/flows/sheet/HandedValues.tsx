import { Button, IconButton, MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import type { Step } from "../../../api/client";
import { keys } from "../../../api/keys";
import { flows, lookups } from "../../../api/resources";
import { InputValue } from "../../numbers/InputValue";
import type { StepProps } from "./stepProps";
import { ValueField } from "./ValueField";
import styles from "./sheet.module.css";

type Lookup = Extract<Step, { kind: "lookup" }>;
type Block = Extract<Step, { kind: "block" }>;

interface RowsProps {
  title: string;
  from: string;
  options: string[];
  rows: { from: string; into: string }[];
  known: string[];
  disabled: boolean;
  change: (rows: { from: string; into: string }[], typing: boolean) => void;
}

/** Something that comes back, and the value that it goes into. */
function Rows({ title, from, options, rows, known, disabled, change }: RowsProps) {
  const set = (at: number, changed: object, typing: boolean) => {
    change(
      rows.map((row, i) => (i === at ? { ...row, ...changed } : row)),
      typing,
    );
  };
  return (
    <section aria-label={title} className="stack">
      <h2>{title}</h2>
      {rows.map((row, i) => (
        <div key={i} className={styles.handed}>
          <TextField
            select
            label={from}
            value={options.includes(row.from) ? row.from : ""}
            disabled={disabled}
            onChange={(event) => set(i, { from: event.target.value }, false)}>
            {options.map((option) => (
              <MenuItem key={option} value={option}>
                {option}
              </MenuItem>
            ))}
          </TextField>
          <ValueField
            label="Into"
            value={row.into}
            known={known}
            disabled={disabled}
            change={(into) => set(i, { into: into ?? "value" }, true)}
          />
          <IconButton
            size="small"
            disabled={disabled}
            aria-label={`Remove ${row.from || "row"}`}
            onClick={() =>
              change(
                rows.filter((_, n) => n !== i),
                false,
              )
            }>
            ✕
          </IconButton>
        </div>
      ))}
      {!disabled && options.length > 0 && (
        <div>
          <Button
            variant="outlined"
            onClick={() => {
              const next = options.find((option) => !rows.some((row) => row.from === option)) ?? options[0] ?? "";
              change([...rows, { from: next, into: next.toLowerCase().replace(/[^a-z0-9_]/g, "_") }], false);
            }}>
            Take one more
          </Button>
        </div>
      )}
    </section>
  );
}

/** The cells of a looked-up row, and the values that they go into. */
export function Cells({ step, label, known, disabled, change }: StepProps<Lookup> & { label: string }) {
  const id = step.table?.split(":")[1] ?? "";
  const table = useQuery({ queryKey: keys.one("lookups", id), queryFn: () => lookups.get(id), enabled: id !== "" });
  const columns = table.data?.columns.map((column) => column.name) ?? [];
  return (
    <Rows
      title={label}
      from="Column"
      options={columns}
      rows={step.take.map((row) => ({ from: row.column, into: row.into }))}
      known={known}
      disabled={disabled}
      change={(rows, typing) =>
        change(
          { ...step, take: rows.map((row) => ({ column: row.from, into: row.into })) },
          typing ? `${step.id} take` : "",
        )
      }
    />
  );
}

/** What goes into a shared block, what comes back, and which version it is. */
export function BlockValues({ step, known, disabled, change }: StepProps<Block>) {
  const id = step.flow?.split(":")[1] ?? "";
  const block = useQuery({ queryKey: keys.one("flows", id), queryFn: () => flows.get(id), enabled: id !== "" });
  const inputs = block.data?.inputs ?? [];
  const give = (
    input: string,
    row: { to?: Block["give"][number]["to"]; copy_of?: string | null } | null,
    typing: boolean,
  ) => {
    const others = step.give.filter((given) => given.input !== input);
    const rows = row ? [...others, { input, to: row.to ?? null, copy_of: row.copy_of ?? null }] : others;
    change({ ...step, give: rows }, typing ? `${step.id} ${input}` : "");
  };
  const force = block.data?.in_force?.number ?? 0;
  return (
    <>
      {id !== "" && (
        <TextField
          select
          label="Version"
          value={step.version ?? 0}
          disabled={disabled}
          onChange={(event) => change({ ...step, version: Number(event.target.value) || null })}>
          <MenuItem value={0}>as it is in force{force ? ` (${force} now)` : ""}</MenuItem>
          {Array.from({ length: force }, (_, i) => (
            <MenuItem key={i + 1} value={i + 1}>
              always version {i + 1}
            </MenuItem>
          ))}
        </TextField>
      )}
      {inputs.length > 0 && <h2>Goes in</h2>}
      {inputs.map((input) => {
        const given = step.give.find((row) => row.input === input.name);
        return (
          <div key={input.name} className="stack">
            <InputValue
              type={input.type}
              label={input.label || input.name}
              value={given?.to}
              fallback={given?.copy_of ? "" : "The block’s default counts."}
              disabled={disabled || Boolean(given?.copy_of)}
              change={(to) => give(input.name, to === null ? null : { to: to as string | number | boolean }, true)}
            />
            <ValueField
              label={`${input.label || input.name}: as this value`}
              value={given?.copy_of ?? null}
              known={known}
              disabled={disabled}
              change={(copyOf) => give(input.name, copyOf ? { copy_of: copyOf } : null, true)}
            />
          </div>
        );
      })}
      <Rows
        title="Comes back"
        from="Output"
        options={(block.data?.draft as { outputs?: string[] } | undefined)?.outputs ?? []}
        rows={step.take.map((row) => ({ from: row.output, into: row.into }))}
        known={known}
        disabled={disabled}
        change={(rows, typing) =>
          change(
            { ...step, take: rows.map((row) => ({ output: row.from, into: row.into })) },
            typing ? `${step.id} take` : "",
          )
        }
      />
    </>
  );
}
