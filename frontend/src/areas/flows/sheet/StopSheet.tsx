import { Autocomplete, Button, TextField } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { Link } from "react-router-dom";
import type { Definition, Step, Stop } from "../../../api/client";
import { keys } from "../../../api/keys";
import { hours } from "../../../api/resources";
import { clock } from "../../../frame/format";
import shared from "../../shared/shared.module.css";
import { addArm, addAt, kindWords, newStep, removeStep, setStep, setTarget, spoken, type StepKind, stepOf } from "../edits";
import type { FlowDraft } from "../useFlowDraft";
import { MenuSheet, type StepProps } from "./MenuSheet";
import { PromptField } from "./PromptField";
import { type Choice, TargetPicker, useQueues } from "./TargetPicker";

type Of<K extends StepKind> = Extract<Step, { kind: K }>;

function SaySheet({ step, stops, language, disabled, change, lead }: StepProps<Of<"say">>) {
  return (
    <>
      <PromptField label="The caller hears" prompt={step.prompt} language={language} disabled={disabled}
        change={(prompt, typing) => { change({ ...step, prompt }, typing ? `${step.id} prompt` : ""); }} />
      <TargetPicker label="Then leads to" value={step.next} own={step.id} stops={stops} disabled={disabled} choose={(choice) => { lead("next", choice); }} />
    </>
  );
}

interface QueueOption {
  ref: string;
  name: string;
  create: boolean;
}

function QueueSheet({ step, stops, disabled, change, lead }: StepProps<Of<"queue">>) {
  const { list, create } = useQueues();
  const options = list.map((queue): QueueOption => ({ ref: `queue:${queue.id}`, name: queue.name, create: false }));
  const queue = list.find((item) => `queue:${item.id}` === step.queue);
  const take = (option: QueueOption | null) => {
    if (option?.create) create.mutate(option.name, { onSuccess: (made) => { change({ ...step, queue: `queue:${made.id}` }); } });
    else change({ ...step, queue: option?.ref ?? null });
  };
  return (
    <>
      <Autocomplete
        size="small" disabled={disabled || create.isPending} options={options}
        value={options.find((option) => option.ref === step.queue) ?? null}
        getOptionLabel={(option) => (option.create ? `Create queue “${option.name}”` : option.name)}
        isOptionEqualToValue={(a, b) => a.ref === b.ref}
        filterOptions={(all, { inputValue }) => {
          const typed = inputValue.trim().toLowerCase();
          const found = all.filter((option) => option.name.toLowerCase().includes(typed));
          const same = all.some((option) => option.name.toLowerCase() === typed);
          return typed && !same ? [...found, { ref: "", name: inputValue.trim(), create: true }] : found;
        }}
        onChange={(_, option) => { take(option); }}
        renderInput={(params) => <TextField {...params} label="Waits in the queue" placeholder="Choose, or type a new name" />}
      />
      {queue && (
        <div className="dim">
          {queue.finished ? `${queue.member_count} members; threshold ${clock((queue.threshold_s ?? 0) * 1000)}. ` : "Only a name so far. "}
          <Link to={`/wait/queues/${queue.id}`}>{queue.finished ? "Open the queue" : "Set it up"}</Link>
        </div>
      )}
      <TargetPicker
        label={queue?.longest_wait_s ? `After ${clock(queue.longest_wait_s * 1000)} of waiting leads to` : "After the longest wait leads to"}
        value={step.waited} own={step.id} stops={stops} disabled={disabled} choose={(choice) => { lead("waited", choice); }} />
    </>
  );
}

