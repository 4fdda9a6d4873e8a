import { Button } from "@mui/material";
import { useEffect, useRef, useState } from "react";
import { Wave } from "./Wave";

interface Props {
  take: number;
  seconds: number;
  label?: string;
  /** Drawn beside the button, with the part that was heard. */
  peaks?: number[];
  /** Where the sound is, if it is not a take of the library. */
  source?: string;
  heard?: () => void;
}

/** Plays one recording. */
export function Player({ take, seconds, label = "Play", peaks, source, heard }: Props) {
  const audio = useRef<HTMLAudioElement | null>(null);
  const [playing, setPlaying] = useState(false);
  const [played, setPlayed] = useState(0);
  useEffect(
    () => () => {
      audio.current?.pause();
    },
    [take],
  );
  const toggle = () => {
    if (playing) {
      audio.current?.pause();
      setPlaying(false);
      return;
    }
    const element = new Audio(source ?? `/api/v1/takes/${take}`);
    element.onended = () => {
      setPlaying(false);
      setPlayed(0);
    };
    element.onerror = () => {
      setPlaying(false);
    };
    element.ontimeupdate = () => {
      setPlayed(element.currentTime / Math.max(0.1, element.duration));
    };
    audio.current = element;
    setPlaying(true);
    element.play().then(
      () => {
        heard?.();
      },
      () => {
        setPlaying(false);
      },
    );
  };
  return (
    <span className="together">
      <Button variant="outlined" onClick={toggle} aria-pressed={playing}>
        {playing ? "■ Stop" : `▶ ${label}`}&nbsp;<span className="dim">{seconds.toFixed(1)} s</span>
      </Button>
      {peaks && peaks.length > 0 && <Wave peaks={peaks} width={170} height={28} played={playing ? played : 0} />}
    </span>
  );
}
