import { Button } from "@mui/material";
import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useDeferredValue, useState } from "react";
import { api, data, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Empty, Failure, Loading } from "../../frame/states";
import { stepForms, type StepKind } from "../flows/kinds";
import styles from "../shared/shared.module.css";
import { FindBox } from "../shared/FindBox";
import own from "./changelog.module.css";

type Change = Schemas["Change"];

const ID = /(?:[a-z]+:)?[0-9a-f]{8}(?:-[0-9a-f]{4}){3}-[0-9a-f]{12}/g;
const GONE = "something that is gone";

type Names = Record<string, string>;

/** A text with names in place of the ids in it. */
function named(text: string, names: Names): string {
  return text.replace(ID, (found) => names[found.slice(found.indexOf(":") + 1)] ?? GONE);
}

/** A recorded value in words: moments as the centre writes them, ids by their names. */
function said(field: string, value: unknown, names: Names, zone: string): string {
  if (value === undefined || value === null || value === "") return "nothing";
  if (typeof value === "boolean") return value ? "yes" : "no";
  const numbered = names[`${field}:${String(value as string | number)}`];
  if (numbered) return numbered;
  if (typeof value === "object") {
    const parts = Array.isArray(value)
      ? value.map((part) => said(field, part, names, zone))
      : Object.entries(value).map(
          ([key, part]) => `${named(key, names).replaceAll("_", " ")} ${said(key, part, names, zone)}`,
        );
    return parts.length ? parts.join(", ") : "nothing";
  }
  const text = String(value as string | number);
  return /^\d{4}-\d\d-\d\dT/.test(text) ? moment(text, zone) : named(text, names);
}

function shown(field: string, value: unknown, names: Names, zone: string): string {
  const text = said(field, value, names, zone);
  return text.length > 90 ? `${text.slice(0, 90)}…` : text;
}

interface Draft {
  steps: { id: string; kind: StepKind; name?: string; prompt?: { text?: string } | null }[];
}

/** What a stop is called: its name, the beginning of its words, or what it does. */
function stopWords({ kind, name, prompt }: Draft["steps"][number]): string {
  const text = prompt?.text ?? "";
  return name || (text.length > 32 ? `“${text.slice(0, 30)}…”` : text && `“${text}”`) || stepForms[kind].word;
}

/** What one adds to a list and takes out of it, by name. */
function listWords(field: string, before: unknown[], after: unknown[], names: Names, zone: string): string {
  const texts = (list: unknown[]) => list.map((item) => JSON.stringify(item));
  const [old, now] = [texts(before), texts(after)];
  const words = (list: unknown[]) => shown(field, list, names, zone);
  const more = after.filter((_, i) => !old.includes(now[i] ?? ""));
  const fewer = before.filter((_, i) => !now.includes(old[i] ?? ""));
  if (more.length + fewer.length === 0) return "in another order";
  return [more.length && `with ${words(more)}`, fewer.length && `without ${words(fewer)}`].filter(Boolean).join("; ");
}

/** What happened to a draft, by the names of its stops. */
function draftWords(before: Draft, after: Draft): string {
  const old = new Map(before.steps.map((step) => [step.id, JSON.stringify(step)]));
  const now = new Map(after.steps.map((step) => [step.id, JSON.stringify(step)]));
  const parts = [
    ["added", [...now.keys()].filter((id) => !old.has(id))],
    ["removed", [...old.keys()].filter((id) => !now.has(id))],
    ["changed", [...now].filter(([id, text]) => old.has(id) && old.get(id) !== text).map(([id]) => id)],
  ] as const;
  const names = new Map([...before.steps, ...after.steps].map((step) => [step.id, stopWords(step)]));
  const said = parts
    .filter(([, ids]) => ids.length)
    .map(([word, ids]) => `${word} ${ids.map((id) => names.get(id)).join(", ")}`);
  return said.join("; ") || "settings of the whole flow";
}

/** One field, before → after, as short as it can be told. */
function Difference({ name, before, after, names }: { name: string; before: unknown; after: unknown; names: Names }) {
  const { session } = useSession();
  const zone = session.time_zone;
  const title = name.replace(/_id$/, "").replaceAll("_", " ");
  if (name === "password_set_at")
    return (
      <div>
        <b>password</b> set anew
      </div>
    );
  if (name === "draft")
    return (
      <div className="nowrap">
        <b>stops</b> {draftWords(before as Draft, after as Draft)}
      </div>
    );
  if (Array.isArray(before) && Array.isArray(after))
    return (
      <div>
        <b>{title}</b> {listWords(name, before, after, names, zone)}
      </div>
    );
  return (
    <div className="nowrap">
      <b>{title}</b> {shown(name, before, names, zone)} <span className="dim">→</span> {shown(name, after, names, zone)}
    </div>
  );
}

/** The fields that differ; those that only follow from others are left out. */
function Differences({ change }: { change: Change }) {
  const before = (change.before ?? {}) as Record<string, unknown>;
  const after = (change.after ?? {}) as Record<string, unknown>;
  const names = [...new Set([...Object.keys(before), ...Object.keys(after)])].filter(
    (name) => name !== "id" && name !== "refers_to" && JSON.stringify(before[name]) !== JSON.stringify(after[name]),
  );
  if (change.verb !== "changed")
    return (
      <span className="dim">
        {names.length} fields{change.left_out.map((words) => `; left out: ${words}`)}
      </span>
    );
  return (
    <>
      {change.left_out.map((words) => (
        <div key={words}>left out: {words}</div>
      ))}
      {names.map((name) => (
        <Difference key={name} name={name} before={before[name]} after={after[name]} names={change.names} />
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
    onSuccess: (change) => {
      void cache.invalidateQueries();
      enqueueSnackbar(
        `${change.title}: taken back${change.left_out.length ? `, without ${change.left_out.join(", ")}` : ""}.`,
      );
    },
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
    },
  });
  return (
    <section aria-label="Change log">
      <div className={styles.head}>
        <h1>Change log</h1>
        <span className="dim">{list.data?.count ?? ""}</span>
        <FindBox
          label="Find in the change log"
          placeholder="Find a thing or a person"
          value={text}
          width={240}
          change={setText}
        />
      </div>
      {list.isPending && <Loading what="the change log" />}
      {list.isError && <Failure error={list.error} retry={() => void list.refetch()} />}
      {list.data?.count === 0 && <Empty title={search ? "Nothing fits" : "Nothing has been changed yet"} />}
      <table className={own.changes}>
        <colgroup>
          <col className={own.number} />
          <col className={own.moment} />
          <col className={own.person} />
          <col className={own.thing} />
          <col />
          <col className={own.acts} />
        </colgroup>
        <tbody>
          {list.data?.results.map((change) => (
            <tr key={change.id} className={own.change}>
              <td className="dim pad">{change.id}</td>
              <td className="pad">{moment(change.at, session.time_zone)}</td>
              <td className="pad">{change.by_name}</td>
              <td className="nowrap pad">
                <span className="dim">
                  {change.words} {change.verb}
                </span>{" "}
                <b title={change.title}>{change.title}</b>
              </td>
              <td className="pad">
                <Differences change={change} />
              </td>
              <td className={own.act}>
                {may("change", "changes") && (
                  <Button disabled={undo.isPending} onClick={() => undo.mutate(change.id)}>
                    Take back
                  </Button>
                )}
              </td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}