function HoursSheet({ step, stops, disabled, change, lead }: StepProps<Of<"hours">>) {
  const query = { page_size: 500 };
  const list = useQuery({ queryKey: keys.list("hours", query), queryFn: () => hours.list(query) });
  const all = list.data?.results ?? [];
  const chosen = all.find((item) => `hours:${item.id}` === step.hours) ?? null;
  return (
    <>
      <Autocomplete
        size="small" disabled={disabled} options={all} value={chosen} loading={list.isPending}
        getOptionLabel={(item) => item.name} isOptionEqualToValue={(a, b) => a.id === b.id}
        onChange={(_, item) => { change({ ...step, hours: item ? `hours:${item.id}` : null }); }}
        renderInput={(params) => <TextField {...params} label="Asks the hours" />}
      />
      {chosen && <div className="dim">{chosen.now}. <Link to={`/arrive/hours/${chosen.id}`}>Open the hours</Link></div>}
      <TargetPicker label="While open leads to" value={step.open} own={step.id} stops={stops} disabled={disabled} choose={(choice) => { lead("open", choice); }} />
      <TargetPicker label="While closed leads to" value={step.closed} own={step.id} stops={stops} disabled={disabled} choose={(choice) => { lead("closed", choice); }} />
    </>
  );
}

function EndSheet({ step, language, disabled, change }: StepProps<Of<"end">>) {
  return (
    <>
      <TextField label="Name of this ending" value={step.label} disabled={disabled} slotProps={{ htmlInput: { maxLength: 80 } }} onChange={(event) => { change({ ...step, label: event.target.value }, `${step.id} label`); }} />
      {step.prompt ? (
        <>
          <PromptField label="Last words" prompt={step.prompt} language={language} disabled={disabled}
            change={(prompt, typing) => { change({ ...step, prompt }, typing ? `${step.id} prompt` : ""); }} />
          <div><Button disabled={disabled} onClick={() => { change({ ...step, prompt: null }); }}>No last words</Button></div>
        </>
      ) : (
        <div><Button variant="outlined" disabled={disabled} onClick={() => { change({ ...step, prompt: spoken("", language) }); }}>Say last words…</Button></div>
      )}
    </>
  );
}

function Body(props: StepProps<Step> & { addArm: () => void }) {
  const { step } = props;
  switch (step.kind) {
    case "say":
      return <SaySheet {...(props as unknown as StepProps<Of<"say">>)} />;
    case "menu":
      return <MenuSheet {...(props as unknown as StepProps<Of<"menu">> & { addArm: () => void })} />;
    case "hours":
      return <HoursSheet {...(props as unknown as StepProps<Of<"hours">>)} />;
    case "queue":
      return <QueueSheet {...(props as unknown as StepProps<Of<"queue">>)} />;
    case "end":
      return <EndSheet {...(props as unknown as StepProps<Of<"end">>)} />;
  }
}

interface Props {
  draft: FlowDraft;
  definition: Definition;
  id: string;
  stops: Stop[];
  mayChange: boolean;
  select: (id: string | null) => void;
}

/** Everything of one stop in one place, in the order in which the caller meets it. */
export function StopSheet({ draft, definition, id, stops, mayChange, select }: Props) {
  const step = stepOf(definition, id);
  if (!step) return null;
  const lead = (exit: string, choice: Choice) => {
    if ("to" in choice) draft.edit(setTarget(definition, id, exit, choice.to));
    else {
      const made = newStep(definition, choice.make, choice.queue);
      draft.edit(addAt(definition, id, exit, made));
    }
  };
  const name = stops.find((stop) => stop.id === id)?.name ?? step.id;
  return (
    <div className={shared.sheet} data-sheet>
      <div className={shared.sheetHead}>
        <h1 className="nowrap" title={name}><span style={{ color: "var(--clay-ink)", fontWeight: 500, fontSize: 13 }}>{kindWords[step.kind]}</span> {name}</h1>
        {mayChange && <Button color="error" onClick={() => { draft.edit(removeStep(definition, id)); select(null); }}>Remove</Button>}
      </div>
      <div className={shared.fields}>
        <Body key={id} step={step} stops={stops} language={definition.language} disabled={!mayChange}
          change={(changed, tag) => { draft.edit(setStep(definition, changed), tag); }} lead={lead}
          addArm={() => { if (step.kind === "menu") draft.edit(addArm(definition, step)); }} />
      </div>
    </div>
  );
}
