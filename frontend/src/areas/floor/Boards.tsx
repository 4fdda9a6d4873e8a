import {
  Button,
  Checkbox,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  FormControlLabel,
  TextField,
  ToggleButton,
  ToggleButtonGroup,
} from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { api, data, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { useSession } from "../../frame/session";
import { Empty, Failure, Loading } from "../../frame/states";
import { useTopic } from "../../frame/useLive";
import styles from "./floor.module.css";

type Board = Schemas["Board"];
type Draft = Pick<Board, "name" | "shared" | "queues" | "columns" | "totals"> & { id?: number };

const columns: [string, string][] = [
  ["waiting", "waiting"],
  ["longest", "longest wait"],
  ["expected", "expected wait"],
  ["available", "available"],
  ["on_contact", "on contact"],
  ["answered", "answered"],
  ["abandoned", "abandoned"],
  ["level", "service level"],
];
const totals: [string, string][] = [
  ["signed_in", "signed in"],
  ["available", "available"],
  ["ringing", "ringing"],
  ["on_contact", "on contact"],
  ["wrapping", "wrapping up"],
  ["away", "away"],
  ["waiting", "waiting"],
  ["longest", "longest wait"],
  ["answered", "answered"],
  ["abandoned", "abandoned"],
  ["level", "service level"],
];
const first: Draft = {
  name: "",
  shared: false,
  queues: [],
  columns: ["waiting", "longest", "level"],
  totals: ["signed_in", "available", "ringing", "on_contact", "wrapping", "away", "level"],
};

/** What of a board can be changed. */
function draftOf({ name, shared, queues, columns: of, totals: all }: Board): Draft {
  return { name, shared, queues, columns: of, totals: all };
}

/** Some of several things, in the order in which they are chosen. */
function Chosen({
  label,
  options,
  value,
  change,
}: {
  label: string;
  options: [string, string][];
  value: string[];
  change: (value: string[]) => void;
}) {
  return (
    <div>
      <div className={`dim ${styles.caption}`}>{label}</div>
      <ToggleButtonGroup
        size="small"
        value={value}
        aria-label={label}
        sx={{ flexWrap: "wrap" }}
        onChange={(_, next: string[]) => change(next)}>
        {options.map(([key, name]) => (
          <ToggleButton key={key} value={key}>
            {value.includes(key) ? `${value.indexOf(key) + 1}. ` : ""}
            {name}
          </ToggleButton>
        ))}
      </ToggleButtonGroup>
    </div>
  );
}

function EditDialog({ begun, close }: { begun: Draft; close: () => void }) {
  const cache = useQueryClient();
  const { may } = useSession();
  const [draft, setDraft] = useState(begun);
  const set = (change: Partial<Draft>) => {
    setDraft({ ...draft, ...change });
  };
  const floor = useTopic("floor").view;
  const save = useMutation({
    mutationFn: () => {
      const { id, ...rest } = draft;
      const body = rest as Board;
      return id === undefined
        ? data(api.POST("/api/v1/boards", { body }))
        : data(api.PUT("/api/v1/boards/{id}", { params: { path: { id } }, body }));
    },
    onSuccess: () => {
      void cache.invalidateQueries({ queryKey: keys.all("boards") });
      close();
    },
  });
  const queues = Object.entries(floor?.queues ?? {})
    .map(([id, queue]): [string, string] => [id, queue.name])
    .sort(([, a], [, b]) => a.localeCompare(b));
  return (
    <Dialog open onClose={close} maxWidth="sm" fullWidth>
      <DialogTitle>{begun.id === undefined ? "New board" : begun.name}</DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 2 }}>
        <TextField
          label="Name"
          required
          value={draft.name}
          sx={{ mt: 1 }}
          onChange={(event) => set({ name: event.target.value })}
        />
        <Chosen
          label="Queues, in this order; none chosen: all"
          options={queues}
          value={draft.queues ?? []}
          change={(value) => set({ queues: value })}
        />
        <Chosen
          label="Of each queue"
          options={columns}
          value={draft.columns ?? []}
          change={(value) => set({ columns: value as Draft["columns"] })}
        />
        <Chosen
          label="Of all together"
          options={totals}
          value={draft.totals ?? []}
          change={(value) => set({ totals: value as Draft["totals"] })}
        />
        {may("use", "floor") && (
          <FormControlLabel
            label="Shared: others see it in their list"
            control={
              <Checkbox size="small" checked={draft.shared ?? false} onChange={(_, on) => set({ shared: on })} />
            }
          />
        )}
        {save.isError && <div role="alert">{words(save.error)}</div>}
      </DialogContent>
      <DialogActions>
        <Button onClick={close}>Cancel</Button>
        <Button variant="contained" disabled={!draft.name.trim() || save.isPending} onClick={() => save.mutate()}>
          Save
        </Button>
      </DialogActions>
    </Dialog>
  );
}

