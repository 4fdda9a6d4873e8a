import { MenuItem, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../../../api/client";
import { keys } from "../../../api/keys";
import { lookups } from "../../../api/resources";

type Row = Record<string, unknown>;
type Column = Schemas["Column"];

/** A typed cell as its column holds it; what does not fit stays text. */
function cell(column: Column, typed: string): unknown {
  if (column.type === "number" && /^-?\d+$/.test(typed.trim())) return Number(typed);
  if (column.type === "yes_no" && /^(yes|no)$/i.test(typed.trim())) return typed.trim().toLowerCase() === "yes";
  return typed;
}

const shown = (value: unknown) => (value === true ? "yes" : value === false ? "no" : typeof value === "string" || typeof value === "number" ? String(value) : "");

interface Props {
  table: string;
  name: string;
  /** The row that is made up; null for none, undefined for what really stands in the table. */
  row: Row | null | undefined;
  set: (row: Row | null | undefined) => void;
}

/** What a lookup finds in a trial: what is there, nothing, or a row that is made up. */
export function PretendRow({ table, name, row, set }: Props) {
  const id = table.slice("table:".length);
  const known = useQuery({ queryKey: keys.one("lookups", id), queryFn: () => lookups.get(id) });
  const columns = (known.data?.columns ?? []).slice(1);
  const how = row === undefined ? "" : row === null ? "none" : "row";
  return (
    <>
      <TextField select label={`Looked up: ${name}`} value={how} onChange={(event) => { set(event.target.value === "" ? undefined : event.target.value === "none" ? null : {}); }}>
        <MenuItem value="">as it really stands there</MenuItem><MenuItem value="none">no such row</MenuItem><MenuItem value="row">this row…</MenuItem>
      </TextField>
      {row && columns.map((column) => (
        <TextField key={column.name} label={column.name} value={shown(row[column.name])} sx={{ ml: 2 }} helperText={column.type === "yes_no" ? "yes or no" : undefined}
          onChange={(event) => { set({ ...row, [column.name]: cell(column, event.target.value) }); }} />
      ))}
    </>
  );
}
