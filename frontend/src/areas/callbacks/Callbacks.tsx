import { Button } from "@mui/material";
import { DataGrid, type GridColDef } from "@mui/x-data-grid";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { Link } from "react-router-dom";
import { api, data, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Empty, Failure } from "../../frame/states";
import shared from "../shared/shared.module.css";

type Callback = Schemas["Callback"];

const states: Record<string, string> = {
  waiting: "waits for its turn",
  calling: "is being rung",
  talking: "talking",
  done: "reached",
  not_reached: "not reached",
  cancelled: "cancelled",
};
const PAGE = 50;
const FRESH_MS = 3000;

/** Places in line that are kept for callers who will be rung. */
export default function Callbacks() {
  const { session, may } = useSession();
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const [page, setPage] = useState(0);
  const query = { page: page + 1, page_size: PAGE };
  const list = useQuery({
    queryKey: keys.list("callbacks", query),
    queryFn: () => data(api.GET("/api/v1/callbacks", { params: { query } })),
    placeholderData: keepPreviousData,
    refetchInterval: FRESH_MS,
  });
  const cancel = useMutation({
    mutationFn: (id: string) => api.POST("/api/v1/callbacks/{contact}/cancel", { params: { path: { contact: id } } }),
    onSuccess: () => {
      void cache.invalidateQueries({ queryKey: keys.all("callbacks") });
    },
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
    },
  });
  const at = (value: string | null | undefined) => (value ? moment(value, session.time_zone) : "");
  const columns: GridColDef<Callback>[] = [
    { field: "number", headerName: "Number", width: 150 },
    { field: "queue_name", headerName: "Queue", flex: 1, minWidth: 130 },
    {
      field: "state",
      headerName: "State",
      width: 150,
      renderCell: ({ row }) => (
        <span className={row.ended_at ? "dim" : undefined}>{states[row.state ?? ""] ?? row.state}</span>
      ),
    },
    { field: "entered_at", headerName: "In line since", width: 150, renderCell: ({ row }) => at(row.entered_at) },
    {
      field: "tried",
      headerName: "Rung",
      width: 80,
      align: "right",
      headerAlign: "right",
      renderCell: ({ row }) => `${row.tried} of ${row.attempts}`,
    },
    {
      field: "next_at",
      headerName: "Again from",
      width: 150,
      renderCell: ({ row }) => (row.ended_at ? "" : at(row.next_at)),
    },
    { field: "agent_name", headerName: "Agent", width: 140 },
    {
      field: "origin",
      headerName: "",
      width: 100,
      renderCell: ({ row }) => <Link to={`/learn/contacts/${row.origin}`}>The call</Link>,
    },
    {
      field: "id",
      headerName: "",
      width: 100,
      renderCell: ({ row }) =>
        row.state === "waiting" &&
        may("change", "callbacks") && (
          <Button disabled={cancel.isPending} onClick={() => cancel.mutate(row.id)}>
            Cancel
          </Button>
        ),
    },
  ];
  const rows = list.data?.results ?? [];
  return (
    <section className={shared.listSide} aria-label="Callbacks">
      <div className={shared.head}>
        <h1>Callbacks</h1>
        <span className="dim">{list.data?.count}</span>
      </div>
      <div className={shared.grid}>
        {list.isError ? (
          <Failure error={list.error} retry={() => void list.refetch()} />
        ) : list.data?.count === 0 ? (
          <Empty title="No callbacks yet">
            A waiting plan offers them with the stop “Offer a callback”. The place in line is kept, and the caller is
            rung when its turn comes.
          </Empty>
        ) : (
          <DataGrid<Callback>
            aria-label="Callbacks"
            rows={rows}
            columns={columns.map((column) => ({ ...column, sortable: false }))}
            loading={list.isPending}
            rowCount={list.data?.count ?? 0}
            paginationMode="server"
            pageSizeOptions={[PAGE]}
            paginationModel={{ page, pageSize: PAGE }}
            onPaginationModelChange={(model) => setPage(model.page)}
            disableColumnFilter
            disableColumnMenu
            rowHeight={36}
            columnHeaderHeight={36}
            hideFooter={(list.data?.count ?? 0) <= PAGE}
            disableRowSelectionOnClick
            sx={{ background: "var(--sheet)", fontSize: 13, "--DataGrid-t-header-background-base": "var(--sheet)" }}
          />
        )}
      </div>
    </section>
  );
}
