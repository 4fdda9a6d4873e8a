/** The live line: one WebSocket, many topics, each a snapshot and numbered changes. */

import { sessionEnded, type Topics } from "../api/client";

export type Section = Record<string, unknown>;
export type View = Record<string, Section>;
export type LineState = "connecting" | "open" | "lost";

interface Envelope {
  topic: string;
  epoch?: string;
  version?: number;
  now_ms?: number;
  sent_ms?: number;
  data?: View;
  set?: View;
  gone?: Record<string, string[]>;
  refused?: string;
}

export interface TopicState<V = View> {
  view: V | null;
  epoch: string;
  version: number;
  refused: string;
}

/** The code with which the server closes a line whose session is over. */
const SIGNED_OUT = 4401;

const NOTHING: TopicState = { view: null, epoch: "", version: 0, refused: "" };
const LONGEST_PAUSE_MS = 5000;
/** The server says something each second: a line that is silent for so long is lost, though nobody closed it. */
const SILENT_MS = 2000;
const LOOK_MS = 250;
/** The server's sign on a line where nothing else goes on. */
const SIGN = "line";

/** The view that a change makes of the one before it; untouched sections stay the same objects. */
export function applied(view: View, set: View, gone: Record<string, string[]>): View {
  const next: View = { ...view };
  for (const [section, items] of Object.entries(set)) next[section] = { ...next[section], ...items };
  for (const [section, ids] of Object.entries(gone)) {
    const kept = { ...next[section] };
    for (const id of ids) Reflect.deleteProperty(kept, id);
    next[section] = kept;
  }
  return next;
}

class LiveLine {
  private socket: WebSocket | null = null;
  private readonly watchers = new Map<string, number>();
  private readonly topics = new Map<string, TopicState>();
  private readonly listeners = new Set<() => void>();
  private pauseMs = 250;
  private timer: number | undefined;
  private watching: number | undefined;
  private heardMs = 0;
  private lookedMs = 0;
  private wanted = false;
  state: LineState = "connecting";
  /** The site's clock showed `siteMs` when ours showed `oursMs`, and runs `speed` times as fast. */
  private siteMs = Date.now();
  private oursMs = Date.now();
  speed = 1;
  /** When the exchange last gave a sign, by our clock. */
  lastBeatMs = 0;

  /** What the site's clock shows at a moment of ours. */
  siteTime = (ours: number): number => this.siteMs + (ours - this.oursMs) * this.speed;

  subscribe = (listener: () => void): (() => void) => {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  };

  topic = (name: string): TopicState => this.topics.get(name) ?? NOTHING;

  lineState = (): LineState => this.state;

  /** Keep a topic up to date until the returned function is called. */
  watch(topic: string): () => void {
    const count = this.watchers.get(topic) ?? 0;
    this.watchers.set(topic, count + 1);
    if (count === 0) this.send({ watch: topic });
    return () => {
      const left = (this.watchers.get(topic) ?? 1) - 1;
      if (left > 0) {
        this.watchers.set(topic, left);
        return;
      }
      this.watchers.delete(topic);
      this.topics.delete(topic);
      this.send({ leave: topic });
    };
  }

  start(): void {
    this.wanted = true;
    this.lookedMs = Date.now();
    this.watching ??= window.setInterval(() => {
      this.look();
    }, LOOK_MS);
    if (!this.socket) this.open();
  }

  stop(): void {
    this.wanted = false;
    window.clearTimeout(this.timer);
    window.clearInterval(this.watching);
    this.watching = undefined;
    this.socket?.close();
    this.socket = null;
    this.topics.clear();
  }

  private open(): void {
    const scheme = window.location.protocol === "https:" ? "wss" : "ws";
    const socket = new WebSocket(`${scheme}://${window.location.host}/ws/live`);
    this.socket = socket;
    socket.onopen = () => {
      this.pauseMs = 250;
      this.heardMs = Date.now();
      this.setState("open");
      for (const topic of this.watchers.keys()) this.send({ watch: topic });
    };
    socket.onmessage = (message) => {
      this.heardMs = Date.now();
      this.take(JSON.parse(String(message.data)) as Envelope);
    };
    socket.onclose = ({ code }) => {
      if (this.socket !== socket) return;
      this.socket = null;
      if (!this.wanted) return;
      if (code === SIGNED_OUT) sessionEnded();
      this.lost();
    };
  }

  /** The line says nothing any more: begin anew, a little later each time. */
  private lost(): void {
    this.setState("lost");
    this.timer = window.setTimeout(() => {
      this.open();
    }, this.pauseMs);
    this.pauseMs = Math.min(this.pauseMs * 2, LONGEST_PAUSE_MS);
  }

  /** Whether the line still lives. A page that was asleep itself waits for what was said meanwhile. */
  private look(): void {
    const now = Date.now(),
      asleep = now - this.lookedMs > SILENT_MS;
    this.lookedMs = now;
    if (asleep) this.heardMs = Math.max(this.heardMs, now - LOOK_MS);
    const silent = this.socket;
    if (this.state !== "open" || !silent || now - this.heardMs <= SILENT_MS) return;
    this.socket = null;
    silent.close();
    this.lost();
  }

  private take(envelope: Envelope): void {
    const { topic } = envelope;
    if (topic === SIGN) return;
    if (envelope.refused) this.topics.set(topic, { ...NOTHING, refused: envelope.refused });
    else this.merge(envelope);
    if (topic === "heartbeat") this.takeHeartbeat(envelope.sent_ms);
    this.tell();
  }

  /** How the site's clock runs; a snapshot's heartbeat is as old as it says. */
  private takeHeartbeat(sentMs: number | undefined): void {
    const heartbeat = (this.topic("heartbeat").view as Topics["heartbeat"] | null)?.heartbeat;
    if (!heartbeat) return;
    const ageMs = sentMs ? Math.max(0, sentMs - heartbeat.wall_ms) : 0;
    this.speed = heartbeat.speed;
    this.oursMs = Date.now();
    this.siteMs = heartbeat.at_ms + ageMs * this.speed;
    this.lastBeatMs = this.oursMs - ageMs;
  }

  private merge(envelope: Envelope): void {
    const { topic, epoch = "", version = 0 } = envelope;
    const before = this.topic(topic);
    if (envelope.data) {
      this.topics.set(topic, { view: envelope.data, epoch, version, refused: "" });
    } else if (before.view && before.epoch === epoch && version === before.version + 1) {
      const view = applied(before.view, envelope.set ?? {}, envelope.gone ?? {});
      this.topics.set(topic, { view, epoch, version, refused: "" });
    } else if (before.epoch !== epoch || version > before.version) {
      this.send({ snapshot: topic });
    }
  }

  private send(message: Record<string, string>): void {
    if (this.socket?.readyState === WebSocket.OPEN) this.socket.send(JSON.stringify(message));
  }

  private setState(state: LineState): void {
    this.state = state;
    this.tell();
  }

  private tell(): void {
    for (const listener of this.listeners) listener();
  }
}

export const line = new LiveLine();
