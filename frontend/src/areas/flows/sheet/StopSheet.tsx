import { Button, Checkbox, FormControlLabel, MenuItem, TextField } from "@mui/material";
import type { Definition, Prompt, Step, Stop } from "../../../api/client";
import { lengths } from "../../../api/lengths";
import { agents } from "../../../api/resources";
import { Fold } from "../../shared/Fold";
import shared from "../../shared/shared.module.css";
import { SkillRows } from "../../agents/SkillLevels";
import { NumberBox } from "../../shared/NumberBox";
import { ThingsPicker } from "../../shared/ThingPicker";
import { addArm, addAt, fieldOf, type Menu, newStep, removeStep, setStep, setTarget, stepOf } from "../edits";
import { knownValues } from "../flowValues";
import { kindWord, offered, stepForms } from "../kinds";
import { often, partsOf, type SheetPart, type SmallField, type StepField } from "../stepFields";
import type { FlowDraft } from "../useFlowDraft";
import type { Clipboard } from "../useClipboard";
import { CopyMenu } from "./CopyMenu";
import { ForkArms } from "./ForkArms";
import { BlockValues, Cells } from "./HandedValues";
import { MaySay } from "./MaySay";
import { MenuSheet } from "./MenuSheet";
import { PhoneField } from "./PhoneField";
import { PromptField } from "./PromptField";
import { RefPicker } from "./RefPicker";
import type { StepProps } from "./stepProps";
import { useRowValues } from "./useRowValues";
import { type Choice, TargetPicker, wayWords } from "./TargetPicker";
import { TimesArms } from "./TimesArms";
import { ValueField } from "./ValueField";

/** An answer in writing may take a day. */
const ANSWERED_WITHIN_S = 86_400;

interface PeopleProps {
  label: string;
  value: string[];
  held: StepProps<Step>["held"];
  disabled: boolean;
  change: (people: string[]) => void;
}

/** People by name, or whoever a looked-up row names. */
function PeopleField({ label, value, held, disabled, change }: PeopleProps) {
  const named = held.filter((one) => one.type === "agent");
  const ids = value.filter((ref) => ref.startsWith("agent:")).map((ref) => ref.slice("agent:".length));
  const rows = value.filter((ref) => !ref.startsWith("agent:"));
  return (
    <>
      <ThingsPicker
        resource={agents}
        nameOf={(agent) => agent.name}
        disabled={disabled}
        field={{ label }}
        value={ids}
        choose={(chosen) => change([...chosen.map((id) => `agent:${id}`), ...rows])}
      />
      {(named.length > 0 || rows.length > 0) && (
        <TextField
          select
          label="And whoever a row names"
          value={rows[0] ?? ""}
          disabled={disabled}
          onChange={(event) =>
            change([...ids.map((id) => `agent:${id}`), ...(event.target.value ? [event.target.value] : [])])
          }>
          <MenuItem value="">Nobody besides</MenuItem>
          {named.map((one) => (
            <MenuItem key={one.name} value={`value:${one.name}`}>
              {one.label}
            </MenuItem>
          ))}
        </TextField>
      )}
    </>
  );
}

type Named = Exclude<StepField, { kind: "part" | "row" | "conditions" | "times" | "cells" | "block_values" }>;

