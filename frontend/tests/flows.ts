/** Flows that tests begin with. */
import type { Definition, Inspection, Step, Stop } from "../src/api/client";

/** A flow of the stops that are given, begun at the first. */
export function flow(steps: object[], more: Partial<Definition> = {}): Definition {
  const made = steps as Step[];
  return {
    channel: "voice",
    purpose: "flow",
    language: "en",
    inputs: [],
    outputs: [],
    start: made[0]?.id ?? null,
    steps: made,
    stay_limit_s: 900,
    failure_prompt: null,
    music: null,
    accepted: [],
    ...more,
  };
}

const prompt = { kind: "text", text: "Hello.", language: "en" };

export const say = (id: string, next: string | null) => ({ kind: "say", id, name: "", prompt, next });
export const end = (id: string) => ({ kind: "end", id, name: "", prompt: null });
export const menu = (id: string, arms: Record<string, string | null>, noKey: string | null = null) => ({
  kind: "menu",
  id,
  name: id,
  prompt,
  listens: false,
  wait_s: 5,
  tries: 1,
  no_key: noKey,
  no_key_prompt: null,
  wrong_tries: null,
  wrong_key_prompt: null,
  wrong_key: null,
  arms: Object.entries(arms).map(([key, next]) => ({
    key,
    label: `to ${next ?? "nowhere"}`,
    words: [],
    hidden: false,
    next,
  })),
});

type Ways = Record<string, string | null>;

/** A stop as an inspection describes it: its exits by name, each leading to a stop, nowhere (null), or to an ending (“!”). */
export function stop(id: string, kind: string, ways: Ways, fate: string | null = null): Stop {
  const names = Object.entries(ways);
  return {
    id,
    kind,
    title: `${kind} ${id}`,
    sentence: `What ${id} does for callers`,
    name: id,
    place: id,
    reach: 1,
    fate,
    fates: { person: 0.5, ended: 0.5 },
    exits: names.map(([name, to]) => ({
      name,
      to: to === "!" ? null : to,
      label: name.replace("key:", "For "),
      failure: name === "failed",
      ends: to === "!",
      share: 1 / names.length,
    })),
  } as unknown as Stop;
}

export function inspection(stops: Stop[]): Inspection {
  return { stops, findings: [], kinds: [], blocked: false, changes: null, difference: null } as unknown as Inspection;
}

/** Chance that is the same in every run. */
export function chance(seed: number): () => number {
  let state = seed;
  return () => {
    state = (state * 1_103_515_245 + 12_345) % 2_147_483_648;
    return state / 2_147_483_648;
  };
}

/** A flow of so many stops that lead to one another as chance has it, back to earlier ones too. */
export function anyFlow(seed: number, size: number): Inspection {
  const next = chance(seed);
  const to = () => (next() < 0.15 ? null : `s${Math.floor(next() * size)}`);
  return inspection(
    Array.from({ length: size }, (_, n) => {
      const kind = ["say", "menu", "queue", "hours", "end"][Math.floor(next() * 5)] ?? "say";
      if (kind === "end") return stop(`s${n}`, kind, {}, "ended");
      if (kind === "menu") return stop(`s${n}`, kind, { "key:1": to(), "key:2": to(), no_key: to() });
      if (kind === "queue") return stop(`s${n}`, kind, { answered: "!", waited: to() }, "person");
      return stop(`s${n}`, kind, kind === "hours" ? { open: to(), closed: to() } : { next: `s${(n + 1) % size}` });
    }),
  );
}
