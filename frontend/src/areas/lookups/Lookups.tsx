import { Button, MenuItem, TextField } from "@mui/material";
import { useNavigate } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { lookups } from "../../api/resources";
import type { OwnProps } from "../shared/fields";
import { ConfigListPage } from "../shared/ConfigListPage";
import { counted } from "../../frame/format";
import styles from "./lookups.module.css";
import { choices } from "../shared/choices";

type Column = Schemas["Column"];

const types = choices<Column["type"]>({
  text: "text",
  number: "whole number",
  yes_no: "yes or no",
  date: "date",
  queue: "a queue, by name",
  agent: "a person, by name or extension",
  mailbox: "a mailbox, by name",
  hours: "opening hours, by name",
  sound: "a sound, by name",
  flow: "a flow, by name",
});
export const typeName = (type: Column["type"]) => types.find((t) => t.value === type)?.label ?? type;

/** The columns of a table, the key first. */
export function ColumnsField({ value, error, disabled, change }: OwnProps) {
  const columns = (value as Column[] | undefined) ?? [];
  const set = (at: number, changed: Partial<Column>) => {
    change(columns.map((column, i) => (i === at ? { ...column, ...changed } : column)));
  };
  return (
    <section aria-label="Columns" className="stack">
      <h2>Columns</h2>
      {columns.map((column, i) => (
        <div key={i} className={styles.column}>
          <TextField
            label={i === 0 ? "Key" : `Column ${i + 1}`}
            value={column.name}
            disabled={disabled}
            onChange={(event) => set(i, { name: event.target.value })}
          />
          <TextField
            select
            label="Holds"
            value={column.type}
            disabled={disabled}
            onChange={(event) => set(i, { type: event.target.value as Column["type"] })}>
            {types.map((type) => (
              <MenuItem key={type.value} value={type.value}>
                {type.label}
              </MenuItem>
            ))}
          </TextField>
          {i > 0 && !disabled && (
            <Button
              sx={{ minWidth: 0 }}
              aria-label={`Remove column ${i + 1}`}
              onClick={() => change(columns.filter((_, n) => n !== i))}>
              ✕
            </Button>
          )}
        </div>
      ))}
      {error && (
        <div role="alert" className="wrong">
          {error}
        </div>
      )}
      {!disabled && (
        <div>
          <Button variant="outlined" onClick={() => change([...columns, { name: "", type: "text" }])}>
            Add a column
          </Button>
        </div>
      )}
    </section>
  );
}

/** Every lookup table. */
export default function Lookups() {
  const navigate = useNavigate();
  return (
    <ConfigListPage<Schemas["Table"]>
      resource={lookups}
      area="lookups"
      base="/guide/lookups"
      title="Lookup tables"
      noun="lookup table"
      titleOf={(table) => table.name}
      sort={[{ field: "name", sort: "asc" }]}
      open={(id) => void navigate(`/guide/lookups/${id}`)}
      initial={{ columns: [{ name: "Booking", type: "text" }] }}
      empty="A lookup table holds rows that flows look up by a key: bookings, sailings, customers. Fill it from a CSV file or by hand."
      columns={[
        { field: "name", headerName: "Name", flex: 1, minWidth: 160 },
        {
          field: "columns",
          headerName: "Columns",
          flex: 2,
          minWidth: 200,
          sortable: false,
          valueGetter: (_, row) => row.columns.map((column) => column.name).join(", "),
        },
        {
          field: "row_count",
          headerName: "Rows",
          width: 110,
          align: "right",
          headerAlign: "right",
          valueFormatter: (value: number) => counted(value),
        },
      ]}
      fields={[
        { kind: "text", name: "name", label: "Name", required: true },
        { kind: "own", name: "columns", label: "Columns", Input: ColumnsField },
      ]}
    />
  );
}
