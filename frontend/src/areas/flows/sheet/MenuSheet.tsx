import { Button, Checkbox, FormControlLabel, IconButton, MenuItem, TextField } from "@mui/material";
import type { Menu } from "../edits";
import { NumberBox } from "../../shared/NumberBox";
import { spoken } from "../kinds";
import { Listens } from "./Listens";
import { CopyArm } from "./CopyMenu";
import { PromptField } from "./PromptField";
import type { StepProps } from "./stepProps";
import { TargetPicker } from "./TargetPicker";

const KEYS = "1234567890*#";

type ArmChange = Partial<Menu["arms"][number]>;

function Arms({ step, stops, kinds, channel, disabled, change, lead, copyArm, addArm }: StepProps<Menu> & { addArm: () => void }) {
  const texts = channel === "text";
  const worded = texts || step.listens;
  const used = new Set(step.arms.map((arm) => arm.key));
  const setArm = (index: number, changed: ArmChange, tag = "") => {
    change({ ...step, arms: step.arms.map((arm, i) => (i === index ? { ...arm, ...changed } : arm)) }, tag);
  };
  return (
    <div style={{ display: "grid", gap: 10 }}>
      {step.arms.map((arm, index) => (
        <div key={arm.key} role="group" aria-label={`Key ${arm.key}`} style={{ display: "grid", gridTemplateColumns: "58px 1fr 28px 28px", gap: 12, paddingBottom: 12, borderBottom: "1px solid var(--line-2)" }}>
          <TextField select value={arm.key} disabled={disabled} slotProps={{ htmlInput: { "aria-label": "Key" } }} onChange={(event) => { setArm(index, { key: event.target.value }); }}>
            {[...KEYS].filter((key) => key === arm.key || !used.has(key)).map((key) => <MenuItem key={key} value={key}>{key}</MenuItem>)}
          </TextField>
          <TextField value={arm.label} disabled={disabled} placeholder="What it is for" slotProps={{ htmlInput: { "aria-label": `Key ${arm.key}: what it is for`, maxLength: 80 } }}
            onChange={(event) => { setArm(index, { label: event.target.value }, `${step.id} arm ${index}`); }} />
          <CopyArm name={`key ${arm.key}`} disabled={disabled} copy={() => { copyArm(`key:${arm.key}`); }} />
          <IconButton size="small" disabled={disabled} aria-label={`Remove key ${arm.key}`} onClick={() => { change({ ...step, arms: step.arms.filter((_, i) => i !== index) }); }}>✕</IconButton>
          <div style={{ gridColumn: "1 / -1" }}>
            {worded && (
              <TextField label={texts ? "Answers that choose it as well" : "Words that choose it as well"} defaultValue={arm.words.join(", ")} disabled={disabled} helperText="Beside its key and its name; with commas between." sx={{ mb: 1.5 }} fullWidth
                onBlur={(event) => { setArm(index, { words: event.target.value.split(",").map((word) => word.trim().slice(0, 80)).filter(Boolean).slice(0, 12) }); }} />
            )}
            <TargetPicker label={`Key ${arm.key} leads to`} value={arm.next} own={step.id} stops={stops} kinds={kinds} disabled={disabled} choose={(choice) => { lead(`key:${arm.key}`, choice); }} />
            {!texts && (
              <FormControlLabel label="hidden: the text does not name it" slotProps={{ typography: { sx: { fontSize: 13 } } }}
                control={<Checkbox size="small" checked={arm.hidden} disabled={disabled} onChange={(_, hidden) => { setArm(index, { hidden }); }} />} />
            )}
          </div>
        </div>
      ))}
      <div><Button variant="outlined" disabled={disabled || step.arms.length >= KEYS.length} onClick={addArm}>Add a key <kbd>F</kbd></Button></div>
    </div>
  );
}

function OptionalPrompt({ label, value, props, change }: { label: string; value: Menu["no_key_prompt"]; props: StepProps<Menu>; change: (value: Menu["no_key_prompt"], typing: boolean) => void }) {
  if (value === null)
    return <div><Button disabled={props.disabled} onClick={() => { change(spoken("", props.language), false); }}>{label}: say something first…</Button></div>;
  return (
    <div style={{ display: "grid", gap: 4 }}>
      <PromptField label={label} prompt={value} language={props.language} inputs={props.held} disabled={props.disabled} change={change} />
      <div><Button disabled={props.disabled} onClick={() => { change(null, false); }}>Say nothing</Button></div>
    </div>
  );
}

