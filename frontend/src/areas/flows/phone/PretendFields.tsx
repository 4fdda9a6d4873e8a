import { Checkbox, FormControlLabel, InputAdornment, MenuItem, TextField } from "@mui/material";
import type { Definition, Step, Stop } from "../../../api/client";
import { lengths } from "../../../api/lengths";
import { wallClock, zonedIso } from "../../../frame/format";
import { useSession } from "../../../frame/session";
import { InputValues } from "../../numbers/InputValue";
import { figureNames } from "../stepFields";
import { PretendRow } from "./PretendRow";
import type { Setup } from "./usePaper";
import { Ways } from "./Ways";
import { chosenOf } from "../../shared/chosen";
import { Fold } from "../../shared/Fold";
import { MomentBox } from "../../shared/MomentBox";

/** Figures of a queue that are asked for at the queue itself. */
const OFFERED = ["position", "expected_wait"];

interface Props {
  definition: Definition;
  stops: Stop[];
  setup: Setup;
  change: (setup: Setup) => void;
}

/** The references of a kind that the flow's stops name, each once, with the name of a stop that does. */
function named(definition: Definition, stops: Stop[], pick: (step: Step) => string | null): [string, string][] {
  const found = new Map<string, string>();
  for (const step of definition.steps) {
    const ref = pick(step);
    if (ref && !found.has(ref)) found.set(ref, stops.find((stop) => stop.id === step.id)?.name ?? step.id);
  }
  return [...found];
}

function without<T>(record: Record<string, T>, key: string): Record<string, T> {
  return Object.fromEntries(Object.entries(record).filter(([name]) => name !== key));
}

/** The figures that stops ask and that are not offered at the queues themselves, each once: whose, and where. */
function checks(definition: Definition, queues: string[]): { ref: string; figure: string; step: string }[] {
  const found = new Map<string, { ref: string; figure: string; step: string }>();
  for (const step of definition.steps) {
    if (step.kind !== "check_queue") continue;
    const ref = step.whole_centre ? "centre" : step.queue;
    if (ref && !(queues.includes(ref) && OFFERED.includes(step.figure)))
      found.set(
        `${ref} ${step.figure}`,
        found.get(`${ref} ${step.figure}`) ?? { ref, figure: step.figure, step: step.id },
      );
  }
  return [...found.values()];
}

/** One figure that is made up, or none. */
function Figure({
  label,
  help,
  unit,
  value,
  set,
}: {
  label: string;
  help: string;
  unit?: string;
  value: number | undefined;
  set: (value: number | undefined) => void;
}) {
  return (
    <TextField
      label={label}
      type="number"
      value={value ?? ""}
      helperText={help}
      slotProps={unit ? { input: { endAdornment: <InputAdornment position="end">{unit}</InputAdornment> } } : undefined}
      onChange={(event) => set(event.target.value === "" ? undefined : Number(event.target.value))}
    />
  );
}

type Pretend = Setup["pretend"];

function withFigure(pretend: Pretend, ref: string, figure: string, value: number | undefined): Pretend["figures"] {
  const known = pretend.figures[ref] ?? {};
  return { ...pretend.figures, [ref]: value === undefined ? without(known, figure) : { ...known, [figure]: value } };
}

const fromQueue = [
  ["", "wait for an answer"],
  ["nobody_there", "go on: nobody is signed in"],
  ["queue_closed", "go on: it is closed"],
] as const;

const REALLY = "as they really are then";

/** What is made up of a queue, in a line. */
function queueWords(queue: string, pretend: Pretend): string {
  const out = pretend.queues[queue];
  if (out) return fromQueue.find(([way]) => way === out)?.[1] ?? "";
  const wait = pretend.waits[queue];
  const { position, expected_wait } = pretend.figures[queue] ?? {};
  return [
    wait === null ? "nobody answers" : wait === undefined ? "answered at once" : `answered after ${wait} s`,
    ...(position === undefined ? [] : [`place ${position}`]),
    ...(expected_wait === undefined ? [] : [`${expected_wait} s told`]),
  ].join(" · ");
}

