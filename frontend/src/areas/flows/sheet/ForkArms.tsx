import { Button, IconButton, MenuItem, TextField } from "@mui/material";
import type { Schemas, Step } from "../../../api/client";
import { lengths } from "../../../api/lengths";
import type { StepProps } from "./stepProps";
import { freeArm } from "../edits";
import styles from "./sheet.module.css";
import { WayBox } from "./WayBox";
import { ValueField } from "./ValueField";
import { choices } from "../../shared/choices";

type Fork = Extract<Step, { kind: "fork" }>;
type Group = Schemas["DefinitionGroup"];
type Comparison = Schemas["DefinitionComparison"];

const operators = choices<Comparison["how"]>({
  is: "is",
  is_not: "is not",
  begins_with: "begins with",
  contains: "contains",
  more_than: "is more than",
  less_than: "is less than",
  given: "is given",
  not_given: "is not given",
});
const fresh: Comparison = { kind: "compare", value: "caller", how: "is", other: "" };

interface PartProps<T> {
  part: T;
  known: string[];
  disabled: boolean;
  change: (part: T, typing: boolean) => void;
  remove?: () => void;
}

function One({ part, known, disabled, change, remove }: PartProps<Comparison>) {
  const alone = part.how === "given" || part.how === "not_given";
  return (
    <div className={styles.compared}>
      <ValueField
        label="Value"
        bare
        value={part.value}
        known={known}
        disabled={disabled}
        change={(value) => change({ ...part, value: value ?? "caller" }, true)}
      />
      <TextField
        select
        value={part.how}
        disabled={disabled}
        slotProps={{ htmlInput: { "aria-label": "How it is compared" } }}
        onChange={(event) => change({ ...part, how: event.target.value as Comparison["how"] }, false)}>
        {operators.map((operator) => (
          <MenuItem key={operator.value} value={operator.value}>
            {operator.label}
          </MenuItem>
        ))}
      </TextField>
      {alone ? (
        <span />
      ) : (
        <TextField
          value={part.other === true ? "yes" : part.other === false ? "no" : (part.other ?? "")}
          disabled={disabled}
          placeholder="what"
          slotProps={{ htmlInput: { "aria-label": "Compared with", maxLength: lengths.DefinitionComparison.other } }}
          onChange={(event) => change({ ...part, other: event.target.value }, true)}
        />
      )}
      {remove ? (
        <IconButton size="small" disabled={disabled} aria-label="Remove this condition" onClick={remove}>
          ✕
        </IconButton>
      ) : (
        <span />
      )}
    </div>
  );
}

/** Comparisons that must all hold, or one of them; groups within a group. */
function Conditions({ part, known, disabled, change, remove, depth = 0 }: PartProps<Group> & { depth?: number }) {
  const parts = part.parts;
  const set = (at: number, changed: Group["parts"][number], typing: boolean) => {
    change({ ...part, parts: parts.map((old, i) => (i === at ? changed : old)) }, typing);
  };
  const drop = (at: number) => {
    change({ ...part, parts: parts.filter((_, i) => i !== at) }, false);
  };
  return (
    <div
      role="group"
      aria-label={depth ? "Group of conditions" : "Conditions"}
      style={{ display: "grid", gap: 10, ...(depth && { borderLeft: "2px solid var(--lichen)", paddingLeft: 8 }) }}>
      {parts.length > 1 && (
        <TextField
          select
          label="Holds where"
          value={part.join}
          disabled={disabled}
          onChange={(event) => change({ ...part, join: event.target.value as Group["join"] }, false)}>
          <MenuItem value="and">all of these hold</MenuItem>
          <MenuItem value="or">one of these holds</MenuItem>
        </TextField>
      )}
      {parts.map((inner, i) =>
        inner.kind === "group" ? (
          <Conditions
            key={i}
            part={inner}
            known={known}
            disabled={disabled}
            depth={depth + 1}
            change={(changed, typing) => set(i, changed, typing)}
            remove={() => drop(i)}
          />
        ) : (
          <One
            key={i}
            part={inner}
            known={known}
            disabled={disabled}
            change={(changed, typing) => set(i, changed, typing)}
            remove={() => drop(i)}
          />
        ),
      )}
      {!disabled && (
        <div className="close">
          <Button onClick={() => change({ ...part, parts: [...parts, fresh] }, false)}>Add a condition</Button>
          {depth < 2 && parts.length > 0 && (
            <Button
              onClick={() =>
                change(
                  {
                    ...part,
                    parts: [...parts, { kind: "group", join: part.join === "and" ? "or" : "and", parts: [fresh] }],
                  },
                  false,
                )
              }>
              Add a group
            </Button>
          )}
          {remove && <Button onClick={remove}>Remove the group</Button>}
        </div>
      )}
    </div>
  );
}

/** The arms of a fork by value, asked in their order. */
export function ForkArms({ step, known, change, ...box }: StepProps<Fork>) {
  const { disabled } = box;
  const set = (at: number, changed: Partial<Fork["arms"][number]>, tag = "") => {
    change({ ...step, arms: step.arms.map((arm, i) => (i === at ? { ...arm, ...changed } : arm)) }, tag);
  };
  return (
    <div className="stack">
      {step.arms.map((arm, i) => (
        <WayBox
          key={arm.id}
          {...box}
          step={step}
          way={arm}
          number={i + 1}
          rename={(label) => set(i, { label }, `${step.id} ${arm.id}`)}
          remove={() => change({ ...step, arms: step.arms.filter((_, n) => n !== i) })}>
          <Conditions
            part={arm.when}
            known={known}
            disabled={disabled}
            change={(when, typing) => set(i, { when }, typing ? `${step.id} ${arm.id} when` : "")}
          />
        </WayBox>
      ))}
      {!disabled && (
        <div>
          <Button
            variant="outlined"
            onClick={() =>
              change({
                ...step,
                arms: [
                  ...step.arms,
                  {
                    id: freeArm(step.arms),
                    label: "",
                    when: { kind: "group", join: "and", parts: [fresh] },
                    next: null,
                  },
                ],
              })
            }>
            Add a way
          </Button>
        </div>
      )}
    </div>
  );
}
