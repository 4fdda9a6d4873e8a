import { Button, InputBase } from "@mui/material";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useDeferredValue, useState } from "react";
import { api, data, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Empty, Failure, Loading } from "../../frame/states";
import styles from "../shared/shared.module.css";

type Change = Schemas["Change"];

function shown(value: unknown): string {
  if (value === undefined || value === null || value === "") return "nothing";
  const text = typeof value === "object" ? JSON.stringify(value) : String(value);
  return text.length > 90 ? `${text.slice(0, 90)}…` : text;
}

/** The fields that differ, before → after. */
function Differences({ change }: { change: Change }) {
  const before = (change.before ?? {}) as Record<string, unknown>;
  const after = (change.after ?? {}) as Record<string, unknown>;
  const names = [...new Set([...Object.keys(before), ...Object.keys(after)])].filter(
    (name) => name !== "id" && JSON.stringify(before[name]) !== JSON.stringify(after[name]),
  );
  if (change.verb !== "changed") return <span className="dim">{names.length} fields</span>;
  return (
    <>
      {names.map((name) => (
        <div key={name} className="nowrap">
          <b>{name.replaceAll("_", " ")}</b> {shown(before[name])} <span className="dim">→</span> {shown(after[name])}
        </div>
      ))}
    </>
  );
}

/** Who changed what, when, from what to what; and taking it back. */
export default function Changes() {
  const { session, may } = useSession();
  const [text, setText] = useState("");
  const search = useDeferredValue(text.trim());
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const query = { page_size: 60, ...(search && { search }) };
  const list = useQuery({
    queryKey: keys.list("changes", query),
    queryFn: () => data(api.GET("/api/v1/changes", { params: { query } })),
    placeholderData: keepPreviousData,
    staleTime: 0,
  });
  const undo = useMutation({
    mutationFn: (id: number) => data(api.POST("/api/v1/changes/{id}/undo", { params: { path: { id } } })),
    onSuccess: (change) => { void cache.invalidateQueries(); enqueueSnackbar(`${change.title}: taken back.`); },
    onError: (error) => { enqueueSnackbar(words(error), { variant: "error" }); },
  });
  return (
    <section aria-label="Change log">
      <div className={styles.head}>
        <h1>Change log</h1>
        <span className="dim">{list.data?.count ?? ""}</span>
        <InputBase placeholder="Find a thing or a person" value={text} onChange={(event) => { setText(event.target.value); }} inputProps={{ "aria-label": "Find in the change log" }}
          sx={{ px: 1, background: "var(--sheet)", border: "1px solid var(--edge)", borderRadius: 1, height: 28, width: 240 }} />
      </div>
      {list.isPending && <Loading what="the change log" />}
      {list.isError && <Failure error={list.error} retry={() => void list.refetch()} />}
      {list.data?.count === 0 && <Empty title={search ? "Nothing fits" : "Nothing has been changed yet"} />}
      <table style={{ width: "calc(100% - 32px)", margin: "0 16px 24px", background: "var(--sheet)", borderCollapse: "collapse", fontSize: 13, tableLayout: "fixed" }}>
        <colgroup><col style={{ width: 80 }} /><col style={{ width: 150 }} /><col style={{ width: 160 }} /><col style={{ width: 260 }} /><col /><col style={{ width: 90 }} /></colgroup>
        <tbody>
          {list.data?.results.map((change) => (
            <tr key={change.id} style={{ borderTop: "1px solid var(--line)", verticalAlign: "top" }}>
              <td className="dim" style={{ padding: 6 }}>{change.id}</td>
              <td style={{ padding: 6 }}>{moment(change.at, session.time_zone)}</td>
              <td style={{ padding: 6 }}>{change.by_name}</td>
              <td style={{ padding: 6 }} className="nowrap"><span className="dim">{change.words} {change.verb}</span> <b title={change.title}>{change.title}</b></td>
              <td style={{ padding: 6 }}><Differences change={change} /></td>
              <td style={{ padding: 2 }}>{may("change", "changes") && <Button disabled={undo.isPending} onClick={() => { undo.mutate(change.id); }}>Take back</Button>}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