/** A field that sets one part of the step by its name. */
function NamedField({ field, props }: { field: Named; props: StepProps<Step> }) {
  const { step, stops, kinds, language, known, disabled, change, lead } = props;
  const value = fieldOf(step, field.name);
  const tag = `${step.id} ${field.name}`;
  const set = (changed: unknown, typing = true) => {
    change({ ...step, [field.name]: changed } as Step, typing ? tag : "");
  };
  switch (field.kind) {
    case "prompt":
      return (
        <PromptField
          label={field.label}
          prompt={value as Prompt}
          language={language}
          inputs={props.held}
          disabled={disabled}
          change={set}
        />
      );
    case "may_say":
      return (
        <MaySay label={field.label} value={value as Prompt | null} offer="say something…" props={props} change={set} />
      );
    case "thing":
      return (
        <RefPicker
          of={field.of}
          label={field.label}
          empty={field.empty}
          value={value as string | null}
          inputs={props.held}
          disabled={disabled}
          choose={(ref) => set(ref, false)}
        />
      );
    case "people":
      return (
        <PeopleField
          label={field.label}
          value={value as string[]}
          held={props.held}
          disabled={disabled}
          change={(people) => set(people, false)}
        />
      );
    case "skills":
      return (
        <SkillRows
          label="Agents must be able to"
          word="At least"
          rows={(value as { skill: string; least: number }[]).map((row) => ({
            skill: row.skill.slice(6),
            level: row.least,
          }))}
          disabled={disabled}
          change={(rows) =>
            set(
              rows.map((row) => ({ skill: `skill:${row.skill}`, least: row.level })),
              false,
            )
          }
        />
      );
    case "text":
      return (
        <TextField
          label={field.label}
          value={value}
          disabled={disabled}
          helperText={field.help}
          slotProps={{ htmlInput: { maxLength: lengths.DefinitionMenu.name } }}
          onChange={(event) => set(event.target.value)}
        />
      );
    case "value":
      return (
        <ValueField
          label={field.label}
          value={value as string | null}
          known={known}
          help={field.help}
          disabled={disabled}
          change={(name) => {
            if (name !== null || field.optional) set(name);
          }}
        />
      );
    case "typed":
      return (
        <TextField
          label={field.label}
          value={value === true ? "yes" : value === false ? "no" : (value ?? "")}
          disabled={disabled}
          slotProps={{ htmlInput: { maxLength: lengths.DefinitionSetValue.to } }}
          onChange={(event) => set(event.target.value)}
        />
      );
    case "number":
      return (
        <NumberBox
          label={field.label}
          value={value as number | null}
          least={field.least}
          disabled={disabled}
          empty={field.optional}
          change={set}
          most={field.most}
          unit={field.unit}
          help={field.help}
        />
      );
    case "choice":
      return (
        <TextField
          select
          label={field.label}
          value={value ?? ""}
          disabled={disabled}
          onChange={(event) =>
            set(event.target.value === "" && field.name === "language" ? null : event.target.value, false)
          }>
          {field.options.map((option) => (
            <MenuItem key={option.value} value={option.value}>
              {option.label}
            </MenuItem>
          ))}
        </TextField>
      );
    case "tick":
      return (
        <FormControlLabel
          control={
            <Checkbox size="small" checked={Boolean(value)} disabled={disabled} onChange={(_, on) => set(on, false)} />
          }
          label={field.label}
        />
      );
    case "phone":
      return (
        <PhoneField label={field.label} value={value as string} disabled={disabled} change={(number) => set(number)} />
      );
    case "exit":
      return (
        <TargetPicker
          label={field.label}
          empty={field.empty}
          value={value as string | null}
          own={step.id}
          stops={stops}
          kinds={kinds}
          disabled={disabled}
          choose={(choice) => lead(field.name, choice)}
        />
      );
  }
}

/** A small field within a sentence. */
function InSentence({ field, props }: { field: SmallField; props: StepProps<Step> }) {
  const { step, disabled, change } = props;
  const value = fieldOf(step, field.name);
  const set = (changed: unknown, typing = false) => {
    change({ ...step, [field.name]: changed } as Step, typing ? `${step.id} ${field.name}` : "");
  };
  if (field.kind === "number")
    return (
      <NumberBox
        bare
        label={field.label}
        value={value as number}
        least={field.least}
        most={props.channel === "text" && field.name === "wait_s" ? ANSWERED_WITHIN_S : field.most}
        unit={field.unit}
        disabled={disabled}
        change={(to) => set(to, true)}
      />
    );
  const options =
    field.kind === "choice"
      ? field.options
      : Array.from({ length: field.most }, (_, i) => ({ value: i + 1, label: often(i + 1) }));
  return (
    <TextField
      select
      value={value ?? ""}
      disabled={disabled}
      slotProps={{ htmlInput: { "aria-label": field.label } }}
      onChange={(event) => set(event.target.value)}>
      {options.map((option) => (
        <MenuItem key={option.value} value={option.value}>
          {option.label}
        </MenuItem>
      ))}
    </TextField>
  );
}

/** A sentence that is filled in: “1 to 8 digits, ended by #”. */
function Sentence({ words, props }: { words: (string | SmallField)[]; props: StepProps<Step> }) {
  const said = (text: string) => text.replace("{a key}", props.channel === "text" ? "an answer" : "a key");
  return (
    <div className={shared.sentence}>
      {words.map((word, i) =>
        typeof word === "string" ? (
          <span key={i}>{said(word)}</span>
        ) : (
          <InSentence key={i} field={word} props={props} />
        ),
      )}
    </div>
  );
}

