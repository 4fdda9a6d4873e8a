import type { Schemas } from "../../api/client";
import { clock } from "../../frame/format";
import styles from "./contacts.module.css";

type Course = Schemas["Course"];

const STEPS_S = [1, 2, 5, 10, 15, 30, 60, 120, 300, 600, 900, 1800, 3600, 7200, 14_400, 86_400];
const MOST_TICKS = 9;
/** How much of the width, in percent, a letter takes at least. */
const PER_LETTER = 0.56;

interface Bar {
  from: number;
  until: number;
  look: string | undefined;
  words?: string;
  title: string;
}

/** One lane; what is too narrow for its words tells them on hover. */
function Lane({ name, bars, course, keys }: { name: string; bars: Bar[]; course: Course; keys?: Course["keys"] }) {
  const whole = Math.max(1, course.ends_ms - course.begins_ms);
  const at = (ms: number) => (100 * (ms - course.begins_ms)) / whole;
  if (!bars.length && !keys?.length) return null;
  return (
    <>
      <span className={styles.laneName}>{name}</span>
      <div
        className={styles.lane}
        role="img"
        aria-label={`${name}: ${[...bars.map((bar) => bar.title), ...(keys ?? []).map((press) => press.key)].join("; ")}`}>
        {bars.map((bar) => (
          <span
            key={`${bar.look ?? ""} ${bar.from}`}
            className={`${styles.piece} ${bar.look ?? ""}`}
            title={bar.title}
            style={{ left: `${at(bar.from)}%`, width: `${at(bar.until) - at(bar.from)}%` }}>
            {at(bar.until) - at(bar.from) > 0.8 + PER_LETTER * (bar.words?.length ?? 0) ? bar.words : ""}
          </span>
        ))}
        {keys?.map((press) => (
          <span
            key={`${press.at_ms} ${press.key}`}
            className={styles.key}
            style={{ left: `${at(press.at_ms)}%` }}
            title={`${press.key} at ${clock(press.at_ms - course.begins_ms)}`}>
            {press.key}
          </span>
        ))}
      </div>
    </>
  );
}

function pieces(
  of: Course["where"],
  look: (kind: string) => string | undefined,
  words: (piece: Course["where"][number]) => string,
): Bar[] {
  return of.map((piece) => ({
    from: piece.from_ms,
    until: piece.until_ms,
    look: look(piece.kind),
    words: words(piece),
    title: `${words(piece)}, ${clock(piece.until_ms - piece.from_ms)}`,
  }));
}

function waits(course: Course): Bar[] {
  return course.waits.flatMap((wait) => {
    const waited = clock(wait.until_ms - wait.from_ms);
    const inTime: Bar = {
      from: wait.from_ms,
      until: wait.late_from_ms ?? wait.until_ms,
      look: styles.waiting,
      words: wait.late_from_ms ? "" : waited,
      title: `${wait.queue_name}: waited ${waited}`,
    };
    if (wait.late_from_ms === null) return [inTime];
    const by = clock(wait.until_ms - wait.late_from_ms);
    return [
      inTime,
      {
        from: wait.late_from_ms,
        until: wait.until_ms,
        look: styles.late,
        words: `${waited}, late by ${by}`,
        title: `${wait.queue_name}: waited ${waited}, late by ${by}`,
      },
    ];
  });
}

function speaks(course: Course): Bar[] {
  const talks = course.legs.map((leg): Bar => {
    const words = `${leg.agent_name} ${clock(leg.talk_ms || leg.until_ms - leg.from_ms)}`;
    return { from: leg.from_ms, until: leg.until_ms, look: styles.talk, words, title: words };
  });
  const wraps = course.legs.flatMap((leg): Bar[] =>
    leg.wrap_from_ms && leg.wrap_until_ms
      ? [
          {
            from: leg.wrap_from_ms,
            until: leg.wrap_until_ms,
            look: styles.wrap,
            words: clock(leg.wrap_until_ms - leg.wrap_from_ms),
            title: `${leg.agent_name} wraps up: ${leg.code_name || "no code"}, ${clock(leg.wrap_until_ms - leg.wrap_from_ms)}`,
          },
        ]
      : [],
  );
  return [
    ...pieces(
      course.rings,
      () => styles.ring,
      (piece) => `rings ${piece.label}`,
    ).map((bar) => ({ ...bar, words: "" })),
    ...talks,
    ...pieces(
      course.holds,
      () => styles.hold,
      () => "on hold",
    ),
    ...wraps,
  ];
}

/** Where a contact was, what it heard, pressed and waited, with whom it spoke: lane by lane over one time. */
export function Lanes({ course }: { course: Course }) {
  const whole = Math.max(1, course.ends_ms - course.begins_ms) / 1000;
  const step = STEPS_S.find((seconds) => whole / seconds <= MOST_TICKS) ?? 86_400;
  const ticks = Array.from({ length: Math.floor(whole / step) + 1 }, (_, n) => n * step);
  const place: Record<string, string | undefined> = {
    flow: styles.flow,
    queue: styles.queue,
    person: styles.person,
    outside: styles.outside,
  };
  const where: Record<string, string> = { person: "with a person", outside: "with an outside line" };
  return (
    <div className={styles.lanes} style={{ "--tick": `${(100 * step) / whole}%` } as React.CSSProperties}>
      <div className={styles.ticks} aria-hidden="true">
        {ticks.map((tick) => (
          <span key={tick} style={{ left: `${(100 * tick) / whole}%` }}>
            {clock(tick * 1000)}
          </span>
        ))}
      </div>
      <Lane
        name="Where"
        course={course}
        bars={pieces(
          course.where,
          (kind) => place[kind],
          (piece) => where[piece.kind] ?? (piece.label || "flow"),
        )}
      />
      <Lane
        name="Hears"
        course={course}
        bars={pieces(
          course.hears,
          (kind) => (kind === "music" ? styles.music : styles.words),
          (piece) => (piece.kind === "music" ? "music" : "words"),
        )}
      />
      <Lane name="Keys" course={course} bars={[]} keys={course.keys} />
      <Lane
        name="Texts"
        course={course}
        bars={[]}
        keys={course.texts.map((text) => ({ at_ms: text.from_ms, key: text.kind === "agent" ? "◂" : "▸" }))}
      />
      <Lane name="Waits" course={course} bars={waits(course)} />
      <Lane name="Speaks with" course={course} bars={speaks(course)} />
      <Lane
        name="Recorded"
        course={course}
        bars={pieces(
          course.recorded,
          () => styles.record,
          () => "recorded",
        )}
      />
    </div>
  );
}
