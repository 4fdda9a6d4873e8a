import { useNow } from "../../frame/useLive";
import type { Hour } from "./types";

const WIDTH = 96;
const HOUR_MS = 3_600_000;
/** A point of its width is more than half a minute. */
const PACE_MS = 5000;
const BASE = 15;

/** The height tells the state beside its fill. */
const looks: Record<string, { height: number; fill: string } | undefined> = {
  available: { height: 3, fill: "var(--fern)" },
  ringing: { height: 7, fill: "var(--clay)" },
  on_contact: { height: 14, fill: "var(--pine)" },
  wrapping: { height: 9, fill: "var(--ochre)" },
  away: { height: 2, fill: "var(--slate)" },
};

/** All bars of each state as one shape: an hour may have hundreds of states. */
function shapes(hour: Hour, now: number): [string, string][] {
  const begin = now - HOUR_MS;
  const x = (ms: number) => (Math.max(0, ms - begin) / HOUR_MS) * WIDTH;
  const found = new Map<string, string>();
  hour.forEach(([since, status], i) => {
    const look = looks[status];
    const end = hour[i + 1]?.[0] ?? now;
    if (!look || end < begin) return;
    const width = Math.max(0.6, x(end) - x(since));
    found.set(
      look.fill,
      `${found.get(look.fill) ?? ""}M${x(since).toFixed(1)} ${BASE}v-${look.height}h${width.toFixed(1)}v${look.height}z`,
    );
  });
  return [...found];
}

/** An agent's last 60 minutes, oldest first. */
export function HourStrip({ hour }: { hour: Hour }) {
  const now = Math.max(useNow(PACE_MS), hour.at(-1)?.[0] ?? 0);
  return (
    <svg width={WIDTH} height="16" aria-hidden="true">
      {shapes(hour, now).map(([fill, path]) => (
        <path key={fill} d={path} fill={fill} />
      ))}
    </svg>
  );
}
