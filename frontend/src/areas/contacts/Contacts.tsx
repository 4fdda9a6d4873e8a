import { InputBase, MenuItem, TextField } from "@mui/material";
import { DataGrid, type GridColDef } from "@mui/x-data-grid";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router-dom";
import { api, data, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { clock, moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Empty, Failure } from "../../frame/states";
import { endingWords } from "../flows/endings";
import shared from "../shared/shared.module.css";

type Contact = Schemas["Contact"];
const PAGE = 50;
const FRESH_MS = 5000;

/** Every contact, newest first; one of them opens its trace. */
export default function Contacts() {
  const { session } = useSession();
  const navigate = useNavigate();
  const [page, setPage] = useState(0);
  const [text, setText] = useState("");
  const [ending, setEnding] = useState<Contact["ending"]>("");
  const search = useDeferredValue(text.trim());
  const query = { page: page + 1, page_size: PAGE, ...(search && { search }), ...(ending && { ending }) };
  const list = useQuery({
    queryKey: keys.list("contacts", query), queryFn: () => data(api.GET("/api/v1/contacts", { params: { query } })), placeholderData: keepPreviousData, refetchInterval: FRESH_MS,
  });
  const columns: GridColDef<Contact>[] = [
    { field: "arrived_at", headerName: "Arrived", width: 170, renderCell: ({ row }) => moment(row.arrived_at, session.time_zone) },
    { field: "caller", headerName: "Caller", width: 150 },
    { field: "number", headerName: "Number", width: 150 },
    { field: "flow_name", headerName: "Flow", flex: 1, minWidth: 140 },
    {
      field: "ended_at", headerName: "Lasted", width: 100, align: "right", headerAlign: "right",
      renderCell: ({ row }) => (row.ended_at ? clock(Date.parse(row.ended_at) - Date.parse(row.arrived_at)) : "under way"),
    },
    { field: "ending", headerName: "Ended", width: 180, renderCell: ({ row }) => endingWords[row.ending ?? ""] ?? "" },
  ];
  const bare = list.data?.count === 0 && !search && !ending;
  return (
    <section className={shared.listSide} aria-label="Contacts">
      <div className={shared.head}>
        <h1>Contacts</h1>
        <span className="dim">{list.data?.count}</span>
        <InputBase placeholder="Figures of a number" value={text} inputProps={{ "aria-label": "Find by number" }} onChange={(event) => { setText(event.target.value); setPage(0); }}
          sx={{ ml: 1, px: 1, background: "var(--sheet)", border: "1px solid var(--edge)", borderRadius: 1, height: 28, width: 200 }} />
        <TextField select size="small" label="Ended" value={ending} slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }} sx={{ width: 190 }} onChange={(event) => { setEnding(event.target.value as Contact["ending"]); setPage(0); }}>
          <MenuItem value="">in any way</MenuItem>
          {Object.entries(endingWords).map(([value, label]) => <MenuItem key={value} value={value}>{label}</MenuItem>)}
        </TextField>
      </div>
      <div className={shared.grid}>
        {list.isError ? <Failure error={list.error} retry={() => void list.refetch()} /> : bare ? (
          <Empty title="Nobody has called yet">Every contact leaves its trace here: what was heard, pressed and decided, and why.</Empty>
        ) : (
          <DataGrid<Contact> aria-label="Contacts" rows={list.data?.results ?? []} columns={columns.map((column) => ({ ...column, sortable: false }))} loading={list.isPending} rowCount={list.data?.count ?? 0}
            paginationMode="server" pageSizeOptions={[PAGE]} paginationModel={{ page, pageSize: PAGE }} onPaginationModelChange={(model) => { setPage(model.page); }} disableColumnFilter disableColumnMenu
            rowHeight={36} columnHeaderHeight={36} hideFooter={(list.data?.count ?? 0) <= PAGE} onRowClick={(row) => void navigate(`/learn/contacts/${String(row.id)}`)}
            onCellKeyDown={(cell, event) => { if (event.key === "Enter") void navigate(`/learn/contacts/${String(cell.id)}`); }} localeText={{ noRowsLabel: "No contact fits." }}
            sx={{ background: "var(--sheet)", fontSize: 13, "& .MuiDataGrid-row": { cursor: "pointer" }, "--DataGrid-t-header-background-base": "var(--sheet)" }} />
        )}
      </div>
    </section>
  );
}
