import { TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { keys } from "../../../api/keys";
import { lookups } from "../../../api/resources";
import { Ways } from "./Ways";

type Row = Record<string, unknown>;

const shown = (value: unknown) => (typeof value === "string" ? value : "");

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
      <Ways
        label={`Looked up: ${name}`}
        value={how}
        ways={[
          ["", "as it really stands there"],
          ["none", "no such row"],
          ["row", "this row…"],
        ]}
        choose={(way) => set(way === "" ? undefined : way === "none" ? null : {})}
      />
      {row &&
        columns.map((column) => (
          <TextField
            key={column.name}
            label={column.name}
            value={shown(row[column.name])}
            sx={{ ml: 2 }}
            helperText={column.type === "yes_no" ? "yes or no" : undefined}
            onChange={(event) => set({ ...row, [column.name]: event.target.value })}
          />
        ))}
    </>
  );
}