/** What a queue does with the caller of a trial. */
function QueueFields({
  queue,
  name,
  pretend,
  set,
}: {
  queue: string;
  name: string;
  pretend: Pretend;
  set: (changed: Partial<Pretend>) => void;
}) {
  const out = pretend.queues[queue] ?? "";
  const wait = pretend.waits[queue];
  return (
    <div role="group" aria-label={`Queue ${name}`} className="spaced">
      <Ways
        label={`In the queue ${name} callers`}
        value={out}
        ways={fromQueue}
        choose={(way) => set({ queues: way ? { ...pretend.queues, [queue]: way } : without(pretend.queues, queue) })}
      />
      {out === "" && (
        <TextField
          label="Answered after"
          value={wait === null ? "never" : (wait ?? "")}
          slotProps={{ input: { endAdornment: <InputAdornment position="end">s</InputAdornment> } }}
          helperText="or “never”; empty: at once"
          onChange={(event) => {
            const typed = event.target.value.trim();
            if (typed === "") set({ waits: without(pretend.waits, queue) });
            else set({ waits: { ...pretend.waits, [queue]: /^\d+$/.test(typed) ? Number(typed) : null } });
          }}
        />
      )}
      {queue.startsWith("queue:") && (
        <div className="beside">
          <Figure
            label="Place in line"
            help="empty: next"
            value={pretend.figures[queue]?.position}
            set={(value) => set({ figures: withFigure(pretend, queue, "position", value) })}
          />
          <Figure
            label="Expected wait"
            unit="s"
            help="empty: not told"
            value={pretend.figures[queue]?.expected_wait}
            set={(value) => set({ figures: withFigure(pretend, queue, "expected_wait", value) })}
          />
        </div>
      )}
    </div>
  );
}

const rings = [
  ["", "answers"],
  ["busy", "is busy"],
  ["away", "is not signed in"],
  ["no_answer", "does not answer"],
  ["failed", "cannot be reached"],
] as const;

/** The caller of a trial: who, which number, and when. */
export function CallerFields({ setup, change }: Pick<Props, "setup" | "change">) {
  const { session } = useSession();
  return (
    <>
      <TextField
        label="Who calls"
        value={setup.caller}
        error={!setup.caller}
        helperText={setup.caller ? undefined : "A caller is needed."}
        slotProps={{ htmlInput: { maxLength: lengths.Message.caller } }}
        onChange={(event) => change({ ...setup, caller: event.target.value })}
      />
      <TextField
        label="Number dialled"
        value={setup.dialled}
        placeholder="none of the centre’s"
        slotProps={{ htmlInput: { maxLength: lengths.Message.caller }, inputLabel: { shrink: true } }}
        onChange={(event) => change({ ...setup, dialled: event.target.value })}
      />
      <MomentBox
        label="Day and time"
        value={setup.at ? wallClock(setup.at, session.time_zone) : ""}
        helperText="Empty: now."
        change={(typed) => change({ ...setup, at: typed ? zonedIso(typed, session.time_zone) : null })}
      />
    </>
  );
}

