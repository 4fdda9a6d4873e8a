import { Button, InputBase } from "@mui/material";
import { DataGrid, type GridColDef, type GridRowSelectionModel } from "@mui/x-data-grid";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useDeferredValue, useState } from "react";
import { useNavigate, useParams } from "react-router-dom";
import { api, data, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { lookups, undoLast } from "../../api/resources";
import { useSession } from "../../frame/session";
import { Empty, Failure, Loading } from "../../frame/states";
import { usePageTitle } from "../../frame/title";
import { ConflictDialog } from "../shared/ConflictDialog";
import { CopyButton } from "../shared/CopyButton";
import { DeleteButton } from "../shared/DeleteButton";
import { FieldInput } from "../shared/FieldInput";
import { DESCRIPTION, type Field } from "../shared/fields";
import shared from "../shared/shared.module.css";
import { UsedBy } from "../shared/UsedBy";
import { useItemForm } from "../shared/useItemForm";
import { counted } from "../../frame/format";
import { ColumnsField, typeName } from "./Lookups";
import { ImportDialog } from "./ImportDialog";
import { FindBox } from "../shared/FindBox";
import styles from "./lookups.module.css";

type Table = Schemas["Table"];
type Cells = (string | number | boolean | null)[];
type GridRow = { id: string; cells: Cells } & Record<string, unknown>;

const PAGE = 100;

function useRows(table: Table, page: number, search: string) {
  const cache = useQueryClient();
  const { enqueueSnackbar, closeSnackbar } = useSnackbar();
  const query = { page: page + 1, page_size: PAGE, ...(search && { search }) };
  const queryKey = [...keys.all("lookups"), "rows", table.id, query];
  const list = useQuery({
    queryKey,
    placeholderData: keepPreviousData,
    queryFn: () => data(api.GET("/api/v1/lookups/{id}/rows", { params: { path: { id: table.id }, query } })),
  });
  const refresh = () => void cache.invalidateQueries({ queryKey: keys.all("lookups") });
  const failed = (error: unknown) => {
    enqueueSnackbar(words(error), { variant: "error" });
  };
  const change = (id: string, cells: Cells) =>
    data(api.PATCH("/api/v1/lookup-rows/{id}", { params: { path: { id } }, body: { cells } }));
  const add = useMutation({
    mutationFn: (cells: Cells) =>
      data(api.POST("/api/v1/lookups/{id}/rows", { params: { path: { id: table.id } }, body: { cells } as never })),
    onSuccess: refresh,
    onError: failed,
  });
  const back = useMutation({ mutationFn: (id: string) => undoLast(id), onSuccess: refresh, onError: failed });
  const remove = useMutation({
    mutationFn: (id: string) => api.DELETE("/api/v1/lookup-rows/{id}", { params: { path: { id } } }),
    onSuccess: (_, id) => {
      refresh();
      enqueueSnackbar("The row is deleted.", {
        action: (key) => (
          <Button
            color="inherit"
            onClick={() => {
              closeSnackbar(key);
              back.mutate(id);
            }}>
            Undo
          </Button>
        ),
      });
    },
    onError: failed,
  });
  return { list, change, add, remove, refresh, failed };
}

function gridColumns(table: Table, mayChange: boolean): GridColDef<GridRow>[] {
  return table.columns.map((column, i) => ({
    field: `c${i}`,
    headerName: column.name,
    description: `${i === 0 ? "The key: " : ""}${typeName(column.type)}`,
    flex: 1,
    minWidth: 110,
    sortable: false,
    editable: mayChange,
    ...(column.type === "number" && { align: "right" as const, headerAlign: "right" as const }),
    valueFormatter: (value: unknown) =>
      value === true ? "yes" : value === false ? "no" : ((value as string | null) ?? ""),
  }));
}

function Grid({ table, mayChange }: { table: Table; mayChange: boolean }) {
  const [page, setPage] = useState(0);
  const [text, setText] = useState("");
  const [picked, setPicked] = useState<GridRowSelectionModel>({ type: "include", ids: new Set() });
  const search = useDeferredValue(text.trim());
  const rows = useRows(table, page, search);
  const [fresh, setFresh] = useState("");
  const cellsOf = (row: GridRow): Cells => table.columns.map((_, i) => row[`c${i}`] as Cells[number]);
  const shown: GridRow[] = (rows.list.data?.results ?? []).map((row) => ({
    id: row.id,
    cells: row.cells as Cells,
    ...Object.fromEntries(row.cells.map((cell, i) => [`c${i}`, cell])),
  }));
  const chosen = [...picked.ids].map(String);
  if (rows.list.isError) return <Failure error={rows.list.error} retry={() => void rows.list.refetch()} />;
  return (
    <>
      <div className={shared.head}>
        <h2>Rows</h2>
        <span className="dim">{counted(rows.list.data?.count)}</span>
        <FindBox
          label="Find in any cell"
          placeholder="Find in any cell"
          value={text}
          width={220}
          change={(typed) => {
            setText(typed);
            setPage(0);
          }}
        />
        <span className={shared.grow} />
        {mayChange && (
          <form
            className="beside"
            onSubmit={(event) => {
              event.preventDefault();
              rows.add.mutate([fresh, ...table.columns.slice(1).map(() => null)], {
                onSuccess: () => {
                  setFresh("");
                },
              });
            }}>
            <InputBase
              placeholder={`New row: its ${table.columns[0]?.name ?? "key"}`}
              value={fresh}
              inputProps={{ "aria-label": "Key of the new row" }}
              onChange={(event) => setFresh(event.target.value)}
              sx={{
                px: 1,
                background: "var(--sheet)",
                border: "1px solid var(--edge)",
                borderRadius: 1,
                height: 28,
                width: 190,
              }}
            />
            <Button type="submit" variant="outlined" disabled={!fresh.trim() || rows.add.isPending}>
              Add
            </Button>
            <Button
              color="error"
              disabled={chosen.length !== 1}
              onClick={() => {
                if (chosen[0]) rows.remove.mutate(chosen[0]);
              }}>
              Delete row
            </Button>
          </form>
        )}
      </div>
      <div className={shared.grid}>
        {rows.list.data?.count === 0 && !search ? (
          <Empty title="No rows yet">Take a CSV file in, or type a key above. Double-click a cell to change it.</Empty>
        ) : (
          <DataGrid<GridRow>
            aria-label="Rows"
            rows={shown}
            columns={gridColumns(table, mayChange)}
            loading={rows.list.isPending}
            rowCount={rows.list.data?.count ?? 0}
            paginationMode="server"
            pageSizeOptions={[PAGE]}
            paginationModel={{ page, pageSize: PAGE }}
            onPaginationModelChange={(model) => setPage(model.page)}
            disableColumnMenu
            disableColumnFilter
            rowHeight={32}
            columnHeaderHeight={34}
            rowSelectionModel={picked}
            onRowSelectionModelChange={setPicked}
            processRowUpdate={async (row) => {
              const kept = await rows.change(row.id, cellsOf(row));
              rows.refresh();
              return { ...row, ...Object.fromEntries(kept.cells.map((cell, i) => [`c${i}`, cell])) };
            }}
            onProcessRowUpdateError={rows.failed}
            localeText={{ noRowsLabel: `No row holds “${search}”.` }}
            sx={{ background: "var(--sheet)", fontSize: 13, "--DataGrid-t-header-background-base": "var(--sheet)" }}
          />
        )}
      </div>
    </>
  );
}

const fields: Field[] = [
  { kind: "text", name: "name", label: "Name" },
  DESCRIPTION,
  { kind: "own", name: "columns", label: "Columns", Input: ColumnsField },
];

/** One lookup table: its rows, and beside them its name and columns. */
export default function LookupTable() {
  const { id = "" } = useParams();
  return <Page key={id} id={id} />;
}

function Page({ id }: { id: string }) {
  const { may } = useSession();
  const navigate = useNavigate();
  const { enqueueSnackbar } = useSnackbar();
  const [importing, setImporting] = useState(false);
  const cache = useQueryClient();
  const form = useItemForm<Table>(lookups, id, {}, () => {
    enqueueSnackbar("The table is saved.");
  });
  usePageTitle(form.record?.name);
  const empty = useMutation({
    mutationFn: () =>
      data(
        api.POST("/api/v1/lookups/{id}/empty", {
          params: { path: { id } },
          body: { revision: form.record?.revision ?? 1 },
        }),
      ),
    onSuccess: (record) => {
      form.took(record);
      enqueueSnackbar("The table is empty. The change log can bring the rows back.");
    },
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
    },
  });
  if (form.pending) return <Loading what="the table" />;
  if (form.failure || !form.record)
    return <Failure error={form.failure} retry={form.reload} of={{ noun: "lookup table", list: "/guide/lookups" }} />;
  const table = form.record;
  const mayChange = may("change", "lookups");
  return (
    <div className={shared.split}>
      <section className={shared.listSide} aria-label={table.name}>
        <div className={shared.head}>
          <h1>{table.name}</h1>
          <span className={shared.grow} />
          <Button href={`/api/v1/lookups/${id}/rows?as=csv`}>CSV</Button>
          {mayChange && (
            <Button disabled={table.row_count === 0 || empty.isPending} onClick={() => empty.mutate()}>
              Empty it
            </Button>
          )}
          {mayChange && (
            <Button variant="contained" onClick={() => setImporting(true)}>
              Take a CSV file in…
            </Button>
          )}
        </div>
        <Grid key={table.revision} table={table} mayChange={mayChange} />
      </section>
      <aside className={`${shared.aside} ${styles.row}`}>
        <form
          className={shared.sheet}
          aria-label="Name and columns"
          onSubmit={(event) => {
            event.preventDefault();
            form.save();
          }}>
          <div className={shared.sheetHead}>
            <h1>The table</h1>
          </div>
          <div className={shared.fields}>
            {fields.map((field) => (
              <FieldInput
                key={field.name}
                field={field}
                value={form.values[field.name]}
                error={form.errors[field.name]?.[0]}
                disabled={!mayChange || (field.name === "columns" && table.row_count > 0)}
                change={(value) => form.set(field.name, value)}
              />
            ))}
            {table.row_count > 0 && <span className="dim">The columns can be changed while the table is empty.</span>}
            <UsedBy resource={lookups} id={id} />
            {form.saveError !== null && (
              <div role="alert" className="wrong">
                {words(form.saveError)}
              </div>
            )}
          </div>
          {mayChange && (
            <div className={shared.sheetFoot}>
              <Button type="submit" variant="contained" disabled={!form.dirty || form.saving}>
                Save
              </Button>
              {form.dirty && <Button onClick={form.revert}>Undo typing</Button>}
              <span className="fill" />
              <CopyButton
                resource={lookups}
                name={table.name}
                values={() => ({ columns: table.columns })}
                disabled={form.dirty}
                open={(made) => void navigate(`/guide/lookups/${made}`)}
              />
              <DeleteButton resource={lookups} id={id} name={table.name} gone={() => void navigate("/guide/lookups")} />
            </div>
          )}
        </form>
      </aside>
      {importing && (
        <ImportDialog
          id={id}
          revision={table.revision ?? 1}
          close={() => setImporting(false)}
          done={() => void cache.invalidateQueries({ queryKey: keys.all("lookups") })}
        />
      )}
      {form.conflict && <ConflictDialog conflict={form.conflict} fields={fields} settle={form.settle} />}
    </div>
  );
}
