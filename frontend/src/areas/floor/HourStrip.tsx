import type { Hour } from "./types";

const WIDTH = 96;
const HOUR_MS = 3_600_000;

const looks: Record<string, { height: number; fill: string } | undefined> = {
  available: { height: 3, fill: "var(--fern)" },
  ringing: { height: 7, fill: "var(--clay)" },
  on_contact: { height: 14, fill: "var(--pine)" },
  wrapping: { height: 9, fill: "var(--ochre)" },
  away: { height: 2, fill: "var(--slate)" },
};

/** An agent's last 60 minutes, oldest first; the height tells the state beside its fill. */
export function HourStrip({ hour, now }: { hour: Hour; now: number }) {
  const begin = now - HOUR_MS;
  const x = (ms: number) => (Math.max(0, ms - begin) / HOUR_MS) * WIDTH;
  return (
    <svg width={WIDTH} height="16" aria-hidden="true">
      {hour.map(([since, status], i) => {
        const look = looks[status];
        const end = hour[i + 1]?.[0] ?? now;
        if (!look || end < begin) return null;
        return <rect key={since} x={x(since)} width={Math.max(0.6, x(end) - x(since))} y={15 - look.height} height={look.height} fill={look.fill} />;
      })}
    </svg>
  );
}