/** One field of a stop. */
function OneField({ field, props }: { field: StepField; props: StepProps<Step> }) {
  if ("when" in field && field.when && !field.when(props.step)) return null;
  if (field.kind === "tick" && field.voice && props.channel === "text") return null;
  const as = <T extends Step>() => props as StepProps<T>;
  switch (field.kind) {
    case "part":
      return null;
    case "row":
      return <Sentence words={field.words} props={props} />;
    case "conditions":
      return <ForkArms {...as<Extract<Step, { kind: "fork" }>>()} />;
    case "times":
      return <TimesArms {...as<Extract<Step, { kind: "times" }>>()} />;
    case "cells":
      return <Cells {...as<Extract<Step, { kind: "lookup" }>>()} label={field.label} />;
    case "block_values":
      return <BlockValues {...as<Extract<Step, { kind: "block" }>>()} />;
    default:
      return <NamedField field={field} props={props} />;
  }
}

type Way = Extract<StepField, { kind: "exit" }>;

/** A part of a stop's sheet. What if it fails is folded where all of it leads somewhere; its line then says where. */
function Part({ part, props }: { part: SheetPart; props: StepProps<Step> }) {
  const fields = part.fields.map((field, i) => <OneField key={i} field={field} props={props} />);
  if (!part.folds)
    return (
      <section className={shared.part} aria-label={part.label || undefined}>
        {part.label && <h2>{part.label}</h2>}
        {fields}
      </section>
    );
  const ways = part.fields.filter((field): field is Way => field.kind === "exit");
  const to = (way: Way) => fieldOf(props.step, way.name) as string | null;
  return (
    <Fold
      title={part.label}
      open={ways.some((way) => to(way) === null && !way.empty)}
      holds={ways.map((way) => wayWords(way.label, to(way), way.empty, props.stops)).join(" · ")}>
      {fields}
    </Fold>
  );
}

interface Props {
  draft: FlowDraft;
  definition: Definition;
  id: string;
  stops: Stop[];
  mayChange: boolean;
  select: (id: string | null) => void;
  clipboard: Clipboard;
}

/** Everything of one stop in one place, in the order in which the caller meets it. */
export function StopSheet({ draft, definition, id, stops, mayChange, select, clipboard }: Props) {
  const step = stepOf(definition, id);
  const rowValues = useRowValues(definition);
  if (!step) return null;
  const lead = (exit: string, choice: Choice) => {
    if ("to" in choice) draft.edit(setTarget(definition, id, exit, choice.to));
    else draft.edit(addAt(definition, id, exit, newStep(definition, choice.make, choice.filled)));
  };
  const name = stops.find((stop) => stop.id === id)?.name ?? step.id;
  const props: StepProps<Step> = {
    step,
    stops,
    kinds: offered(draft.inspection.data?.kinds),
    lead,
    language: definition.language,
    channel: definition.channel,
    inputs: definition.inputs,
    held: [...definition.inputs, ...rowValues],
    known: knownValues(definition),
    disabled: !mayChange,
    change: (changed, tag) => {
      draft.edit(setStep(definition, changed), tag);
    },
    copyArm: (exit) => {
      clipboard.copyArm(step, exit);
    },
  };
  return (
    <div className={shared.sheet} data-sheet>
      <div className={shared.sheetHead}>
        <h1 className="nowrap" title={name}>
          <span className="news">{kindWord(step.kind)}</span> {name}
        </h1>
        {mayChange && <CopyMenu copy={(all) => clipboard.copy([id], all)} clipboard={clipboard} />}
        {mayChange && (
          <Button
            color="error"
            onClick={() => {
              draft.edit(removeStep(definition, id));
              select(null);
            }}>
            Remove
          </Button>
        )}
      </div>
      <div className={shared.fields} key={id}>
        {step.kind === "menu" ? (
          <MenuSheet {...(props as StepProps<Menu>)} addArm={() => draft.edit(addArm(definition, step))} />
        ) : (
          partsOf(stepForms[step.kind].fields).map((part) => <Part key={part.label} part={part} props={props} />)
        )}
      </div>
    </div>
  );
}
