import { Button } from "@mui/material";
import { useSnackbar } from "notistack";
import { useNavigate, useParams } from "react-router-dom";
import { type Schemas, words } from "../../api/client";
import { queues } from "../../api/resources";
import { useSession } from "../../frame/session";
import { Failure, Loading } from "../../frame/states";
import { useTopic } from "../../frame/useLive";
import { usePageTitle } from "../../frame/title";
import type { FloorQueue } from "../floor/types";
import { ConflictDialog } from "../shared/ConflictDialog";
import { CopyButton } from "../shared/CopyButton";
import { DeleteButton } from "../shared/DeleteButton";
import { FieldInput } from "../shared/FieldInput";
import type { Field } from "../shared/fields";
import { Fold } from "../shared/Fold";
import shared from "../shared/shared.module.css";
import { UsedBy } from "../shared/UsedBy";
import { errorOf, type ItemForm, useItemForm } from "../shared/useItemForm";
import { CallersClock } from "./CallersClock";
import { copied, fields, groups, type SettingsGroup } from "./fields";
import { Holds } from "./Holds";
import styles from "./queues.module.css";
import { ExpectedWait, Today } from "./Today";

type Queue = Schemas["Queue"];

function wide(field: Field): boolean {
  return (
    field.kind === "own" ||
    field.kind === "many" ||
    field.kind === "area" ||
    (field.kind === "number" && Boolean(field.nullable))
  );
}

/** Some settings of one kind, on the page's grid; those that are needed seldom are folded. */
function Group({ group, form, disabled }: { group: SettingsGroup; form: ItemForm<Queue>; disabled: boolean }) {
  const its = group.names.flatMap((wanted) => fields.find((one) => one.name === wanted) ?? []);
  const grid = (
    <div className={styles.pairs}>
      {its
        .filter((field) => !field.when || field.when(form.values))
        .map((field) => (
          <div key={field.name} className={wide(field) ? styles.wide : undefined}>
            <FieldInput
              field={field}
              value={form.values[field.name]}
              disabled={disabled}
              error={errorOf(form.errors, field.name)}
              values={form.values}
              change={(value) => form.set(field.name, value)}
            />
          </div>
        ))}
    </div>
  );
  if (!group.rare)
    return (
      <section className={shared.part} aria-label={group.title}>
        <h2>{group.title}</h2>
        {grid}
      </section>
    );
  return (
    <Fold
      title={group.title}
      holds={<Holds fields={its} values={form.values} />}
      needed={its.some((field) => errorOf(form.errors, field.name))}>
      {grid}
    </Fold>
  );
}

interface HeadProps {
  queue: Queue;
  form: ItemForm<Queue>;
  live: FloorQueue | undefined;
  mayChange: boolean;
}

/** The queue's name, how it stands, and what can be done with it as a whole. */
function Head({ queue, form, live, mayChange }: HeadProps) {
  const navigate = useNavigate();
  return (
    <div className={shared.head}>
      <i style={{ width: 10, height: 20, borderRadius: 2, background: String(form.values.colour) }} />
      <h1>{queue.name}</h1>
      {!queue.finished && <span className="chip warns">only a name so far</span>}
      <span className="dim">{live ? `${live.signed_in} signed in, ${live.waiting.length} waiting` : ""}</span>
      <span className={shared.grow} />
      {!mayChange && <span className="dim">Your role lets you look, not change.</span>}
      {form.dirty && <span className="dim">not saved yet; the clock shows what is typed</span>}
      <Button onClick={() => void navigate("/wait/queues")}>All queues</Button>
      {form.dirty && <Button onClick={form.revert}>Undo typing</Button>}
      {mayChange && (
        <Button type="submit" variant="contained" disabled={form.saving || !form.dirty}>
          {form.saving ? "Saving…" : "Save"}
        </Button>
      )}
      {mayChange && (
        <CopyButton
          resource={queues}
          name={queue.name}
          disabled={form.dirty}
          values={() => copied(queue)}
          open={(made) => void navigate(`/wait/queues/${made}`)}
        />
      )}
      {mayChange && (
        <DeleteButton resource={queues} id={queue.id} name={queue.name} gone={() => void navigate("/wait/queues")} />
      )}
    </div>
  );
}

/** What a queue is set to, and what that does to a caller. */
export default function QueuePage() {
  const { id = "" } = useParams();
  const { may } = useSession();
  const { enqueueSnackbar } = useSnackbar();
  const floor = useTopic("floor").view?.queues;
  const form = useItemForm(queues, id, {}, (queue) => {
    enqueueSnackbar(`${queue.name} is saved, and counts at once.`);
  });
  usePageTitle(form.record?.name);
  if (form.pending) return <Loading what="the queue" />;
  if (form.failure || !form.record)
    return <Failure error={form.failure} retry={form.reload} of={{ noun: "queue", list: "/wait/queues" }} />;
  const mayChange = may("change", "queues");
  const queue = form.record;
  const live = floor?.[id];
  return (
    <form
      className={styles.page}
      aria-label={queue.name}
      noValidate
      onSubmit={(event) => {
        event.preventDefault();
        form.save();
      }}>
      <Head queue={queue} form={form} live={live} mayChange={mayChange} />
      <div className={styles.halves}>
        <div className={styles.settings}>
          {form.saveError !== null && (
            <div role="alert" className="wrong">
              {words(form.saveError)}
            </div>
          )}
          {groups.map((group) => (
            <Group key={group.title} group={group} form={form} disabled={!mayChange} />
          ))}
          <UsedBy resource={queues} id={id} />
        </div>
        <div className={styles.shown}>
          <CallersClock
            id={id}
            values={form.values}
            threshold_s={Number(form.values.threshold_s) || 0}
            beads={live?.waiting ?? []}
          />
          <Today id={id} queue={live} />
          <ExpectedWait queue={live} />
        </div>
      </div>
      {form.conflict && <ConflictDialog conflict={form.conflict} fields={fields} settle={form.settle} />}
    </form>
  );
}
