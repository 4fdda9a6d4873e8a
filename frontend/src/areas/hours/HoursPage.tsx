import { Button, TextField } from "@mui/material";
import { keepPreviousData, useMutation, useQuery } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { Link, useNavigate, useParams } from "react-router-dom";
import { api, data, type Schemas, words } from "../../api/client";
import { lengths } from "../../api/lengths";
import { keys } from "../../api/keys";
import { hours as resource } from "../../api/resources";
import { dateIn, dayOf, moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Failure, Glyph, Loading } from "../../frame/states";
import { usePageTitle } from "../../frame/title";
import { useNow } from "../../frame/useLive";
import { ConflictDialog } from "../shared/ConflictDialog";
import { CopyButton } from "../shared/CopyButton";
import { DeleteButton } from "../shared/DeleteButton";
import { type ItemForm, useItemForm } from "../shared/useItemForm";
import { CalendarDialog } from "./CalendarDialog";
import { CloseNowDialog, ExceptionDialog, HolidaysDialog, type HoursClosure, type HoursException } from "./dialogs";
import { MomentBox } from "../shared/MomentBox";
import { DESCRIPTION } from "../shared/fields";
import styles from "./hours.module.css";
import { Months } from "./Months";
import { PaintedWeek } from "./PaintedWeek";
import { type Week, words as spanWords } from "./spans";

type Hours = Schemas["Hours"];
type Look = Schemas["Look"];
type Plan = Schemas["HoursQuestionRequest"]["plan"];

/** What the core says of the plan as it is typed, now and at the moment asked for. */
function useLook(plan: Plan, at: string) {
  const minute = Math.floor(useNow(20_000) / 60_000);
  return useQuery({
    queryKey: keys.of("hours", "look", JSON.stringify(plan), at, minute),
    queryFn: () => data(api.POST("/api/v1/hours/look", { body: { plan, ...(at && { at }) } })),
    placeholderData: keepPreviousData,
    retry: false,
  });
}

function Answer({ answer, big }: { answer: Look["now"]; big?: boolean }) {
  const colour = answer.open ? "var(--fern-ink)" : "var(--plum-ink)";
  return (
    <>
      <div
        style={{
          display: "flex",
          gap: 8,
          alignItems: "center",
          color: colour,
          fontWeight: 660,
          fontSize: big ? 19 : 16,
        }}>
        <Glyph name={answer.open ? "ridge" : "dashed"} colour={colour} /> {answer.words}
      </div>
      <div className={`dim ${styles.why}`}>{answer.why.join(" → ")}</div>
    </>
  );
}

function AnswerRow({
  look,
  error,
  at,
  setAt,
}: {
  look: Look | undefined;
  error: unknown;
  at: string;
  setAt: (at: string) => void;
}) {
  return (
    <div className={styles.answers}>
      <div>
        {look ? <Answer answer={look.now} big /> : <Loading what="the answer" />}
        {error !== null && (
          <div role="alert" className="wrong">
            {words(error)}
          </div>
        )}
      </div>
      <div>
        <span className="along">
          <MomentBox label="Check another time" value={at} change={setAt} />
        </span>
        {look && at && (
          <div className={styles.then}>
            <Answer answer={look.then} />
          </div>
        )}
      </div>
    </div>
  );
}

