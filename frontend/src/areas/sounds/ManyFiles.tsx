import {
  Button,
  Dialog,
  DialogActions,
  DialogContent,
  DialogTitle,
  LinearProgress,
  MenuItem,
  TextField,
} from "@mui/material";
import { useQueryClient } from "@tanstack/react-query";
import { useRef, useState } from "react";
import { type Language, soundFromFile, words } from "../../api/client";
import { keys } from "../../api/keys";
import { languages } from "./Recordings";

interface Outcome {
  file: string;
  words: string;
  failed: boolean;
}

/** Many files at once: each becomes a sound named after it; can be stopped between and within files. */
export function ManyFiles({ close }: { close: () => void }) {
  const cache = useQueryClient();
  const [language, setLanguage] = useState<Language>("en");
  const [files, setFiles] = useState<File[]>([]);
  const [done, setDone] = useState<Outcome[]>([]);
  const [running, setRunning] = useState(false);
  const stop = useRef<AbortController | null>(null);
  const run = async () => {
    const control = new AbortController();
    stop.current = control;
    setRunning(true);
    setDone([]);
    for (const file of files) {
      if (control.signal.aborted) break;
      const outcome = await soundFromFile(file, language, control.signal).then(
        (sound) => ({ file: file.name, words: `is the sound “${sound.name}”`, failed: false }),
        (error: unknown) => ({
          file: file.name,
          words: control.signal.aborted ? "stopped; not taken" : words(error),
          failed: true,
        }),
      );
      setDone((before) => [...before, outcome]);
    }
    setRunning(false);
    void cache.invalidateQueries({ queryKey: keys.all("sounds") });
  };
  const good = done.filter((outcome) => !outcome.failed).length;
  return (
    <Dialog open onClose={running ? undefined : close} fullWidth maxWidth="sm">
      <DialogTitle>Many files at once</DialogTitle>
      <DialogContent sx={{ display: "grid", gap: 2, pt: "12px !important" }}>
        <div className="along">
          <Button variant="outlined" component="label" disabled={running}>
            Choose files…
            <input
              type="file"
              hidden
              multiple
              accept="audio/*"
              aria-label="Choose sound files"
              onChange={(event) => {
                setFiles([...(event.target.files ?? [])]);
                setDone([]);
              }}
            />
          </Button>
          <span className="dim">
            {files.length === 0
              ? "WAV, FLAC, OGG or MP3, up to 10 MB and five minutes each."
              : `${files.length} chosen`}
          </span>
          <TextField
            select
            label="Language"
            value={language}
            disabled={running}
            sx={{ maxWidth: 130, ml: "auto" }}
            onChange={(event) => setLanguage(event.target.value as Language)}>
            {languages.map((l) => (
              <MenuItem key={l.value} value={l.value}>
                {l.label}
              </MenuItem>
            ))}
          </TextField>
        </div>
        {(running || done.length > 0) && (
          <div>
            <LinearProgress
              variant="determinate"
              aria-label="Files taken"
              value={(done.length / Math.max(1, files.length)) * 100}
            />
            <div role="status">
              {good} of {files.length} taken{running ? "…" : ""}
            </div>
          </div>
        )}
        <ul className="problems">
          {done.map((outcome) => (
            <li key={outcome.file} style={{ color: outcome.failed ? "var(--plum-ink)" : undefined }}>
              <b>{outcome.file}</b> {outcome.words}
            </li>
          ))}
        </ul>
      </DialogContent>
      <DialogActions>
        {running ? (
          <Button color="error" onClick={() => stop.current?.abort()}>
            Stop
          </Button>
        ) : (
          <Button onClick={close}>Close</Button>
        )}
        <Button variant="contained" disabled={running || files.length === 0} onClick={() => void run()}>
          Take in {files.length || ""}
        </Button>
      </DialogActions>
    </Dialog>
  );
}
