import { Button, MenuItem, TextField } from "@mui/material";
import type { Definition } from "../../../api/client";
import { lengths } from "../../../api/lengths";
import { valueName } from "../flowValues";
import { InputValue, typeWords } from "../../numbers/InputValue";
import styles from "./sheet.module.css";

type Inputs = Definition["inputs"];
type Input = Inputs[number];

/** A name that no input has yet. */
function freeName(inputs: Inputs): string {
  let number = inputs.length + 1;
  while (inputs.some((input) => input.name === `value_${number}`)) number += 1;
  return `value_${number}`;
}

/** What numbers hand to this flow: one flow serves many numbers by its inputs. */
export function InputsField({
  inputs,
  disabled,
  change,
}: {
  inputs: Inputs;
  disabled: boolean;
  change: (inputs: Inputs, tag?: string) => void;
}) {
  const set = (at: number, changed: Partial<Input>, tag = "") => {
    change(
      inputs.map((input, i) => (i === at ? { ...input, ...changed } : input)),
      tag,
    );
  };
  return (
    <section aria-label="Inputs" className="stack">
      <h2>Inputs</h2>
      {inputs.length === 0 && (
        <span className="dim">
          None. With inputs one flow serves many numbers: each number names its own queue, hours, sound or text.
        </span>
      )}
      {inputs.map((input, i) => (
        <div key={i} role="group" aria-label={`Input ${input.label || input.name}`} className={styles.input}>
          <TextField
            label="Name"
            value={input.name}
            disabled={disabled}
            slotProps={{ htmlInput: { maxLength: lengths.DefinitionInput.name } }}
            onChange={(event) => set(i, { name: valueName(event.target.value) }, `input ${i}`)}
          />
          <TextField
            select
            label="Holds"
            value={input.type}
            disabled={disabled}
            onChange={(event) => set(i, { type: event.target.value as Input["type"], default: null })}>
            {Object.entries(typeWords).map(([type, word]) => (
              <MenuItem key={type} value={type}>
                {word}
              </MenuItem>
            ))}
          </TextField>
          <Button
            sx={{ minWidth: 0 }}
            disabled={disabled}
            aria-label={`Remove input ${input.name}`}
            onClick={() => change(inputs.filter((_, n) => n !== i))}>
            ✕
          </Button>
          <TextField
            label="Shown on the number as"
            value={input.label}
            disabled={disabled}
            sx={{ gridColumn: "1 / -1" }}
            slotProps={{ htmlInput: { maxLength: lengths.DefinitionInput.label } }}
            onChange={(event) => set(i, { label: event.target.value }, `input label ${i}`)}
          />
          <div className="across">
            <InputValue
              type={input.type}
              label="Default"
              value={input.default}
              fallback="No default: each number must name it."
              disabled={disabled}
              change={(value) => set(i, { default: value as Input["default"] }, `input default ${i}`)}
            />
          </div>
        </div>
      ))}
      {!disabled && (
        <div>
          <Button
            variant="outlined"
            onClick={() => change([...inputs, { name: freeName(inputs), label: "", type: "queue", default: null }])}>
            Add an input
          </Button>
        </div>
      )}
    </section>
  );
}
