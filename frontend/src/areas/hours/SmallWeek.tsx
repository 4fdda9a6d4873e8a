import { DAY, type Week, WEEKDAYS } from "./spans";

const WIDTH = 96,
  LINE = 4;

/** A week at a glance: a line a day, Monday first, painted where it is open. */
export function SmallWeek({ week }: { week: Week }) {
  return (
    <svg
      width={WIDTH}
      height={7 * LINE}
      role="img"
      aria-label={`Open on ${week.flatMap((spans, day) => (spans.length ? [WEEKDAYS[day] ?? ""] : [])).join(", ") || "no day"}`}>
      {week.map((spans, day) => (
        <g key={day} transform={`translate(0 ${day * LINE})`}>
          <rect width={WIDTH} height={LINE - 1} fill="var(--line-2)" />
          {spans.map((span) => (
            <rect
              key={span.start}
              x={(span.start / DAY) * WIDTH}
              width={((Math.min(span.end, DAY) - span.start) / DAY) * WIDTH}
              height={LINE - 1}
              fill="var(--fern)"
            />
          ))}
        </g>
      ))}
    </svg>
  );
}
