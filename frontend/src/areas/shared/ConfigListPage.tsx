import { Button } from "@mui/material";
import { DataGrid, type GridColDef, type GridRowSelectionModel, type GridSortModel } from "@mui/x-data-grid";
import { keepPreviousData, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { type ReactNode, useDeferredValue, useState } from "react";
import { useLocation, useNavigate, useParams } from "react-router-dom";
import { words } from "../../api/client";
import { keys } from "../../api/keys";
import type { ConfigItem, Resource, Values } from "../../api/resources";
import { useSession } from "../../frame/session";
import { Empty, Failure } from "../../frame/states";
import { type Column, fitting, useChosenColumns } from "./columns";
import { ColumnsMenu } from "./ColumnsMenu";
import { DESCRIPTION, type Field } from "./fields";
import { ItemSheet } from "./ItemSheet";
import styles from "./shared.module.css";
import { useWidth } from "./useWidth";
import { FindBox } from "./FindBox";

interface Props<T extends ConfigItem> {
  resource: Resource<T>;
  area: string;
  base: string;
  title: string;
  noun: string;
  titleOf: (record: T) => string;
  columns: Column<T>[];
  fields: Field[];
  initial?: Values;
  empty: ReactNode;
  sort: GridSortModel;
  extra?: (record: T, took: (record: T) => void) => ReactNode;
  top?: (record: T, took: (record: T) => void) => ReactNode;
  copy?: (record: T) => Values;
  /** More buttons beside “New”. */
  tools?: ReactNode;
  /** Opens a page of its own instead of the sheet. */
  open?: (id: string) => void;
  /** What is asked of a new one in its sheet, where the rest follows on its own page. */
  asked?: string[];
  /** Whether single ones can be deleted; they can, unless it is said. */
  deletes?: boolean;
  /** What can be done with several rows that are ticked; without it none can be. */
  several?: (ids: string[], done: () => void) => ReactNode;
}

const PAGE = 50;
/** What the ticks of a list take (px). */
const TICKS = 50;

type Ordering = { field: string; sort?: "asc" | "desc" | null } | undefined;

/** The list's address: page, search and order as the server takes them. */
function queryOf(page: number, search: string, first: Ordering) {
  return {
    page: page + 1,
    page_size: PAGE,
    ...(search && { search }),
    ...(first && { ordering: `${first.sort === "desc" ? "-" : ""}${first.field.replace(".", "__")}` }),
  };
}

/** What a new thing begins with: its own, and what the page before handed over (a copy, say). */
function begun(initial: Values, id: string, handed: unknown): Values {
  return id === "new" ? { ...initial, ...(handed as Values | null) } : initial;
}

/** The fields that are named, or all of them. */
function those(fields: Field[], names: string[] | undefined, described: boolean): Field[] {
  if (names) return fields.filter((field) => names.includes(field.name));
  return described ? [...fields, DESCRIPTION] : fields;
}

/** A list's columns, what each thing is for beside what it is called. */
function describing<T extends ConfigItem>(columns: Props<T>["columns"]): Props<T>["columns"] {
  const [first, ...others] = columns;
  if (!first) return columns;
  const plain = first.renderCell;
  const renderCell: typeof plain = (cell) => (
    <span className="nowrap" title={cell.row.description}>
      {plain ? plain(cell) : (cell.formattedValue as ReactNode)}
      {cell.row.description && <span className="dim"> {cell.row.description}</span>}
    </span>
  );
  return [{ ...first, renderCell }, ...others];
}

/** The list's figures, as far as they are known. */
function counted(list: { data?: { count: number } }, search: string) {
  const count = list.data?.count ?? 0;
  return { count, bare: list.data !== undefined && count === 0 && !search };
}

/** Saves the cells of a row that were changed, and says so. */
function useKeeping<T extends ConfigItem>(resource: Resource<T>) {
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  return async (row: T, before: T): Promise<T> => {
    const names = (Object.keys(row) as (keyof T & string)[]).filter((name) => row[name] !== before[name]);
    if (names.length === 0) return before;
    const changed = Object.fromEntries(names.map((name) => [name, row[name]]));
    const kept = await resource.change(row.id, { ...changed, revision: before.revision });
    cache.setQueryData(keys.one(resource.what, kept.id), kept);
    void cache.invalidateQueries({ queryKey: keys.all(resource.what) });
    enqueueSnackbar("Saved.");
    return kept;
  };
}

interface GridProps<T extends ConfigItem> {
  title: string;
  rows: T[];
  columns: Props<T>["columns"];
  /** What room the columns have (px). */
  width: number;
  loading: boolean;
  count: number;
  page: number;
  setPage: (page: number) => void;
  order: GridSortModel;
  setOrder: (order: GridSortModel) => void;
  chosen: string | undefined;
  choose: (row: string) => void;
  search: string;
  /** Saves a row that was changed in its cells; null where none can be. */
  keep: ((row: T, before: T) => Promise<T>) | null;
  ticked: string[] | null;
  tick: (ids: string[]) => void;
}

/** One page of rows; the server orders and pages them. */
function ItemGrid<T extends ConfigItem>({
  title,
  rows,
  columns,
  width,
  loading,
  count,
  page,
  setPage,
  order,
  setOrder,
  chosen,
  choose,
  search,
  keep,
  ticked,
  tick,
}: GridProps<T>) {
  const { enqueueSnackbar } = useSnackbar();
  const open = chosen && chosen !== "new" ? [chosen] : [];
  const picked = (model: GridRowSelectionModel) =>
    (model.type === "include" ? [...model.ids] : rows.map((row) => row.id).filter((id) => !model.ids.has(id))).map(
      String,
    );
  return (
    <DataGrid<T>
      aria-label={title}
      rows={rows}
      columns={describing(fitting(columns, ticked === null ? width : width - TICKS)) as GridColDef<T>[]}
      loading={loading}
      rowCount={count}
      paginationMode="server"
      sortingMode="server"
      pageSizeOptions={[PAGE]}
      paginationModel={{ page, pageSize: PAGE }}
      onPaginationModelChange={(model) => setPage(model.page)}
      sortModel={order}
      onSortModelChange={setOrder}
      disableColumnFilter
      disableColumnMenu
      rowHeight={36}
      columnHeaderHeight={36}
      hideFooter={count <= PAGE}
      onRowClick={(row) => choose(String(row.id))}
      onCellKeyDown={(cell, event) => {
        if (event.key === "Enter" && !cell.isEditable) choose(String(cell.id));
      }}
      isCellEditable={() => keep !== null}
      processRowUpdate={(row, before) => (keep ? keep(row, before) : before)}
      onProcessRowUpdateError={(error) => enqueueSnackbar(words(error), { variant: "error" })}
      checkboxSelection={ticked !== null}
      disableRowSelectionOnClick={ticked !== null}
      onRowSelectionModelChange={(model) => {
        if (ticked !== null) tick(picked(model));
      }}
      rowSelectionModel={{ type: "include", ids: new Set(ticked ?? open) }}
      localeText={{ noRowsLabel: `Nothing in ${title.toLowerCase()} holds “${search}”.` }}
      sx={{
        background: "var(--sheet)",
        fontSize: 13,
        "& .MuiDataGrid-row": { cursor: "pointer" },
        "--DataGrid-t-header-background-base": "var(--sheet)",
      }}
    />
  );
}

/** A list of kept things with search, order and pages by the server, and the sheet of the one chosen. */
export function ConfigListPage<T extends ConfigItem>({
  resource,
  area,
  base,
  title,
  noun,
  titleOf,
  columns,
  fields,
  initial = {},
  empty,
  sort,
  extra,
  top,
  copy,
  tools,
  open,
  asked,
  several,
  deletes = true,
}: Props<T>) {
  const navigate = useNavigate();
  const location = useLocation();
  const params = useParams();
  const id = location.pathname === `${base}/new` ? "new" : params.id;
  const { may } = useSession();
  const [text, setText] = useState("");
  const [order, setOrder] = useState(sort);
  const [page, setPage] = useState(0);
  const search = useDeferredValue(text.trim());
  const query = { ...resource.always, ...queryOf(page, search, order[0]) };
  const list = useQuery({
    queryKey: keys.list(resource.what, query),
    queryFn: () => resource.list(query),
    placeholderData: keepPreviousData,
  });
  const mayChange = may("change", area);
  const { usual, chosen, choose: chooseColumns, shown } = useChosenColumns(base, columns);
  const [box, width] = useWidth();
  const [ticked, setTicked] = useState<string[]>([]);
  const keep = useKeeping(resource);
  const { count, bare } = counted(list, search);
  const close = () => void navigate(base);
  const choose = (row: string) => {
    if (open) open(row);
    else void navigate(`${base}/${row}`);
  };
  return (
    <div className={styles.split}>
      <section className={styles.listSide} aria-label={title}>
        <div className={styles.head}>
          <h1>{title}</h1>
          <span className="dim">{list.data?.count}</span>
          <FindBox
            label={`Find in ${title.toLowerCase()}`}
            placeholder={`Find in ${title.toLowerCase()}`}
            value={text}
            width={240}
            change={(typed) => {
              setText(typed);
              setPage(0);
            }}
          />
          <span className={styles.grow} />
          <ColumnsMenu
            columns={columns
              .slice(1)
              .filter((one) => one.headerName)
              .map((one) => ({ key: one.field, name: one.headerName ?? "" }))}
            chosen={chosen}
            usual={usual}
            choose={chooseColumns}
          />
          <Button href={resource.csv + (search ? `&search=${encodeURIComponent(search)}` : "")}>CSV</Button>
          {mayChange && (
            <>
              {ticked.length > 0 &&
                several?.(ticked, () => {
                  setTicked([]);
                })}
              {tools}
              <Button variant="contained" onClick={() => void navigate(`${base}/new`)}>
                New {noun}
              </Button>
            </>
          )}
        </div>
        <div className={styles.grid} ref={box}>
          {list.isError ? (
            <Failure error={list.error} retry={() => void list.refetch()} />
          ) : bare ? (
            <Empty title={`No ${title.toLowerCase()} yet`}>{empty}</Empty>
          ) : (
            <ItemGrid
              title={title}
              rows={list.data?.results ?? []}
              columns={shown}
              width={width}
              loading={list.isPending}
              count={count}
              page={page}
              setPage={setPage}
              order={order}
              setOrder={setOrder}
              chosen={id}
              choose={choose}
              search={search}
              keep={mayChange ? keep : null}
              ticked={several && mayChange ? ticked : null}
              tick={setTicked}
            />
          )}
        </div>
      </section>
      {id && (!open || id === "new") && (
        <aside className={styles.aside}>
          <ItemSheet
            deletes={deletes}
            key={id === "new" ? location.key : id}
            base={base}
            copy={copy}
            resource={resource}
            id={id}
            noun={noun}
            titleOf={titleOf}
            fields={those(fields, asked, resource.described)}
            initial={begun(initial, id, location.state)}
            mayChange={mayChange}
            close={close}
            created={(made) => void navigate(`${base}/${made}`)}
            extra={extra}
            top={top}
          />
        </aside>
      )}
    </div>
  );
}
