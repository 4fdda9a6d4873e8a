import { useQuery } from "@tanstack/react-query";
import { useEffect } from "react";
import { useParams } from "react-router-dom";
import { api, data, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { clock, percent, timeOfDay } from "../../frame/format";
import { isLate } from "../../frame/late";
import { useMode } from "../../frame/mode";
import { Empty, Failure, Glyph, Loading } from "../../frame/states";
import { verdict } from "./verdict";
import { nameless, WaitRibbon } from "./WaitRibbon";
import styles from "./wall.module.css";

type Now = Schemas["BoardNow"];
type Queue = Now["queues"][number];
type Column = Now["columns"][number];
type Total = Now["totals"][number];

const heads: Record<Column | Total, string> = {
  waiting: "waiting",
  longest: "longest",
  expected: "expected",
  available: "available",
  on_contact: "on contact",
  answered: "answered",
  abandoned: "abandoned",
  level: "service level",
  signed_in: "signed in",
  ringing: "ringing",
  wrapping: "wrapping up",
  away: "away",
};
const EVERY_MS = 1_000;
const OLD_MS = 10_000;

const since = (from: number | null, now: number) => (from === null ? "–" : clock(now - from));

function cell(queue: Queue, column: Column, now: number): string {
  if (column === "longest") return since(queue.first_entered_ms, now);
  if (column === "expected") return queue.expected_s === null ? "–" : clock(queue.expected_s * 1000);
  return column === "level" ? percent(queue.level) : String(queue[column]);
}

function sum(centre: NonNullable<Now["centre"]>, total: Total, now: number): string {
  if (total === "longest") return since(centre.first_entered_ms, now);
  return total === "level" ? percent(centre.level) : String(centre[total]);
}

function Row({ queue, columns, now }: { queue: Queue; columns: Column[]; now: number }) {
  const late = queue.waits.some((wait) => isLate(wait, now));
  const tone = (column: Column) =>
    column === "level"
      ? queue.level === null
        ? undefined
        : queue.below_goal
          ? styles.bad
          : styles.good
      : late && (column === "waiting" || column === "longest")
        ? styles.bad
        : undefined;
  return (
    <tr>
      <th scope="row">{queue.name}</th>
      <td className={styles.ribbon}>
        <WaitRibbon beads={nameless(queue.waits)} threshold={queue.threshold_s} now={now} name={queue.name} />
      </td>
      {columns.map((column) => (
        <td key={column} className={tone(column)}>
          {cell(queue, column, now)}
        </td>
      ))}
    </tr>
  );
}

/** A board as it hangs on a wall: to be read from across the room. */
function Board({ board, failed }: { board: Now; failed: boolean }) {
  const { toggle } = useMode();
  useEffect(() => {
    const press = (event: KeyboardEvent) => {
      if (event.key.toLowerCase() === "n") toggle();
    };
    window.addEventListener("keydown", press);
    return () => {
      window.removeEventListener("keydown", press);
    };
  }, [toggle]);
  const now = board.now_ms;
  const age = board.told_ms === null ? null : Math.max(0, now - board.told_ms);
  const old = failed || age === null || age > OLD_MS;
  if (!board.centre)
    return <Empty title="The exchange has not been seen yet">The board fills as soon as it runs.</Empty>;
  const said = verdict(
    board.queues.map((queue) => ({ ...queue, waiting: queue.waits })),
    board.centre,
    now,
    [],
  );
  return (
    <div className={styles.wall}>
      <header>
        <Glyph name={said.bad ? "peak" : "ridge"} colour={said.bad ? "var(--plum-ink)" : "var(--fern-ink)"} />
        <h1 role="status" className={old ? styles.old : said.bad ? styles.bad : styles.good}>
          {old ? "Figures stand still" : said.text}
        </h1>
        <span>{timeOfDay(now, board.time_zone).slice(0, 5)}</span>
      </header>
      <table className={old ? styles.old : undefined}>
        <thead>
          <tr>
            <th>Queue</th>
            <th aria-label="Waits" />
            {board.columns.map((column) => (
              <th key={column}>{heads[column]}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {board.queues.map((queue) => (
            <Row key={queue.id} queue={queue} columns={board.columns} now={now} />
          ))}
        </tbody>
      </table>
      <footer className={old ? styles.old : undefined}>
        {board.totals.map((total) => (
          <div key={total}>
            <b>{board.centre && sum(board.centre, total, now)}</b>
            <span>{heads[total]}</span>
          </div>
        ))}
        <span className={styles.age}>
          {board.name}
          <br />
          {age === null ? "no data yet" : `data ${Math.round(age / 1000)} s old`}
        </span>
      </footer>
    </div>
  );
}

/** A wall, by its link alone, or (`board`) as one who has signed in. */
export default function Wall() {
  const { token, board } = useParams();
  const wall = useQuery({
    queryKey: keys.of("wall", token ?? "", board ?? ""),
    queryFn: () =>
      token
        ? data(api.GET("/api/v1/wall/{token}", { params: { path: { token } } }))
        : data(api.GET("/api/v1/boards/{id}", { params: { path: { id: Number(board) } } })),
    refetchInterval: EVERY_MS,
    retry: false,
    refetchIntervalInBackground: true,
  });
  if (!wall.data)
    return wall.isError ? (
      <Failure error={wall.error} retry={() => void wall.refetch()} />
    ) : (
      <Loading what="the board" />
    );
  return <Board board={wall.data} failed={wall.isError} />;
}
