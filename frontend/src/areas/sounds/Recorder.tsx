import { Button } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import { microphoneWords, record, type Recording } from "./microphone";
import styles from "./sounds.module.css";

const LONGEST_S = 300;

/** The level as a bar; above nine tenths the sound is distorted. */
function Meter({ level }: { level: number }) {
  const loud = level > 0.9;
  return (
    <span
      role="meter"
      aria-label="Level"
      aria-valuemin={0}
      aria-valuemax={100}
      aria-valuenow={Math.round(level * 100)}
      className={styles.meter}>
      <i
        style={{
          display: "block",
          height: "100%",
          width: `${Math.min(1, Math.sqrt(level)) * 100}%`,
          background: loud ? "var(--plum)" : "var(--pine-70)",
        }}
      />
    </span>
  );
}

/** Records from the microphone; silence at both ends is left out by the server. */
export function Recorder({ disabled, take }: { disabled: boolean; take: (file: File) => void }) {
  const [recording, setRecording] = useState<Recording | null>(null);
  const [shown, setShown] = useState({ level: 0, seconds: 0 });
  const [problem, setProblem] = useState("");
  const current = useRef<Recording | null>(null);
  useEffect(
    () => () => {
      current.current?.cancel();
    },
    [],
  );
  useEffect(() => {
    if (!recording) return undefined;
    const timer = window.setInterval(() => {
      setShown({ level: recording.level(), seconds: recording.seconds() });
    }, 100);
    return () => {
      window.clearInterval(timer);
    };
  }, [recording]);
  const begin = async () => {
    setProblem("");
    try {
      current.current = await record();
      setRecording(current.current);
    } catch (error) {
      setProblem(microphoneWords(error));
    }
  };
  const end = (keep: boolean) => {
    if (keep && recording) take(recording.finish());
    else recording?.cancel();
    current.current = null;
    setRecording(null);
    setShown({ level: 0, seconds: 0 });
  };
  if (!recording)
    return (
      <>
        <Button disabled={disabled} onClick={() => void begin()}>
          Record…
        </Button>
        {problem && (
          <div role="alert" className={styles.refused}>
            {problem}
          </div>
        )}
      </>
    );
  return (
    <span role="group" aria-label="Recording" className="along">
      <Meter level={shown.level} />
      <b className="num" style={{ color: shown.seconds > LONGEST_S - 20 ? "var(--plum-ink)" : "var(--clay-ink)" }}>
        {shown.seconds.toFixed(1)} s
      </b>
      <Button variant="contained" color="secondary" onClick={() => end(true)}>
        Stop and keep
      </Button>
      <Button onClick={() => end(false)}>Throw away</Button>
    </span>
  );
}
