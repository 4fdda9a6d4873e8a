import { Button, Checkbox, FormControlLabel, IconButton, MenuItem, TextField } from "@mui/material";
import { useState } from "react";
import type { Stop } from "../../../api/client";
import { lengths } from "../../../api/lengths";
import { percent } from "../../../frame/format";
import type { Menu } from "../edits";
import { NumberBox } from "../../shared/NumberBox";
import { Fold } from "../../shared/Fold";
import shared from "../../shared/shared.module.css";
import { often } from "../stepFields";
import { Listens } from "./Listens";
import { CopyArm } from "./CopyMenu";
import { MaySay } from "./MaySay";
import { PromptField } from "./PromptField";
import styles from "./sheet.module.css";
import type { StepProps } from "./stepProps";
import { TargetPicker, wayWords } from "./TargetPicker";

const KEYS = "1234567890*#";

type Arm = Menu["arms"][number];
type ArmsProps = StepProps<Menu> & { addArm: () => void };

/** A share of a menu's callers, as a key's row tells it. */
function Share({ stop, exit }: { stop: Stop | undefined; exit: string }) {
  const share = stop?.exits.find((one) => one.name === exit)?.share;
  return (
    <span
      className={`num dim ${styles.share}`}
      title="Of the callers of this menu, by what was counted or else by what the flow itself says">
      {share === undefined ? "" : percent(share, 0)}
    </span>
  );
}

/** A key of a menu as a row: the key, what it is for, where it goes, how many take it; the rest in its fold. */
function ArmRow({
  arm,
  index,
  open,
  toggle,
  ...props
}: ArmsProps & { arm: Arm; index: number; open: boolean; toggle: () => void }) {
  const { step, stops, kinds, channel, disabled, change, lead, copyArm } = props;
  const texts = channel === "text",
    worded = texts || step.listens;
  const used = new Set(step.arms.map((one) => one.key));
  const set = (changed: Partial<Arm>, tag = "") => {
    change({ ...step, arms: step.arms.map((one, i) => (i === index ? { ...one, ...changed } : one)) }, tag);
  };
  return (
    <div role="group" aria-label={`Key ${arm.key}`} className={styles.arm}>
      <TextField
        select
        value={arm.key}
        disabled={disabled}
        slotProps={{ htmlInput: { "aria-label": "Key" } }}
        onChange={(event) => set({ key: event.target.value })}>
        {[...KEYS]
          .filter((key) => key === arm.key || !used.has(key))
          .map((key) => (
            <MenuItem key={key} value={key}>
              {key}
            </MenuItem>
          ))}
      </TextField>
      <TextField
        value={arm.label}
        disabled={disabled}
        placeholder="What it is for"
        slotProps={{
          htmlInput: {
            "aria-label": `Key ${arm.key}: what it is for`,
            maxLength: lengths.DefinitionMenuArm.label,
            title: arm.label,
          },
        }}
        onChange={(event) => set({ label: event.target.value }, `${step.id} arm ${index}`)}
      />
      <TargetPicker
        bare
        label={`Key ${arm.key} leads to`}
        value={arm.next}
        own={step.id}
        stops={stops}
        kinds={kinds}
        disabled={disabled}
        choose={(choice) => lead(`key:${arm.key}`, choice)}
      />
      <Share stop={stops.find((stop) => stop.id === step.id)} exit={`key:${arm.key}`} />
      <IconButton size="small" aria-label={`More about key ${arm.key}`} aria-expanded={open} onClick={toggle}>
        {open ? "−" : "…"}
      </IconButton>
      {worded && !open && arm.words.length > 0 && (
        <button type="button" tabIndex={-1} className={styles.words} onClick={toggle}>
          {arm.words.join(", ")}
        </button>
      )}
      {open && (
        <div className={styles.fold}>
          {worded && (
            <TextField
              label={texts ? "Answers that choose it as well" : "Words that choose it as well"}
              defaultValue={arm.words.join(", ")}
              disabled={disabled}
              helperText="Beside its key and its name; with commas between."
              onBlur={(event) =>
                set({
                  words: event.target.value
                    .split(",")
                    .map((word) => word.trim().slice(0, 80))
                    .filter(Boolean)
                    .slice(0, 12),
                })
              }
            />
          )}
          {!texts && (
            <FormControlLabel
              label="hidden: the text does not name it"
              slotProps={{ typography: { className: styles.small } }}
              control={
                <Checkbox
                  size="small"
                  checked={arm.hidden}
                  disabled={disabled}
                  onChange={(_, hidden) => set({ hidden })}
                />
              }
            />
          )}
          <span className={styles.acts}>
            <CopyArm name={`key ${arm.key}`} disabled={disabled} copy={() => copyArm(`key:${arm.key}`)} />
            <Button
              size="small"
              color="error"
              disabled={disabled}
              aria-label={`Remove key ${arm.key}`}
              onClick={() => change({ ...step, arms: step.arms.filter((_, i) => i !== index) })}>
              Remove
            </Button>
          </span>
        </div>
      )}
    </div>
  );
}

function Arms(props: ArmsProps) {
  const { step, disabled, addArm } = props;
  const [open, setOpen] = useState<string | null>(null);
  return (
    <div className={styles.arms}>
      <div className={styles.armHeads} aria-hidden="true">
        <span>Key</span>
        <span>What it is for</span>
        <span>Goes to</span>
        <span className="num">Callers</span>
        <span />
      </div>
      {step.arms.map((arm, index) => (
        <ArmRow
          key={arm.key}
          {...props}
          arm={arm}
          index={index}
          open={open === arm.key}
          toggle={() => setOpen(open === arm.key ? null : arm.key)}
        />
      ))}
      <div>
        <Button variant="outlined" disabled={disabled || step.arms.length >= KEYS.length} onClick={addArm}>
          Add a key <kbd>F</kbd>
        </Button>
      </div>
    </div>
  );
}

