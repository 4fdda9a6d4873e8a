import { Button, MenuItem, TextField } from "@mui/material";
import { useMutation, useQuery } from "@tanstack/react-query";
import { api, data, type Prompt, words } from "../../../api/client";
import { lengths } from "../../../api/lengths";
import { keys } from "../../../api/keys";
import { sounds } from "../../../api/resources";
import { Player } from "../../sounds/Player";
import { type Held, RefPicker } from "./RefPicker";
import styles from "./sheet.module.css";

interface Props {
  label: string;
  prompt: Prompt;
  language: "en" | "cy";
  inputs?: Held[];
  disabled: boolean;
  change: (prompt: Prompt, typing: boolean) => void;
}

/** Speak the typed text, then hear it. */
function Listen({ text, language }: { text: string; language: "en" | "cy" }) {
  const speak = useMutation({
    mutationFn: () => data(api.POST("/api/v1/speech", { body: { text, language, speed: 155 } })),
  });
  const spoken = speak.data && speak.variables === undefined ? speak.data : null;
  if (spoken)
    return (
      <Player
        key={spoken.take}
        take={spoken.take}
        seconds={spoken.length_ms / 1000}
        peaks={spoken.peaks}
        label="Hear it"
      />
    );
  return (
    <span>
      <Button variant="outlined" disabled={!text || speak.isPending} onClick={() => speak.mutate()}>
        {speak.isPending ? "Speaking…" : "Listen"}
      </Button>
      {speak.isError && (
        <span role="alert" className={styles.silent}>
          {words(speak.error)}
        </span>
      )}
    </span>
  );
}

/** Puts a value of the contact into the text, where the cursor is not needed: at its end. */
function ValueButtons({ inputs, disabled, add }: { inputs: Held[]; disabled: boolean; add: (place: string) => void }) {
  const speakable = inputs.filter((input) => ["text", "number", "duration", "yes_no"].includes(input.type));
  if (speakable.length === 0) return null;
  return (
    <span className="close">
      <span className="dim">Say a value:</span>
      {speakable.map((input) => {
        const way = input.type === "number" ? ":number" : input.type === "duration" ? ":duration" : "";
        return (
          <Button key={input.name} disabled={disabled} onClick={() => add(`{${input.name}${way}}`)}>
            {input.label || input.name}
          </Button>
        );
      })}
    </span>
  );
}

/** What the caller hears: a typed text, a sound of the library, or one that the number names. */
export function PromptField({ label, prompt, language, inputs = [], disabled, change }: Props) {
  const text = prompt.kind === "text";
  const id = text ? null : (prompt.sound?.split(":")[1] ?? null);
  const sound = useQuery({
    queryKey: keys.one("sounds", id ?? ""),
    queryFn: () => sounds.get(id ?? ""),
    enabled: !text && (prompt.sound ?? "").startsWith("sound:"),
  });
  const row =
    sound.data?.recordings?.find((recording) => recording.language === language) ?? sound.data?.recordings?.[0];
  const choose = (kind: string) => {
    if (kind === "text") change({ kind: "text", text: row?.text ?? "", language }, false);
    else change({ kind: "sound", sound: null }, false);
  };
  return (
    <div className="lines">
      <TextField
        select
        label={label}
        disabled={disabled}
        value={prompt.kind}
        onChange={(event) => choose(event.target.value)}>
        <MenuItem value="text">A text, typed here</MenuItem>
        <MenuItem value="sound">A sound of the library</MenuItem>
      </TextField>
      {text ? (
        <>
          <TextField
            multiline
            minRows={2}
            maxRows={8}
            value={prompt.text}
            disabled={disabled}
            placeholder="What is said"
            error={prompt.text.length > 2000}
            helperText={prompt.text.length > 1900 ? `${prompt.text.length} of 2000 characters` : undefined}
            slotProps={{ htmlInput: { "aria-label": `${label}: text`, maxLength: lengths.DefinitionSpokenText.text } }}
            onChange={(event) => change({ ...prompt, text: event.target.value }, true)}
          />
          <ValueButtons
            inputs={inputs}
            disabled={disabled}
            add={(place) => change({ ...prompt, text: `${prompt.text} ${place}`.trim() }, false)}
          />
          <Listen key={prompt.text} text={prompt.text} language={prompt.language} />
        </>
      ) : (
        <>
          <RefPicker
            of="sound"
            label="Which sound"
            value={prompt.sound}
            inputs={inputs}
            disabled={disabled}
            choose={(ref) => change({ kind: "sound", sound: ref }, false)}
          />
          {row && <div className="dim">“{row.text || sound.data?.name}”</div>}
          {row?.take && (
            <div>
              <Player take={row.take} seconds={row.length_ms / 1000} peaks={row.peaks} />
            </div>
          )}
        </>
      )}
    </div>
  );
}