const TIMES = [1, 2, 3, 4, 5, 6, 7, 8, 9];

function Tries({ label, value, disabled, change }: { label: string; value: number | null; disabled: boolean; change: (value: number | null) => void }) {
  return (
    <TextField select label={label} value={value ?? 0} disabled={disabled} onChange={(event) => { change(Number(event.target.value) || null); }}>
      {TIMES.map((n) => <MenuItem key={n} value={n}>{n === 1 ? "once" : `${n} times`}</MenuItem>)}
      <MenuItem value={0}>without end</MenuItem>
    </TextField>
  );
}

/** A menu, in the order in which the caller meets it. */
export function MenuSheet(props: StepProps<Menu> & { addArm: () => void }) {
  const { step, stops, kinds, disabled, change, lead } = props;
  const texts = props.channel === "text";
  const most = texts ? 86400 : 60;
  return (
    <>
      <TextField label="Name" value={step.name} disabled={disabled} slotProps={{ htmlInput: { maxLength: 80 } }} onChange={(event) => { change({ ...step, name: event.target.value }, `${step.id} name`); }} />
      <PromptField label={texts ? "The other reads" : "The caller hears"} prompt={step.prompt} language={props.language} inputs={props.held} disabled={disabled}
        change={(prompt, typing) => { change({ ...step, prompt }, typing ? `${step.id} prompt` : ""); }} />
      <h2>{texts ? "Then answers" : step.listens ? "Then presses a key or says a word" : "Then presses a key"}</h2>
      {!texts && <Listens step={step} disabled={disabled} change={(listens) => { change({ ...step, listens }); }} />}
      <Arms {...props} />
      <h2>{texts ? "No answer" : "No key"}</h2>
      <div style={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 10 }}>
        <NumberBox label={texts ? "Waits for an answer" : "Waits for a key"} value={step.wait_s} least={1} most={most} disabled={disabled} help={texts ? "seconds, a day at the most" : "seconds, 1 to 60"}
          change={(wait_s) => { if (wait_s !== null) change({ ...step, wait_s }, `${step.id} wait`); }} />
        <Tries label="Asks" value={step.tries} disabled={disabled} change={(tries) => { change({ ...step, tries }); }} />
      </div>
      <OptionalPrompt label={texts ? "At no answer" : "At no key"} value={step.no_key_prompt} props={props} change={(value, typing) => { change({ ...step, no_key_prompt: value }, typing ? `${step.id} no key` : ""); }} />
      <TargetPicker label="In the end leads to" value={step.no_key} own={step.id} stops={stops} kinds={kinds} disabled={disabled} choose={(choice) => { lead("no_key", choice); }} />
      <h2>{texts ? "An answer that fits nothing" : "A wrong key"}</h2>
      <TextField select label="Counts" value={step.wrong_tries ?? "with"} disabled={disabled} onChange={(event) => { change({ ...step, wrong_tries: event.target.value === "with" ? null : Number(event.target.value) }); }}>
        <MenuItem value="with">{texts ? "together with no answer" : "together with no key"}</MenuItem>
        {TIMES.map((n) => <MenuItem key={n} value={n}>{n === 1 ? "by itself: once" : `by itself: ${n} times`}</MenuItem>)}
        <MenuItem value={0}>by itself: without end</MenuItem>
      </TextField>
      <OptionalPrompt label={texts ? "At such an answer" : "At a wrong key"} value={step.wrong_key_prompt} props={props} change={(value, typing) => { change({ ...step, wrong_key_prompt: value }, typing ? `${step.id} wrong key` : ""); }} />
      <TargetPicker label="After the last leads to" empty={texts ? "As with no answer" : "As with no key"} value={step.wrong_key ?? null} own={step.id} stops={stops} kinds={kinds} disabled={disabled} choose={(choice) => { lead("wrong_key", choice); }} />
    </>
  );
}
