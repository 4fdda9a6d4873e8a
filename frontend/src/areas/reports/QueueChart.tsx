import type { Schemas } from "../../api/client";
import { percent } from "../../frame/format";
import { isOneDay, rowName } from "./figures";
import styles from "./reports.module.css";

type Row = Schemas["FigureRow"];

const WIDTH = 1000,
  LEVEL_TOP = 14,
  LEVEL_HEIGHT = 54,
  BARS_TOP = 86,
  BARS_HEIGHT = 62,
  FOOT = 18;

/** What became of everybody, from the bottom of a bar up. */
const parts: { name: string; fill: string; of: (f: Record<string, number | null>) => number }[] = [
  { name: "answered in time", fill: "var(--fern)", of: (f) => (f.answered ?? 0) - (f.answered_late ?? 0) },
  { name: "answered late", fill: "var(--lichen)", of: (f) => f.answered_late ?? 0 },
  { name: "abandoned", fill: "var(--plum)", of: (f) => f.abandoned ?? 0 },
  {
    name: "message, callback, elsewhere",
    fill: "var(--ochre)",
    of: (f) => (f.messages ?? 0) + (f.callbacks ?? 0) + (f.elsewhere ?? 0) + (f.ended ?? 0),
  },
];

/** The service level over the rows, against its goal, and under it what became of everybody. */
export function QueueChart({
  rows,
  by,
  zone,
  goal,
  chosen,
  choose,
}: {
  rows: Row[];
  by: string;
  zone: string;
  goal: number | null;
  chosen: number | null;
  choose: (row: Row) => void;
}) {
  const step = WIDTH / Math.max(1, rows.length);
  const most = Math.max(1, ...rows.map((row) => row.figures.offered ?? 0));
  const levels = rows.map((row) => row.figures.level ?? null).filter((level) => level !== null);
  const floor = Math.min(goal ?? 1, ...levels, 0.9);
  const low = Math.max(0, Math.floor(floor * 10 - 0.5) / 10);
  const levelY = (level: number) => LEVEL_TOP + LEVEL_HEIGHT * (1 - (level - low) / (1 - low || 1));
  const middle = (number: number) => (number + 0.5) * step;
  const points = rows.flatMap((row, number) =>
    row.figures.level == null ? [] : [`${middle(number)},${levelY(row.figures.level)}`],
  );
  const day = isOneDay(rows[0]?.begin_ms ?? 0, rows[rows.length - 1]?.end_ms ?? 0);
  const fitting = (chosen === null ? 14 : 8) / (!day && by.length === 2 ? 2 : 1);
  const every = Math.ceil(rows.length / fitting);
  return (
    <figure className={styles.chart} aria-label="Service level and contacts over the period">
      <div className={styles.scale}>
        {(goal === null || levelY(goal) - levelY(1) > 14) && <span style={{ top: levelY(1) - 8 }}>100 %</span>}
        {goal !== null && <span style={{ top: levelY(goal) - 8 }}>goal {percent(goal, 0)}</span>}
        {(goal === null || levelY(low) - levelY(goal) > 14) && (
          <span style={{ top: levelY(low) - 8 }}>{percent(low, 0)}</span>
        )}
        <span style={{ top: BARS_TOP - 6 }}>{most}</span>
        <span style={{ top: BARS_TOP + BARS_HEIGHT - 10 }}>0</span>
      </div>
      <svg viewBox={`0 0 ${WIDTH} ${BARS_TOP + BARS_HEIGHT + 1}`} preserveAspectRatio="none" aria-hidden="true">
        {rows.map(
          (row, number) =>
            row.begin_ms === chosen && (
              <rect key={row.begin_ms} x={number * step} y={0} width={step} height="100%" fill="var(--clay-soft)" />
            ),
        )}
        <line x1={0} x2={WIDTH} y1={levelY(1)} y2={levelY(1)} className={styles.rule} />
        <line x1={0} x2={WIDTH} y1={levelY(low)} y2={levelY(low)} className={styles.rule} />
        {goal !== null && <line x1={0} x2={WIDTH} y1={levelY(goal)} y2={levelY(goal)} className={styles.goal} />}
        <polyline points={points.join(" ")} className={styles.level} />
        <line x1={0} x2={WIDTH} y1={BARS_TOP + BARS_HEIGHT} y2={BARS_TOP + BARS_HEIGHT} className={styles.rule} />
        {rows.map((row, number) => {
          let top = BARS_TOP + BARS_HEIGHT;
          return parts.map((part) => {
            const height = (part.of(row.figures) / most) * BARS_HEIGHT;
            top -= height;
            return (
              height > 0 && (
                <rect
                  key={`${row.begin_ms} ${part.name}`}
                  x={number * step + step * 0.18}
                  width={step * 0.64}
                  y={top}
                  height={height}
                  fill={part.fill}
                />
              )
            );
          });
        })}
        {rows.map((row, number) => (
          <rect
            key={row.begin_ms}
            x={number * step}
            y={0}
            width={step}
            height={BARS_TOP + BARS_HEIGHT}
            fill="transparent"
            style={{ cursor: "pointer" }}
            onClick={() => choose(row)}>
            <title>{rowName(row.begin_ms, row.end_ms, by, zone)}</title>
          </rect>
        ))}
      </svg>
      <div className={styles.marks} aria-hidden="true">
        {rows.length <= 62 &&
          rows.map(
            (row, number) =>
              row.figures.level != null && (
                <i
                  key={row.begin_ms}
                  className={row.below_goal ? styles.missed : styles.met}
                  style={{ left: `${(100 * middle(number)) / WIDTH}%`, top: levelY(row.figures.level) }}
                />
              ),
          )}
      </div>
      <div className={styles.names} style={{ height: FOOT }}>
        {rows.map(
          (row, number) =>
            number % every === 0 && (
              <span
                key={row.begin_ms}
                style={{
                  left: `${(100 * middle(number)) / WIDTH}%`,
                  transform: number === 0 && rows.length > 12 ? "translateX(-25%)" : undefined,
                }}
                className={row.begin_ms === chosen ? styles.chosenName : undefined}>
                {rowName(row.begin_ms, row.end_ms, by, zone, day)}
              </span>
            ),
        )}
      </div>
    </figure>
  );
}

/** What the colours and signs of the chart mean. */
export function ChartLegend({ goal }: { goal: number | null }) {
  return (
    <span className={styles.legend}>
      {goal !== null && (
        <>
          <span>
            <i className={styles.met} /> goal met
          </span>
          <span>
            <i className={styles.missed} /> below goal
          </span>
        </>
      )}
      {parts.map((part) => (
        <span key={part.name}>
          <i className={styles.swatch} style={{ background: part.fill }} /> {part.name}
        </span>
      ))}
    </span>
  );
}