function Exceptions({
  id,
  list,
  disabled,
  change,
}: {
  id: string;
  list: HoursException[];
  disabled: boolean;
  change: (list: HoursException[]) => void;
}) {
  const [editing, setEditing] = useState<number | null>(null);
  const [dialog, setDialog] = useState<"holidays" | "calendar" | null>(null);
  const close = () => {
    setDialog(null);
  };
  const sorted = list
    .map((exception, index) => ({ exception, index }))
    .sort((a, b) => a.exception.day.localeCompare(b.exception.day));
  const fresh: HoursException = { name: "", day: "", yearly: false, spans: [] };
  return (
    <section aria-label="Exceptions">
      <div className="along">
        <h2 className="fill">Exceptions</h2>
        {!disabled && <Button onClick={() => setDialog("holidays")}>Holidays…</Button>}
        {!disabled && <Button onClick={() => setDialog("calendar")}>iCalendar…</Button>}
        {!disabled && <Button onClick={() => setEditing(-1)}>Add…</Button>}
      </div>
      {list.length === 0 && <div className="dim">None: the weekly plan counts every day.</div>}
      {sorted.map(({ exception, index }) => (
        <div key={`${exception.day} ${String(exception.yearly)}`} className={styles.exception}>
          <span>{dayOf(exception.day, true)}</span>
          <button type="button" disabled={disabled} onClick={() => setEditing(index)}>
            <b>{exception.name}</b>
            <small className="dim">
              {exception.yearly ? "every year" : "once"} · {spanWords(exception.spans)}
            </small>
          </button>
          {!disabled && (
            <Button
              sx={{ minWidth: 0 }}
              aria-label={`Remove ${exception.name}`}
              onClick={() => change(list.filter((_, i) => i !== index))}>
              ✕
            </Button>
          )}
        </div>
      ))}
      {editing !== null && (
        <ExceptionDialog
          exception={list[editing] ?? fresh}
          close={() => setEditing(null)}
          save={(saved) => {
            change(editing < 0 ? [...list, saved] : list.map((old, i) => (i === editing ? saved : old)));
            setEditing(null);
          }}
        />
      )}
      {dialog === "holidays" && (
        <HolidaysDialog
          taken={new Set(list.map((e) => e.day))}
          close={close}
          take={(more) => {
            change([...list, ...more]);
            close();
          }}
        />
      )}
      {dialog === "calendar" && (
        <CalendarDialog
          id={id}
          list={list}
          close={close}
          take={(all) => {
            change(all);
            close();
          }}
        />
      )}
    </section>
  );
}

function Closure({
  closure,
  zone,
  mayChange,
  change,
}: {
  closure: HoursClosure | null;
  zone: string;
  mayChange: boolean;
  change: (closure: HoursClosure | null) => void;
}) {
  return (
    <section aria-label="Closure by hand">
      <h2>Closure by hand</h2>
      {closure ? (
        <>
          <div className="wrong">
            {closure.reason || "Closed"}
            {closure.until ? `, until ${moment(closure.until, zone)}` : ", until it is lifted"}
          </div>
          {mayChange && (
            <Button variant="outlined" onClick={() => change(null)}>
              Lift it
            </Button>
          )}
        </>
      ) : (
        <div className="dim">None in force.</div>
      )}
    </section>
  );
}

function Head({
  form,
  name,
  mayChange,
  closeNow,
  id,
}: {
  form: ItemForm<Hours>;
  name: string;
  mayChange: boolean;
  closeNow: () => void;
  id: string;
}) {
  const navigate = useNavigate();
  return (
    <div className={styles.head}>
      <h1 className="nowrap">{name}</h1>
      <span className="dim">{String(form.values.time_zone)}</span>
      <span className="fill" />
      {mayChange && (
        <Button variant="outlined" color="secondary" onClick={closeNow}>
          Close now…
        </Button>
      )}
      {form.dirty && <Button onClick={form.revert}>Undo typing</Button>}
      {mayChange && (
        <Button variant="contained" disabled={!form.dirty || form.saving} onClick={form.save}>
          {form.saving ? "Saving…" : "Save"}
        </Button>
      )}
      {mayChange && (
        <CopyButton
          resource={resource}
          name={name}
          disabled={form.dirty}
          open={(made) => void navigate(`/arrive/hours/${made}`)}
          values={() => {
            const { week, exceptions, closure, time_zone } = form.values as unknown as Hours;
            return { week, exceptions, closure, time_zone };
          }}
        />
      )}
      {mayChange && (
        <DeleteButton resource={resource} id={id} name={name} gone={() => void navigate("/arrive/hours")} />
      )}
    </div>
  );
}

/** The one page of one set of hours: the answer first, then what it comes from. */
export default function HoursPage() {
  const { id = "" } = useParams();
  return <Page key={id} id={id} />;
}

const fields = [
  { kind: "text" as const, name: "name", label: "Name" },
  DESCRIPTION,
  { kind: "text" as const, name: "time_zone", label: "Time zone" },
  { kind: "list" as const, name: "week", label: "Weekly plan" },
  { kind: "list" as const, name: "exceptions", label: "Exceptions" },
];

