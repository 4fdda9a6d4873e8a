import { Button, MenuItem, TextField } from "@mui/material";
import { useMutation, useQuery } from "@tanstack/react-query";
import { api, data, type Prompt, words } from "../../../api/client";
import { keys } from "../../../api/keys";
import { sounds } from "../../../api/resources";
import { Player } from "../../sounds/Player";

interface Props {
  label: string;
  prompt: Prompt;
  language: "en" | "cy";
  disabled: boolean;
  change: (prompt: Prompt, typing: boolean) => void;
}

const TYPED = "typed";

/** Speak the typed text, then hear it. */
function Listen({ text, language }: { text: string; language: "en" | "cy" }) {
  const speak = useMutation({
    mutationFn: () => data(api.POST("/api/v1/speech", { body: { text, language } })),
  });
  const spoken = speak.data && speak.variables === undefined ? speak.data : null;
  if (spoken) return <Player key={spoken.take} take={spoken.take} seconds={spoken.length_ms / 1000} label="Hear it" />;
  return (
    <span>
      <Button variant="outlined" disabled={!text || speak.isPending} onClick={() => { speak.mutate(); }}>
        {speak.isPending ? "Speaking…" : "Speak it"}
      </Button>
      {speak.isError && <span role="alert" style={{ color: "var(--plum-ink)", marginLeft: 8 }}>{words(speak.error)}</span>}
    </span>
  );
}

/** What the caller hears: a typed text, or a sound of the library. */
export function PromptField({ label, prompt, language, disabled, change }: Props) {
  const query = { page_size: 500 };
  const list = useQuery({ queryKey: keys.list("sounds", query), queryFn: () => sounds.list(query) });
  const library = list.data?.results ?? [];
  const sound = prompt.kind === "sound" ? library.find((item) => `sound:${item.id}` === prompt.sound) : undefined;
  const known = prompt.kind === "text" || sound !== undefined;
  const choose = (value: string) => {
    if (value === TYPED) change({ kind: "text", text: sound?.text ?? "", language }, false);
    else change({ kind: "sound", sound: value }, false);
  };
  return (
    <div style={{ display: "grid", gap: 8 }}>
      <TextField select label={label} disabled={disabled} value={prompt.kind === "text" ? TYPED : known ? prompt.sound : ""} onChange={(event) => { choose(event.target.value); }}>
        <MenuItem value={TYPED}>A text, typed here</MenuItem>
        {library.map((item) => <MenuItem key={item.id} value={`sound:${item.id}`}>Sound: {item.name}</MenuItem>)}
      </TextField>
      {prompt.kind === "text" ? (
        <>
          <TextField multiline minRows={2} maxRows={8} value={prompt.text} disabled={disabled} placeholder="What is said"
            error={prompt.text.length > 2000} helperText={prompt.text.length > 1900 ? `${prompt.text.length} of 2000 characters` : undefined}
            slotProps={{ htmlInput: { "aria-label": `${label}: text`, maxLength: 2000 } }}
            onChange={(event) => { change({ ...prompt, text: event.target.value }, true); }} />
          <Listen key={prompt.text} text={prompt.text} language={prompt.language} />
        </>
      ) : (
        sound && (
          <>
            <div className="dim">“{sound.text || sound.name}”</div>
            {sound.take && <div><Player take={sound.take} seconds={(sound.length_ms ?? 0) / 1000} /></div>}
          </>
        )
      )}
    </div>
  );
}