/** What is made up for this trial, each in a fold of its stop: it stays with the trial, and no flow can carry it. */
export function PretendFields({ definition, stops, setup, change }: Props) {
  const { pretend } = setup;
  const set = (changed: Partial<Setup["pretend"]>) => {
    change({ ...setup, pretend: { ...pretend, ...changed } });
  };
  const queues = named(definition, stops, (step) => (step.kind === "queue" ? step.queue : null));
  const hours = named(definition, stops, (step) => (step.kind === "hours" ? step.hours : null));
  const ringing = definition.steps.filter((step) => step.kind === "ring");
  const tables = named(definition, stops, (step) => (step.kind === "lookup" ? step.table : null));
  const nameOf = (step: string) => stops.find((stop) => stop.id === step)?.name ?? step;
  const inForce = (value: boolean | undefined) => (value === undefined ? "" : value ? "open" : "closed");
  const figureOf = (figure: string) => figureNames.find((one) => one.value === figure)?.label ?? figure;
  const given = Object.keys(setup.values).length;
  const failing = pretend.failing.map(nameOf).join(", ");
  return (
    <>
      <Fold
        title="Where it begins, and with what"
        holds={`at ${setup.start ? nameOf(setup.start) : "the start"}${definition.inputs.length ? `, with ${given} of ${definition.inputs.length} values given` : ""}`}>
        <Ways
          label="Begins at"
          value={setup.start ?? ""}
          ways={[["", "the start"], ...stops.map((stop) => [stop.id, `${stop.title}: ${stop.name}`] as const)]}
          choose={(start) => change({ ...setup, start: start || null })}
        />
        <InputValues
          inputs={definition.inputs}
          values={setup.values}
          disabled={false}
          change={(values) => change({ ...setup, values })}
        />
      </Fold>
      {hours.map(([ref, name]) => (
        <Fold key={ref} title={`Hours: ${name}`} holds={inForce(pretend.hours[ref]) || REALLY}>
          <Ways
            label="They are"
            value={inForce(pretend.hours[ref])}
            ways={[
              ["", "as they really are then"],
              ["open", "open"],
              ["closed", "closed"],
            ]}
            choose={(way) =>
              set({ hours: way === "" ? without(pretend.hours, ref) : { ...pretend.hours, [ref]: way === "open" } })
            }
          />
        </Fold>
      ))}
      {queues.map(([ref, name]) => (
        <Fold key={ref} title={`Queue: ${name}`} holds={queueWords(ref, pretend)}>
          <QueueFields queue={ref} name={name} pretend={pretend} set={set} />
        </Fold>
      ))}
      {checks(
        definition,
        queues.map(([ref]) => ref),
      ).map(({ ref, figure, step }) => (
        <Fold
          key={`${ref} ${figure}`}
          title={`Checked: ${nameOf(step)}`}
          holds={
            pretend.figures[ref]?.[figure] === undefined
              ? "as many as there are members, nobody waits"
              : `${figureOf(figure)}: ${pretend.figures[ref][figure]}`
          }>
          <Figure
            label={figureOf(figure)}
            help="Empty: as many as there are members, nobody waits."
            value={pretend.figures[ref]?.[figure]}
            set={(value) => set({ figures: withFigure(pretend, ref, figure, value) })}
          />
        </Fold>
      ))}
      {tables.map(([ref, name]) => (
        <Fold
          key={ref}
          title={`Looked up: ${name}`}
          holds={
            pretend.rows[ref] === undefined
              ? "as it really stands there"
              : pretend.rows[ref] === null
                ? "no such row"
                : "a row of one’s own"
          }>
          <PretendRow
            table={ref}
            name={name}
            row={pretend.rows[ref]}
            set={(row) =>
              set({ rows: row === undefined ? without(pretend.rows, ref) : { ...pretend.rows, [ref]: row } })
            }
          />
        </Fold>
      ))}
      {ringing.map((step) => (
        <Fold
          key={step.id}
          title={`Rung: ${nameOf(step.id)}`}
          holds={rings.find(([way]) => way === (pretend.rings[step.id] ?? ""))?.[1]}>
          <Ways
            label="Who is rung"
            value={pretend.rings[step.id] ?? ""}
            ways={rings}
            choose={(way) =>
              set({ rings: way ? { ...pretend.rings, [step.id]: way } : without(pretend.rings, step.id) })
            }
          />
        </Fold>
      ))}
      <Fold
        title="Out of order"
        holds={[failing || "everything works", ...(pretend.fax ? ["the caller is a fax machine"] : [])].join(" · ")}>
        <TextField
          select
          label="Does not work"
          value={pretend.failing}
          slotProps={{ select: { multiple: true } }}
          helperText="These stops take their way for trouble."
          onChange={(event) => set({ failing: chosenOf(event.target.value) })}>
          {stops
            .filter((stop) => stop.exits.some((way) => way.failure))
            .map((stop) => (
              <MenuItem key={stop.id} value={stop.id}>
                {stop.title}: {stop.name}
              </MenuItem>
            ))}
        </TextField>
        {definition.steps.some((step) => step.kind === "fax") && (
          <FormControlLabel
            control={<Checkbox size="small" checked={pretend.fax} onChange={(_, on) => set({ fax: on })} />}
            label="the caller is a fax machine"
          />
        )}
      </Fold>
    </>
  );
}
