import { Button } from "@mui/material";
import { useEffect, useRef, useState } from "react";

/** Plays one recording. */
export function Player({ take, seconds, label = "Play" }: { take: number; seconds: number; label?: string }) {
  const audio = useRef<HTMLAudioElement | null>(null);
  const [playing, setPlaying] = useState(false);
  useEffect(() => () => { audio.current?.pause(); }, [take]);
  const toggle = () => {
    if (playing) {
      audio.current?.pause();
      setPlaying(false);
      return;
    }
    const element = new Audio(`/api/v1/takes/${take}`);
    element.onended = () => { setPlaying(false); };
    element.onerror = () => { setPlaying(false); };
    audio.current = element;
    setPlaying(true);
    element.play().catch(() => { setPlaying(false); });
  };
  return (
    <Button variant="outlined" onClick={toggle} aria-pressed={playing}>
      {playing ? "■ Stop" : `▶ ${label}`}&nbsp;<span className="dim">{seconds.toFixed(1)} s</span>
    </Button>
  );
}
