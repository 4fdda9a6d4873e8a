import { useEffect, useState, useSyncExternalStore } from "react";
import { line, type LineState, type TopicState } from "./live";

/** A live topic, kept up to date while the component is shown; null watches nothing. */
export function useTopic(topic: string | null): TopicState {
  useEffect(() => (topic ? line.watch(topic) : undefined), [topic]);
  return useSyncExternalStore(line.subscribe, () => line.topic(topic ?? ""));
}

/** Whether the line to the server is open. */
export function useLineState(): LineState {
  return useSyncExternalStore(line.subscribe, line.lineState);
}

/** The server's time in milliseconds, moving on every `everyMs`. */
export function useNow(everyMs = 1000): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = window.setInterval(() => { setNow(Date.now()); }, everyMs);
    return () => { window.clearInterval(timer); };
  }, [everyMs]);
  return now + line.offsetMs;
}

export interface Pulse {
  state: "running" | "lost" | "unknown";
  revision: number | null;
  /** Seconds since the exchange last gave a sign. */
  ageS: number;
}

/** Whether the exchange runs, and which configuration; `lost` when it has been silent for 4 s. */
export function usePulse(): Pulse {
  const now = useNow();
  const pulse = useTopic("pulse").view?.pulse as { revision: number } | undefined;
  if (!pulse) return { state: "unknown", revision: null, ageS: 0 };
  const ageS = Math.max(0, Math.floor((now - line.offsetMs - line.lastPulseMs) / 1000));
  return { state: ageS >= 4 ? "lost" : "running", revision: pulse.revision, ageS };
}