function Row({ board, edit }: { board: Board; edit: () => void }) {
  const cache = useQueryClient();
  const { may } = useSession();
  const { enqueueSnackbar, closeSnackbar } = useSnackbar();
  const done = () => void cache.invalidateQueries({ queryKey: keys.all("boards") });
  const onError = (error: unknown) => {
    enqueueSnackbar(words(error), { variant: "error" });
  };
  const path = { id: board.id };
  const link = useMutation({
    mutationFn: () => data(api.POST("/api/v1/boards/{id}/link", { params: { path } })),
    onSuccess: done,
    onError,
  });
  const withdraw = useMutation({
    mutationFn: () => data(api.DELETE("/api/v1/boards/{id}/link", { params: { path } })),
    onSuccess: done,
    onError,
  });
  const again = useMutation({
    mutationFn: () => data(api.POST("/api/v1/boards", { body: draftOf(board) as Board })),
    onSuccess: done,
    onError,
  });
  const remove = useMutation({
    mutationFn: () => api.DELETE("/api/v1/boards/{id}", { params: { path } }),
    onError,
    onSuccess: () => {
      done();
      enqueueSnackbar(`“${board.name}” is deleted${board.token ? ", and its link leads nowhere" : ""}.`, {
        action: (key) => (
          <Button
            color="inherit"
            onClick={() => {
              closeSnackbar(key);
              again.mutate();
            }}>
            Undo
          </Button>
        ),
      });
    },
  });
  const address = board.token && `${window.location.origin}/wall/${board.token}`;
  return (
    <tr>
      <td>
        <b>{board.name}</b>
        {!board.mine && <span className="dim"> by {board.owner_name}</span>}
        {board.mine && board.shared && <span className="dim"> shared</span>}
      </td>
      <td>
        {address ? (
          <input
            className={styles.address}
            readOnly
            aria-label={`Link of ${board.name}`}
            value={address}
            onFocus={(event) => event.target.select()}
          />
        ) : (
          <span className="dim">{board.mine ? "no link" : ""}</span>
        )}
      </td>
      <td className={styles.boardActs}>
        <Button size="small" variant="outlined" href={`/wall/board/${board.id}`} target="_blank">
          Open
        </Button>
        {board.mine && may("use", "floor") && !address && (
          <Button size="small" disabled={link.isPending} onClick={() => link.mutate()}>
            Make a link
          </Button>
        )}
        {board.mine && address && (
          <Button size="small" disabled={withdraw.isPending} onClick={() => withdraw.mutate()}>
            Withdraw the link
          </Button>
        )}
        {board.mine && (
          <Button size="small" onClick={edit}>
            Edit
          </Button>
        )}
        {board.mine && (
          <Button size="small" color="secondary" disabled={remove.isPending} onClick={() => remove.mutate()}>
            Delete
          </Button>
        )}
      </td>
    </tr>
  );
}

/** Boards for walls: chosen, arranged, shared, and read by a link that can be withdrawn. */
export default function Boards() {
  const list = useQuery({ queryKey: keys.list("boards", {}), queryFn: () => data(api.GET("/api/v1/boards")) });
  const [edited, setEdited] = useState<Draft | null>(null);
  return (
    <>
      <div className={styles.head}>
        <h1>Boards</h1>
        <span className="dim">for a wall: N changes between day and night</span>
        <span className="fill" />
        <Button variant="contained" onClick={() => setEdited(first)}>
          New board
        </Button>
      </div>
      {list.isError ? (
        <Failure error={list.error} retry={() => void list.refetch()} />
      ) : !list.data ? (
        <Loading what="the boards" />
      ) : list.data.length === 0 ? (
        <Empty title="No boards yet">
          A board shows chosen queues and figures so large that they are read from across the room. By its link it opens
          without a sign-in, and shows nobody’s name and no number.
        </Empty>
      ) : (
        <table className={styles.table}>
          <colgroup>
            <col className={styles.boardName} />
            <col />
            <col className={styles.boardAddress} />
          </colgroup>
          <thead>
            <tr>
              <th>Board</th>
              <th>Link</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {list.data.map((board) => (
              <Row key={board.id} board={board} edit={() => setEdited({ ...draftOf(board), id: board.id })} />
            ))}
          </tbody>
        </table>
      )}
      {edited && <EditDialog begun={edited} close={() => setEdited(null)} />}
    </>
  );
}