/** The plan as it is typed, with nothing where nothing came yet. */
function planOf(v: Hours) {
  return {
    time_zone: v.time_zone ?? "Europe/London",
    week: v.week ?? [[], [], [], [], [], [], []],
    exceptions: v.exceptions ?? [],
    closure: v.closure ?? null,
  };
}

function Page({ id }: { id: string }) {
  const { may } = useSession();
  const { enqueueSnackbar } = useSnackbar();
  const [at, setAt] = useState("");
  const [closing, setClosing] = useState(false);
  const form = useItemForm<Hours>(resource, id, {}, () => {
    enqueueSnackbar("The hours are saved; they count at once.");
  });
  usePageTitle(form.record?.name);
  const uses = useQuery({ queryKey: keys.uses("hours", id), queryFn: () => resource.uses(id) });
  const v = form.values as unknown as Hours;
  const plan = planOf(v);
  const look = useLook(plan, at);
  const closure = useMutation({
    mutationFn: (closed: HoursClosure | null) =>
      resource.change(id, { closure: closed, revision: form.record?.revision }),
    onSuccess: (record) => {
      form.took(record);
      setClosing(false);
      enqueueSnackbar(record.closure ? "Closed at once." : "The closure is lifted.");
    },
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
    },
  });
  if (form.pending) return <Loading what="the hours" />;
  if (form.failure)
    return <Failure error={form.failure} retry={form.reload} of={{ noun: "hours", list: "/arrive/hours" }} />;
  const mayChange = may("change", "hours");
  const today = look.data ? dateIn(look.data.now.at, plan.time_zone) : "";
  return (
    <div className={styles.page}>
      <Head form={form} name={v.name} mayChange={mayChange} closeNow={() => setClosing(true)} id={id} />
      <AnswerRow look={look.data} error={form.saveError ?? look.error} at={at} setAt={setAt} />
      <div className={styles.body}>
        <div className={styles.left}>
          <PaintedWeek week={plan.week as Week} disabled={!mayChange} change={(week) => form.set("week", week)} />
          {look.data && <Months days={look.data.days} today={today} />}
        </div>
        <aside className={styles.aside}>
          <Exceptions
            id={id}
            list={plan.exceptions}
            disabled={!mayChange}
            change={(list) => form.set("exceptions", list)}
          />
          <section aria-label="Next changes">
            <h2>Next changes</h2>
            {look.data?.changes.map((change) => (
              <div key={change.at} className={styles.change}>
                <span>{moment(change.at, plan.time_zone)}</span>
                {change.open ? "opens" : "closes"}
              </div>
            ))}
            {look.data?.changes.length === 0 && <div className="dim">None: it stays as it is.</div>}
          </section>
          <Closure closure={v.closure ?? null} zone={plan.time_zone} mayChange={mayChange} change={closure.mutate} />
          <section aria-label="Name and time zone" className="spaced">
            <TextField
              label="Name"
              value={v.name}
              disabled={!mayChange}
              error={Boolean(form.errors.name)}
              helperText={form.errors.name?.[0]}
              onChange={(event) => form.set("name", event.target.value)}
            />
            <TextField
              label="What it is for"
              value={v.description ?? ""}
              disabled={!mayChange}
              error={Boolean(form.errors.description)}
              helperText={form.errors.description?.[0]}
              slotProps={{ htmlInput: { maxLength: lengths.Hours.description } }}
              onChange={(event) => form.set("description", event.target.value)}
            />
            <TextField
              label="Time zone"
              value={plan.time_zone}
              disabled={!mayChange}
              onChange={(event) => form.set("time_zone", event.target.value)}
            />
          </section>
          <section aria-label="Decides in">
            <h2>Decides in</h2>
            {uses.data?.length === 0 && <div className="dim">No flow asks these hours yet.</div>}
            {uses.data?.map((use) => (
              <div key={use.id}>
                <Link to={`/guide/flows/${use.id}`}>{use.name}</Link> <span className="dim">{use.how}</span>
              </div>
            ))}
          </section>
        </aside>
      </div>
      {closing && <CloseNowDialog zone={plan.time_zone} close={() => setClosing(false)} closeNow={closure.mutate} />}
      {form.conflict && <ConflictDialog conflict={form.conflict} fields={fields} settle={form.settle} />}
    </div>
  );
}
