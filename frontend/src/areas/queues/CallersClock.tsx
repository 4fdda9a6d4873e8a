import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useDeferredValue } from "react";
import { api, data, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import type { Values } from "../../api/resources";
import { clock } from "../../frame/format";
import { isLate } from "../../frame/late";
import { useNow, useTopic } from "../../frame/useLive";
import type { Bead } from "../floor/types";
import { Sized } from "../shared/Sized";
import styles from "./queues.module.css";

type Clock = Schemas["Clock"];
type Mark = Clock["marks"][number];

/** What was counted, contact by contact, against the threshold that is kept. */
type Waits = Schemas["LiveWaits"];

/** Until the room is known. */
const USUAL_WIDTH = 640;
const LEFT = 78;
/** Seconds of the axis that are worth naming. */
const TICKS = [0, 15, 30, 60, 120, 240, 420, 900, 1800, 3600, 7200, 14400, 43200, 86400];

/** A wait's place on the line: stretched near the start, where most waits end. */
function scaleTo(end_s: number, width: number) {
  const whole = Math.log1p(end_s / 20);
  return (s: number) => LEFT + (Math.log1p(Math.max(0, Math.min(s, end_s)) / 20) / whole) * (width - LEFT - 10);
}

type Scale = ReturnType<typeof scaleTo>;

/** What the settings need of the form to be worked out: only what is whole. */
function asked(values: Values): Schemas["QueueInHandRequest"] | Record<string, unknown> {
  const widening = ((values.widening ?? []) as { after_s: unknown }[]).filter((row) => Number(row.after_s) > 0);
  const longest = values.longest_wait_s;
  return {
    plan: values.plan ?? null,
    widening,
    last_agent_s: Number(values.last_agent_s) || 0,
    overflow: values.overflow ?? "",
    overflow_nobody: values.overflow_nobody ?? "",
    overflow_closed: values.overflow_closed ?? "",
    when_nobody: values.when_nobody ?? "wait",
    when_closed: values.when_closed ?? "wait",
    hours: values.hours ?? null,
    required_skills: values.required_skills ?? [],
    members: values.members ?? [],
    teams: values.teams ?? [],
    longest_wait_s: longest === null || longest === undefined || longest === "" ? null : Number(longest),
  };
}

const atOnce = { nobody: "While nobody is signed in who could take them", closed: "While it is closed" };
const lanes: Record<Mark["kind"], number> = {
  heard: 0,
  music: 0,
  told: 0,
  widens: 1,
  prefers: 1,
  callback: 2,
  message: 2,
  leaves: 2,
};
const laneNames = ["Hears", "Taken by", "Can leave by"];
const fills: Record<Mark["kind"], string> = {
  heard: "var(--lichen)",
  music: "var(--lichen-soft)",
  told: "var(--lichen)",
  widens: "var(--line)",
  prefers: "var(--line)",
  callback: "var(--ochre-soft, #f5e6c8)",
  message: "var(--ochre-soft, #f5e6c8)",
  leaves: "var(--plum-soft, #f1e7ee)",
};

function Lane({ marks, lane, at, end_s }: { marks: Mark[]; lane: number; at: Scale; end_s: number }) {
  const y = 40 + lane * 24;
  return (
    <g>
      <text x={0} y={y + 14} className={styles.name}>
        {laneNames[lane]}
      </text>
      <rect x={at(0)} y={y} width={at(end_s) - at(0)} height={19} fill="var(--sheet)" />
      {marks.map((mark, i) => {
        const next = marks[i + 1]?.at_s ?? end_s;
        const until = lane === 0 ? mark.until_s : next;
        const width = Math.max(lane === 0 ? 1.5 : 3, at(until) - at(mark.at_s) - 1);
        const room = Math.floor((width - 8) / 6.2);
        return (
          <g key={i}>
            <title>{`${clock(mark.at_s * 1000)}  ${mark.words}`}</title>
            <rect x={at(mark.at_s)} y={y} width={width} height={19} rx={2} fill={fills[mark.kind]} />
            {room > 3 && (
              <text x={at(mark.at_s) + 5} y={y + 14} className={styles.said}>
                {mark.words.length > room ? `${mark.words.slice(0, room - 1)}…` : mark.words}
              </text>
            )}
          </g>
        );
      })}
    </g>
  );
}

const short: Partial<Record<Mark["kind"], string>> = {
  told: "Wait told",
  callback: "Callback offered",
  widens: "Widened",
  message: "Message",
  leaves: "Longest wait",
};

interface Name {
  name: string;
  mark: Mark;
  x: number;
  last: boolean;
}

/** The first of each kind of moment, where its name has room. */
function namesOf(marks: Mark[], at: Scale, end_s: number): Name[] {
  const found: Name[] = [];
  let free = LEFT - 1;
  for (const mark of marks) {
    const name = short[mark.kind];
    const last = mark.at_s >= end_s;
    const x = at(mark.at_s);
    const from = last ? x - (name ?? "").length * 6.4 : x;
    if (!name || from < free || found.some((one) => one.name === name)) continue;
    found.push({ name, mark, x, last });
    free = from + name.length * 6.4 + 10;
  }
  return found;
}

/** The moments that matter, named above the line. */
function Heads({ marks, at, end_s }: { marks: Mark[]; at: Scale; end_s: number }) {
  return (
    <g>
      {namesOf(marks, at, end_s).map(({ name, mark, x, last }) => (
        <g key={name} textAnchor={last ? "end" : "start"}>
          <text x={x} y={12} className={styles.head}>
            {name}
          </text>
          <text x={x} y={26} className={styles.moment}>
            {clock(mark.at_s * 1000)}
          </text>
          <line x1={x} x2={x} y1={30} y2={112} stroke="var(--edge)" strokeDasharray="2 3" />
        </g>
      ))}
    </g>
  );
}

const TOP = 128;
const BASE = 232;

/** Today's waits on the same axis: answered above the line, given up below it. */
function Histogram({
  waits,
  at,
  end_s,
  threshold_s,
}: {
  waits: Waits | undefined;
  at: Scale;
  end_s: number;
  threshold_s: number;
}) {
  const bin_s = (waits?.bin_ms ?? 10_000) / 1000;
  const rows = (counts: Record<string, number> | undefined) =>
    Object.entries(counts ?? {})
      .map(([bin, count]) => ({ from: Number(bin) * bin_s, count }))
      .filter((row) => row.from < end_s);
  const answered = rows(waits?.answered);
  const abandoned = rows(waits?.abandoned);
  const most = Math.max(4, ...answered.map((row) => row.count), ...abandoned.map((row) => 2 * row.count));
  const height = (count: number, room: number) => (count / most) * room;
  // Counts are the exchange's own; for a threshold that is only typed yet there are none.
  const counted = waits?.threshold_s === threshold_s ? waits : undefined;
  return (
    <g>
      <rect
        x={at(threshold_s)}
        y={TOP}
        width={Math.max(0, at(end_s) - at(threshold_s))}
        height={BASE - TOP + 34}
        fill="var(--plum-soft, #f1e7ee)"
      />
      <text x={0} y={BASE - 34} className={styles.name}>
        Answered
      </text>
      <text x={0} y={BASE + 18} className={styles.name}>
        Abandoned
      </text>
      {answered.map((row) => (
        <rect
          key={row.from}
          x={at(row.from)}
          width={Math.max(1, at(row.from + bin_s) - at(row.from) - 1)}
          y={BASE - height(row.count, 84)}
          height={height(row.count, 84)}
          fill="var(--fern)">
          <title>{`${row.count} answered after ${clock(row.from * 1000)} to ${clock((row.from + bin_s) * 1000)}`}</title>
        </rect>
      ))}
      {abandoned.map((row) => (
        <rect
          key={row.from}
          x={at(row.from)}
          width={Math.max(1, at(row.from + bin_s) - at(row.from) - 1)}
          y={BASE + 1}
          height={height(row.count, 84)}
          fill="var(--plum)">
          <title>{`${row.count} abandoned after ${clock(row.from * 1000)} to ${clock((row.from + bin_s) * 1000)}`}</title>
        </rect>
      ))}
      <line x1={at(0)} x2={at(end_s)} y1={BASE} y2={BASE} stroke="var(--pine)" />
      <line
        x1={at(threshold_s)}
        x2={at(threshold_s)}
        y1={TOP - 10}
        y2={BASE + 34}
        stroke="var(--pine)"
        strokeWidth={2.5}
      />
      <text x={at(threshold_s) - 6} y={TOP + 2} textAnchor="end" className={styles.count}>
        {counted && `${counted.answered_in_time} in time`}
      </text>
      <text x={at(threshold_s) + 7} y={TOP + 2} className={styles.head}>
        Threshold {clock(threshold_s * 1000)}
      </text>
      <text x={at(threshold_s) + 7} y={TOP + 18} className={styles.count}>
        {counted && `${counted.answered_late} answered after it`}
      </text>
      <text x={at(threshold_s) + 7} y={BASE + 28} className={styles.gave}>
        {counted && `${counted.abandoned_late} abandoned after it, ${counted.abandoned_in_time} before`}
      </text>
    </g>
  );
}

function Axis({ at, end_s, y }: { at: Scale; end_s: number; y: number }) {
  const shown = TICKS.filter((s) => s < end_s * 0.8);
  return (
    <g>
      {[...shown, end_s].map((s) => (
        <text key={s} x={at(s)} y={y} textAnchor={s === end_s ? "end" : "middle"} className={styles.tick}>
          {clock(s * 1000)}
        </text>
      ))}
    </g>
  );
}

/** Who waits now, each at their wait. */
function Beads({ beads, at, end_s, y }: { beads: Bead[]; at: Scale; end_s: number; y: number }) {
  const now = useNow(500);
  return (
    <g>
      <text x={0} y={y + 4} className={styles.name}>
        Waiting now
      </text>
      <line x1={at(0)} x2={at(end_s)} y1={y} y2={y} stroke="var(--line)" />
      {beads.map((bead) => {
        const waited = (now - bead.entered_ms) / 1000;
        const late = isLate(bead, now);
        return (
          <circle
            key={bead.contact}
            cx={at(waited)}
            cy={y}
            r={5}
            fill={late ? "var(--plum)" : "var(--sheet)"}
            stroke={late ? "var(--plum)" : "var(--pine)"}
            strokeWidth={2}>
            <title>{`${clock(waited * 1000)}${bead.ringing ? `, rings at ${bead.ringing}` : ""}`}</title>
          </circle>
        );
      })}
      {beads.length === 0 && (
        <text x={at(0) + 6} y={y - 5} className={styles.said}>
          nobody
        </text>
      )}
    </g>
  );
}

interface Props {
  id: string;
  values: Values;
  threshold_s: number;
  beads: Bead[];
}

/** What these settings do to a caller for whom nobody becomes free, and what today's callers met. */
export function CallersClock({ id, values, threshold_s, beads }: Props) {
  const body = useDeferredValue(asked(values));
  const found = useQuery({
    queryKey: keys.of("queue-clock", body),
    queryFn: () => data(api.POST("/api/v1/queues/clock", { body: body as never })),
    placeholderData: keepPreviousData,
    retry: false,
  });
  const waits = useTopic("queue", id).view?.waits;
  if (!found.data)
    return found.isError ? (
      <div role="alert">{words(found.error)}</div>
    ) : (
      <div className="dim">Working out the caller’s clock…</div>
    );
  const { marks, end_s } = found.data;
  const begins = (words: string): Mark => ({ at_s: 0, until_s: 0, kind: "heard", words });
  const laneOf = (number: number): Mark[] => {
    const found = marks.filter((mark) => lanes[mark.kind] === number && mark.kind !== "leaves");
    if (number === 0) return found;
    const first = begins(
      number === 2 ? "hanging up" : Number(values.last_agent_s) > 0 ? "who knows the caller" : "members",
    );
    // What comes round again in the plan is one stretch here.
    return [first, ...found.filter((mark, i) => mark.words !== found[i - 1]?.words)];
  };
  const leaves = marks.find((mark) => mark.kind === "leaves");
  return (
    <section aria-label="The caller’s clock">
      <h2>
        The caller’s clock{" "}
        <span className="dim light">
          what these settings do to a caller, and what today’s callers met; time is stretched near the start
        </span>
      </h2>
      <Sized usual={USUAL_WIDTH}>
        {(width) => {
          const at = scaleTo(end_s, width);
          return (
            <svg
              viewBox={`0 0 ${width} 322`}
              className={styles.clock}
              role="img"
              aria-label={marks.map((mark) => `${clock(mark.at_s * 1000)} ${mark.words}`).join("; ")}>
              {[0, 1, 2].map((number) => (
                <Lane key={number} lane={number} marks={laneOf(number)} at={at} end_s={end_s} />
              ))}
              <Heads marks={marks} at={at} end_s={end_s} />
              <Histogram waits={waits} at={at} end_s={end_s} threshold_s={threshold_s} />
              <Axis at={at} end_s={end_s} y={BASE + 50} />
              <Beads beads={beads} at={at} end_s={end_s} y={BASE + 74} />
            </svg>
          );
        }}
      </Sized>
      {found.data.able === 0 && (
        <div role="status" className="wrong">
          No agent of this queue has the skills that it asks for, even when it has widened: its callers would never be
          answered.
        </div>
      )}
      {found.data.at_once.map((way) => (
        <div key={way.way} className="dim">
          {atOnce[way.way]}: {way.words}, at once.
        </div>
      ))}
      <div className="dim">
        {leaves
          ? `After ${clock(end_s * 1000)}: ${leaves.words}.`
          : found.data.marks.some((mark) => mark.kind === "message")
            ? "The waiting plan leads out of the queue."
            : "The queue lets nobody go: who is not answered waits until they hang up."}
      </div>
    </section>
  );
}
