import { Button } from "@mui/material";
import type { Prompt } from "../../../api/client";
import { spoken } from "../stepFields";
import { PromptField } from "./PromptField";
import type { StepProps } from "./stepProps";

interface Props {
  label: string;
  value: Prompt | null;
  /** What the button adds to the label where nothing is said yet. */
  offer: string;
  props: Pick<StepProps<unknown>, "language" | "held" | "disabled">;
  change: (value: Prompt | null, typing: boolean) => void;
}

/** Words that need not be said: a button to say some, then the words and a way back. */
export function MaySay({ label, value, offer, props, change }: Props) {
  if (value === null)
    return (
      <div>
        <Button variant="outlined" disabled={props.disabled} onClick={() => change(spoken("", props.language), false)}>
          {label}: {offer}
        </Button>
      </div>
    );
  return (
    <div className="lines">
      <PromptField
        label={label}
        prompt={value}
        language={props.language}
        inputs={props.held}
        disabled={props.disabled}
        change={change}
      />
      <div>
        <Button disabled={props.disabled} onClick={() => change(null, false)}>
          Say nothing
        </Button>
      </div>
    </div>
  );
}
