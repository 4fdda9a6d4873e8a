import { Button, TextField } from "@mui/material";
import { useMutation, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { api, data, type Language, type Schemas, uploadSound, words } from "../../api/client";
import { lengths } from "../../api/lengths";
import { keys } from "../../api/keys";
import { useSession } from "../../frame/session";
import type { OwnProps } from "../shared/fields";
import { Player } from "./Player";
import { Recorder } from "./Recorder";
import styles from "./sounds.module.css";
import { choices } from "../shared/choices";

type Sound = Schemas["Sound"];
type Row = Schemas["Recording"];

export const languages = choices<Language>({ en: "English", cy: "Welsh" });
export const languageName = (language: string) => languages.find((l) => l.value === language)?.label ?? language;

const sources: Record<Row["source"], string> = {
  spoken: "Spoken by the speech engine; spoken again when the text changes.",
  file: "Recorded from an uploaded file; the text says what is heard.",
  recorded: "Recorded in the browser; the text says what is heard.",
};

/** The texts of a sound, one a language. */
export function TextsField({ value, error, disabled, change }: OwnProps) {
  const rows = (value as Row[] | undefined) ?? [];
  const set = (at: number, changed: Partial<Row>) => {
    change(rows.map((row, i) => (i === at ? { ...row, ...changed } : row)));
  };
  const missing = languages.filter((l) => !rows.some((row) => row.language === l.value));
  return (
    <div className="spaced">
      {rows.map((row, i) => (
        <div key={row.language} role="group" aria-label={languageName(row.language)} className={styles.words}>
          <TextField
            label={`What is said, ${languageName(row.language)}`}
            multiline
            minRows={2}
            maxRows={8}
            value={row.text}
            disabled={disabled}
            sx={{ gridColumn: "1 / -1" }}
            slotProps={{ htmlInput: { maxLength: lengths.Recording.text } }}
            onChange={(event) => set(i, { text: event.target.value })}
          />
          {(row.source ?? "spoken") === "spoken" ? (
            <TextField
              label="Speed"
              type="number"
              value={row.speed}
              disabled={disabled}
              helperText="words a minute, 80 to 300"
              sx={{ maxWidth: 200 }}
              onChange={(event) => set(i, { speed: Number(event.target.value) })}
            />
          ) : (
            <span />
          )}
          {rows.length > 1 && !disabled && (
            <Button onClick={() => change(rows.filter((_, n) => n !== i))}>Take away</Button>
          )}
        </div>
      ))}
      {error && (
        <div role="alert" className="wrong">
          {error}
        </div>
      )}
      {!disabled && missing.length > 0 && (
        <div className="beside">
          {missing.map((l) => (
            <Button
              key={l.value}
              variant="outlined"
              onClick={() => change([...rows, { language: l.value, text: "", speed: 155, source: "spoken" }])}>
              Add {l.label}
            </Button>
          ))}
        </div>
      )}
    </div>
  );
}

function useChange(sound: Sound, took: (sound: Sound) => void) {
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  return (said: string) => (changed: Sound) => {
    took(changed);
    void cache.invalidateQueries({ queryKey: keys.list("sounds", {}).slice(0, 2) });
    enqueueSnackbar(`${sound.name}: ${said}`);
  };
}

function Level({ row, even, busy }: { row: Row; even: () => void; busy: boolean }) {
  if (row.loudness === null) return <span className="dim">too short to measure its level</span>;
  const off = row.off ?? 0;
  return (
    <span className="together">
      <span className="dim num">{row.loudness.toFixed(1)} LUFS</span>
      {row.far && (
        <span className="chip warns">
          {Math.abs(off)} LU {off < 0 ? "softer" : "louder"} than the others
        </span>
      )}
      {row.far && (
        <Button variant="outlined" disabled={busy} onClick={even}>
          Even it out
        </Button>
      )}
    </span>
  );
}

/** One language of a kept sound: hear it, see it, record or upload in its place. */
function Recording({ sound, row, took }: { sound: Sound; row: Row; took: (sound: Sound) => void }) {
  const { may } = useSession();
  const done = useChange(sound, took);
  const revision = sound.revision ?? 1;
  const { language } = row;
  const params = { path: { id: sound.id } };
  const body = { language, revision };
  const upload = useMutation({
    mutationFn: ({ file, recorded }: { file: File; recorded: boolean }) =>
      uploadSound(sound.id, revision, file, language, recorded),
    onSuccess: done("this is its recording now."),
  });
  const even = useMutation({
    mutationFn: () => data(api.POST("/api/v1/sounds/{id}/even", { params, body })),
    onSuccess: done("evened out."),
  });
  const speak = useMutation({
    mutationFn: () => data(api.POST("/api/v1/sounds/{id}/speak", { params, body })),
    onSuccess: done("spoken from its text."),
  });
  const busy = upload.isPending || even.isPending || speak.isPending;
  const problem = upload.error ?? even.error ?? speak.error;
  return (
    <section aria-label={`Recording, ${languageName(language)}`} className={styles.language}>
      <div className="along">
        <h2>{languageName(language)}</h2>
        {row.take !== null && <Level row={row} even={() => even.mutate()} busy={busy} />}
      </div>
      {row.take ? (
        <Player key={row.take} take={row.take} seconds={row.length_ms / 1000} peaks={row.peaks} />
      ) : (
        <span className="dim">No recording yet.</span>
      )}
      {may("change", "sounds") && (
        <div className="close">
          <Recorder disabled={busy} take={(file) => upload.mutate({ file, recorded: true })} />
          <Button component="label" disabled={busy}>
            {upload.isPending ? "Uploading…" : "Upload a file…"}
            <input
              type="file"
              hidden
              accept="audio/*"
              aria-label={`Upload a sound file, ${languageName(language)}`}
              onChange={(event) => {
                const file = event.target.files?.[0];
                event.target.value = "";
                if (file) upload.mutate({ file, recorded: false });
              }}
            />
          </Button>
          {row.source !== "spoken" && row.text && (
            <Button disabled={busy} onClick={() => speak.mutate()}>
              Speak the text instead
            </Button>
          )}
        </div>
      )}
      <span className="dim small">{sources[row.source]}</span>
      {problem && (
        <div role="alert" className="wrong">
          {words(problem)}
        </div>
      )}
    </section>
  );
}

/** Every recording of a kept sound. */
export function Recordings({ sound, took }: { sound: Sound; took: (sound: Sound) => void }) {
  return (
    <>
      {sound.recordings?.map((row) => (
        <Recording key={row.language} sound={sound} row={row} took={took} />
      ))}
    </>
  );
}