const TIMES = [1, 2, 3, 4, 5, 6, 7, 8, 9];

/** Wrong keys are counted together with no key (null), by themselves (so many), or without end (0). */
const wrongWords = (n: number | null, texts: boolean) =>
  n === null
    ? texts
      ? "together with no answer"
      : "together with no key"
    : n === 0
      ? "by itself: without end"
      : `by itself: ${often(n)}`;

/** What a menu does without an answer, or with one that fits nothing. */
function Failing(props: StepProps<Menu>) {
  const { step, stops, kinds, disabled, change, lead } = props;
  const texts = props.channel === "text";
  const noKey = texts ? "No answer in the end leads to" : "No key in the end leads to";
  const holds = `${step.tries ? `Asks ${often(step.tries)}` : "Asks without end"} · ${wayWords(noKey, step.no_key, undefined, stops)}${step.wrong_key ? ` · ${wayWords("Wrong key", step.wrong_key, undefined, stops)}` : ""}`;
  return (
    <Fold title="What if it fails" holds={holds} open={step.no_key === null}>
      <div className={shared.sentence}>
        <span>Asks</span>
        <TextField
          select
          value={step.tries ?? 0}
          disabled={disabled}
          slotProps={{ htmlInput: { "aria-label": "Asks" } }}
          onChange={(event) => change({ ...step, tries: Number(event.target.value) || null })}>
          {TIMES.map((n) => (
            <MenuItem key={n} value={n}>
              {often(n)}
            </MenuItem>
          ))}
          <MenuItem value={0}>without end</MenuItem>
        </TextField>
        <span>and waits</span>
        <NumberBox
          bare
          label={texts ? "Waits for an answer" : "Waits for a key"}
          value={step.wait_s}
          least={1}
          most={texts ? 86_400 : 60}
          unit="s"
          disabled={disabled}
          change={(wait_s) => {
            if (wait_s !== null) change({ ...step, wait_s }, `${step.id} wait`);
          }}
        />
        <span>each time for {texts ? "an answer" : "a key"}</span>
      </div>
      <MaySay
        offer="say something first…"
        label={texts ? "At no answer" : "At no key"}
        value={step.no_key_prompt}
        props={props}
        change={(value, typing) => change({ ...step, no_key_prompt: value }, typing ? `${step.id} no key` : "")}
      />
      <TargetPicker
        label={noKey}
        value={step.no_key}
        own={step.id}
        stops={stops}
        kinds={kinds}
        disabled={disabled}
        choose={(choice) => lead("no_key", choice)}
      />
      <TextField
        select
        label={texts ? "An answer that fits nothing counts" : "A wrong key counts"}
        value={step.wrong_tries ?? "with"}
        disabled={disabled}
        onChange={(event) =>
          change({ ...step, wrong_tries: event.target.value === "with" ? null : Number(event.target.value) })
        }>
        <MenuItem value="with">{wrongWords(null, texts)}</MenuItem>
        {[...TIMES, 0].map((n) => (
          <MenuItem key={n} value={n}>
            {wrongWords(n, texts)}
          </MenuItem>
        ))}
      </TextField>
      <MaySay
        offer="say something first…"
        label={texts ? "At such an answer" : "At a wrong key"}
        value={step.wrong_key_prompt}
        props={props}
        change={(value, typing) => change({ ...step, wrong_key_prompt: value }, typing ? `${step.id} wrong key` : "")}
      />
      <TargetPicker
        label={texts ? "The last answer that fits nothing leads to" : "The last wrong key leads to"}
        empty={texts ? "As with no answer" : "As with no key"}
        value={step.wrong_key ?? null}
        own={step.id}
        stops={stops}
        kinds={kinds}
        disabled={disabled}
        choose={(choice) => lead("wrong_key", choice)}
      />
    </Fold>
  );
}

/** A menu, in the order in which the caller meets it. */
export function MenuSheet(props: StepProps<Menu> & { addArm: () => void }) {
  const { step, disabled, change } = props;
  const texts = props.channel === "text";
  const answered = texts ? "What is answered" : step.listens ? "What is pressed or said" : "What is pressed";
  return (
    <>
      <section className={shared.part} aria-label="What is heard">
        <h2>What is heard</h2>
        <TextField
          label="Name"
          value={step.name}
          disabled={disabled}
          slotProps={{ htmlInput: { maxLength: lengths.DefinitionMenu.name } }}
          onChange={(event) => change({ ...step, name: event.target.value }, `${step.id} name`)}
        />
        <PromptField
          label={texts ? "The other reads" : "The caller hears"}
          prompt={step.prompt}
          language={props.language}
          inputs={props.held}
          disabled={disabled}
          change={(prompt, typing) => change({ ...step, prompt }, typing ? `${step.id} prompt` : "")}
        />
      </section>
      <section className={shared.part} aria-label={answered}>
        <h2>{answered}</h2>
        {!texts && <Listens step={step} disabled={disabled} change={(listens) => change({ ...step, listens })} />}
        <Arms {...props} />
      </section>
      <Failing {...props} />
    </>
  );
}
