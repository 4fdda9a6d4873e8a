import { useEffect, useState, useSyncExternalStore } from "react";
import type { Topics } from "../api/client";
import { line, type LineState, type TopicState } from "./live";

/** A live topic, of the centre or of the thing with an id, kept up to date while the component is shown; null watches nothing. */
export function useTopic<K extends keyof Topics>(kind: K, id?: string | null): TopicState<Topics[K]> {
  const topic = id === undefined ? kind : id && `${kind}.${id}`;
  useEffect(() => (topic ? line.watch(topic) : undefined), [topic]);
  // The types are made from what the exchange's own code says that it sends.
  return useSyncExternalStore(line.subscribe, () => line.topic(topic ?? "")) as TopicState<Topics[K]>;
}

/** Whether the line to the server is open. */
export function useLineState(): LineState {
  return useSyncExternalStore(line.subscribe, line.lineState);
}

/** The site's time in milliseconds, moving on every `everyMs` of ours. */
export function useNow(everyMs = 1000): number {
  return line.siteTime(useOurTime(everyMs));
}

function useOurTime(everyMs: number): number {
  const [now, setNow] = useState(() => Date.now());
  useEffect(() => {
    const timer = window.setInterval(() => { setNow(Date.now()); }, everyMs);
    return () => { window.clearInterval(timer); };
  }, [everyMs]);
  return now;
}

export interface Heartbeat {
  state: "running" | "lost" | "unknown";
  revision: number | null;
  /** Seconds since the exchange last gave a sign. */
  ageS: number;
  /** How many times as fast as the wall's the site's clock runs. */
  speed: number;
  /** Whether the site's clock shows another time than the wall's. */
  apart: boolean;
}

const APART_MS = 60_000;

/** Whether the exchange runs, and which configuration; `lost` when it has been silent for 4 s. */
export function useHeartbeat(): Heartbeat {
  const now = useOurTime(1000);
  const heartbeat = useTopic("heartbeat").view?.heartbeat;
  if (!heartbeat) return { state: "unknown", revision: null, ageS: 0, speed: 1, apart: false };
  const ageS = Math.max(0, Math.floor((now - line.lastBeatMs) / 1000));
  return { state: ageS >= 4 ? "lost" : "running", revision: heartbeat.revision, ageS, speed: line.speed, apart: Math.abs(line.siteTime(now) - now) > APART_MS };
}
