import { useEffect, useSyncExternalStore } from "react";
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

/** Our time, moving at one pace for all who look at it: one timer moves them together. */
class Pace {
  private now = Date.now();
  private timer: number | undefined;
  private readonly listeners = new Set<() => void>();

  constructor(private readonly everyMs: number) {}

  read = (): number => {
    if (this.listeners.size === 0 && Date.now() - this.now > this.everyMs) this.now = Date.now();
    return this.now;
  };

  subscribe = (listener: () => void): (() => void) => {
    if (this.listeners.size === 0) {
      this.timer = window.setInterval(() => {
        this.now = Date.now();
        for (const one of this.listeners) one();
      }, this.everyMs);
    }
    this.listeners.add(listener);
    return () => {
      this.listeners.delete(listener);
      if (this.listeners.size === 0) window.clearInterval(this.timer);
    };
  };
}

const paces = new Map<number, Pace>();

function paceOf(everyMs: number): Pace {
  const pace = paces.get(everyMs) ?? new Pace(everyMs);
  paces.set(everyMs, pace);
  return pace;
}

function useOurTime(everyMs: number): number {
  const pace = paceOf(everyMs);
  return useSyncExternalStore(pace.subscribe, pace.read);
}

/** The site's time in milliseconds, moving on every `everyMs` of ours. */
export function useNow(everyMs = 1000): number {
  return line.siteTime(useOurTime(everyMs));
}

export interface Heartbeat {
  state: "running" | "lost" | "unknown";
  revision: number | null;
  /** Seconds since the exchange last gave a sign. */
  ageS: number;
  /** When that was, by the site's clock. */
  beatMs: number;
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
  if (!heartbeat) return { state: "unknown", revision: null, ageS: 0, beatMs: 0, speed: 1, apart: false };
  const ageS = Math.max(0, Math.floor((now - line.lastBeatMs) / 1000));
  return {
    state: ageS >= 4 ? "lost" : "running",
    revision: heartbeat.revision,
    ageS,
    beatMs: line.siteTime(line.lastBeatMs),
    speed: line.speed,
    apart: Math.abs(line.siteTime(now) - now) > APART_MS,
  };
}
