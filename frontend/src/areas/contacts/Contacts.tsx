import { Button, InputBase, MenuItem, TextField } from "@mui/material";
import { DataGrid, type GridColDef } from "@mui/x-data-grid";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue, useState } from "react";
import { useNavigate } from "react-router-dom";
import { api, data, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { lengths } from "../../api/lengths";
import { clock, counted, moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Empty, Failure } from "../../frame/states";
import { endingWords } from "../flows/endings";
import { PeriodField } from "../reports/PeriodField";
import { type Asked, periodOf, useAsked } from "../reports/useAsked";
import shared from "../shared/shared.module.css";
import styles from "./contacts.module.css";

type Found = Schemas["FoundContact"];
const PAGE = 50;
const FRESH_MS = 5000;
const MOST = { page_size: 500 };
const wanted = [
  "search",
  "queue",
  "agent",
  "code",
  "ending",
  "keys",
  "wait_over",
  "talk_over",
  "transferred",
  "recorded",
  "callback",
] as const;

/** What narrows the list; nothing that is empty. */
function queryOf(asked: Asked): Record<string, string> {
  const named = Object.fromEntries(wanted.map((name) => [name, asked.get(name)]).filter(([, value]) => value));
  const days =
    asked.get("first") || asked.get("period") || asked.get("weekdays") || asked.get("from") || asked.get("until");
  return { ...named, ...(days ? periodOf(asked) : {}) };
}

function Choice({
  name,
  label,
  asked,
  options,
  width = 150,
  none = "any",
}: {
  name: string;
  label: string;
  asked: Asked;
  options: [string, string][];
  width?: number;
  none?: string;
}) {
  return (
    <TextField
      select
      size="small"
      label={label}
      value={asked.get(name)}
      sx={{ width }}
      slotProps={{ select: { displayEmpty: true }, inputLabel: { shrink: true } }}
      onChange={(event) => asked.set({ [name]: event.target.value })}>
      <MenuItem value="">{none}</MenuItem>
      {options.map(([value, words]) => (
        <MenuItem key={value} value={value}>
          {words}
        </MenuItem>
      ))}
    </TextField>
  );
}

const seconds: [string, string][] = [
  ["20", "0:20"],
  ["60", "1:00"],
  ["120", "2:00"],
  ["300", "5:00"],
  ["600", "10:00"],
  ["1800", "30:00"],
];
const yesNo: [string, string][] = [
  ["yes", "yes"],
  ["no", "no"],
];

function Filters({ asked }: { asked: Asked }) {
  // What is typed stands here at once; the address follows when there is time.
  const [text, setText] = useState(asked.get("search"));
  const [pressed, setPressed] = useState(asked.get("keys"));
  const queues = useQuery({
    queryKey: keys.list("queues", MOST),
    queryFn: () => data(api.GET("/api/v1/queues", { params: { query: MOST } })),
  });
  const agents = useQuery({
    queryKey: keys.list("agents", MOST),
    queryFn: () => data(api.GET("/api/v1/agents", { params: { query: MOST } })),
  });
  const codes = useQuery({
    queryKey: keys.list("codes", MOST),
    queryFn: () => data(api.GET("/api/v1/codes", { params: { query: MOST } })),
  });
  const named = (rows: { id: string; name: string }[] | undefined): [string, string][] =>
    (rows ?? []).map((row) => [row.id, row.name]);
  const narrowed = wanted.some((name) => asked.get(name)) || asked.get("period") || asked.get("first");
  return (
    <div className={styles.bar}>
      <InputBase
        placeholder="Figures of a number"
        value={text}
        inputProps={{ "aria-label": "Find by number", maxLength: lengths.PlaceCall.number }}
        onChange={(event) => {
          setText(event.target.value);
          asked.set({ search: event.target.value.trim() });
        }}
        sx={{
          px: 1,
          background: "var(--sheet)",
          border: "1px solid var(--edge)",
          borderRadius: 1,
          height: 36,
          width: 170,
        }}
      />
      <Choice name="queue" label="Queue" asked={asked} options={named(queues.data?.results)} />
      <Choice name="agent" label="Agent" asked={asked} options={named(agents.data?.results)} />
      <Choice name="code" label="Code" asked={asked} options={[["none", "no code"], ...named(codes.data?.results)]} />
      <Choice name="ending" label="Ended" asked={asked} options={Object.entries(endingWords)} none="in any way" />
      <Choice name="wait_over" label="Waited over" asked={asked} options={seconds} width={110} />
      <Choice name="talk_over" label="Spoke over" asked={asked} options={seconds} width={110} />
      <TextField
        size="small"
        label="Keys"
        placeholder="1*"
        value={pressed}
        sx={{ width: 80 }}
        slotProps={{ inputLabel: { shrink: true } }}
        onChange={(event) => {
          const keys = event.target.value.replace(/[^0-9*#]/g, "");
          setPressed(keys);
          asked.set({ keys });
        }}
      />
      <Choice name="transferred" label="Passed on" asked={asked} options={yesNo} width={100} />
      <Choice name="recorded" label="Recorded" asked={asked} options={yesNo} width={100} />
      <Choice name="callback" label="Callback" asked={asked} options={yesNo} width={100} />
      <PeriodField asked={asked} any="Any day" />
      {narrowed && (
        <Button
          onClick={() => {
            setText("");
            setPressed("");
            asked.set(
              Object.fromEntries(
                [...wanted, "period", "first", "last", "weekdays", "from", "until"].map((name) => [name, ""]),
              ),
            );
          }}>
          All contacts
        </Button>
      )}
    </div>
  );
}

function columnsFor(zone: string): GridColDef<Found>[] {
  const time = (field: keyof Found, headerName: string): GridColDef<Found> => ({
    field,
    headerName,
    width: 74,
    align: "right",
    headerAlign: "right",
    renderCell: ({ row }) => (row[field] ? clock(row[field] as number) : <span className="dim">–</span>),
  });
  return [
    { field: "arrived_ms", headerName: "Arrived", width: 140, renderCell: ({ row }) => moment(row.arrived_ms, zone) },
    { field: "caller", headerName: "Caller", width: 118 },
    { field: "number", headerName: "Number", width: 118 },
    {
      field: "queue_name",
      headerName: "Queue",
      flex: 1,
      minWidth: 90,
      renderCell: ({ row }) => row.queue_name || <span className="dim">{row.flow_name}</span>,
    },
    { field: "agent_name", headerName: "Agent", flex: 1.2, minWidth: 110 },
    time("wait_ms", "Waited"),
    time("talk_ms", "Talk"),
    { field: "code_name", headerName: "Code", flex: 1.2, minWidth: 110 },
    { field: "keys", headerName: "Keys", width: 64 },
    {
      field: "ended_ms",
      headerName: "Lasted",
      width: 84,
      align: "right",
      headerAlign: "right",
      renderCell: ({ row }) => (row.ended_ms ? clock(row.ended_ms - row.arrived_ms) : "under way"),
    },
    { field: "ending", headerName: "Ended", width: 150, renderCell: ({ row }) => endingWords[row.ending] ?? "" },
  ];
}

/** Every contact, found by anything that is known of it; one of them opens its course. */
export default function Contacts() {
  const { session } = useSession();
  const navigate = useNavigate();
  const asked = useAsked();
  const [page, setPage] = useState(0);
  const narrowing = useDeferredValue(JSON.stringify(queryOf(asked)));
  const query = JSON.parse(narrowing) as Record<string, string>;
  const paged = { ...query, offset: page * PAGE, limit: PAGE };
  const list = useQuery({
    queryKey: keys.list("found", paged),
    queryFn: () => data(api.GET("/api/v1/contacts/find", { params: { query: paged as object } })),
    placeholderData: keepPreviousData,
    refetchInterval: page === 0 ? FRESH_MS : false,
  });
  const count = list.data?.count ?? 0;
  const bare = count === 0 && list.data && Object.keys(query).length === 0;
  const file = (as: string) => `/api/v1/contacts/records?${new URLSearchParams({ ...query, as }).toString()}`;
  const open = (id: string) => void navigate(`/learn/contacts/${id}`);
  return (
    <section className={shared.listSide} aria-label="Contacts">
      <div className={shared.head}>
        <h1>Contacts</h1>
        <span className="dim">{list.data?.more ? `more than ${counted(count)}` : list.data && counted(count)}</span>
        <span className={shared.grow} />
        <Button href={file("csv")}>CSV</Button>
        <Button href={file("jsonl")}>JSON lines</Button>
        <Button href={`${file("csv")}&of=parts`} title="A line for each part that an agent had">
          Parts as CSV
        </Button>
      </div>
      <Filters asked={asked} />
      <div className={shared.grid}>
        {list.isError ? (
          <Failure error={list.error} retry={() => void list.refetch()} />
        ) : bare ? (
          <Empty title="Nobody has called yet">
            Every contact leaves its course here: what was heard, pressed and decided, and why.
          </Empty>
        ) : (
          <DataGrid<Found>
            aria-label="Contacts"
            rows={list.data?.contacts ?? []}
            columns={columnsFor(session.time_zone).map((column) => ({ ...column, sortable: false }))}
            loading={list.isPending}
            rowCount={count}
            paginationMode="server"
            pageSizeOptions={[PAGE]}
            paginationModel={{ page, pageSize: PAGE }}
            onPaginationModelChange={(model) => setPage(model.page)}
            disableColumnFilter
            disableColumnMenu
            rowHeight={32}
            columnHeaderHeight={34}
            hideFooter={count <= PAGE}
            onRowClick={(row) => open(String(row.id))}
            onCellKeyDown={(cell, event) => {
              if (event.key === "Enter") open(String(cell.id));
            }}
            localeText={{ noRowsLabel: "No contact fits." }}
            sx={{
              background: "var(--sheet)",
              fontSize: 13,
              "& .MuiDataGrid-row": { cursor: "pointer" },
              "--DataGrid-t-header-background-base": "var(--sheet)",
            }}
          />
        )}
      </div>
    </section>
  );
}
