import { useState } from "react";
import { Link } from "react-router-dom";
import { api, data, type Schemas } from "../../api/client";
import { clock, counted, moment, percent } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Empty, Failure, Loading } from "../../frame/states";
import { figure, hours as long } from "./figures";
import { QueueField } from "./QueueField";
import { ReportPage } from "./ReportPage";
import styles from "./reports.module.css";
import { periodOf, useAsked } from "./useAsked";
import { useReport } from "./useReport";

type Report = Schemas["CodesReport"];
/** What is opened: a code, one of its hours, or a hand-over from one code to the next. */
interface Opened {
  code?: string;
  hour?: number;
  second?: string;
  passed_on?: "yes";
  title: string;
}

const NOBODY = "nobody";
const SHOWN = 7;

function nameOf(report: Report, code: string): string {
  if (code === NOBODY) return "nobody: abandoned";
  return code ? (report.names[code] ?? code) : "No code";
}

function Codes({ report, opened, open }: { report: Report; opened: Opened | null; open: (opened: Opened) => void }) {
  const most = Math.max(...report.codes.map((code) => code.legs));
  const { total } = report;
  const passed = (of: { code?: string }, count: number, name: string) =>
    count ? (
      <button
        type="button"
        className={styles.figure}
        onClick={() => open({ ...of, passed_on: "yes", title: `${name}, passed on` })}>
        {counted(count)}
      </button>
    ) : (
      <span className={styles.zero}>0</span>
    );
  return (
    <section aria-label="What contacts were about">
      <h2>
        What contacts were about{" "}
        <span className="dim">
          {counted(report.legs)} parts of {counted(report.contacts)} contacts
        </span>
      </h2>
      <table className={styles.plain}>
        <thead>
          <tr>
            <th>Code of a part</th>
            <th className="num">Parts</th>
            <th className="num">Share</th>
            <th />
            <th className="num">Talk, average</th>
            <th className="num">Wrap-up</th>
            <th className="num">Passed on</th>
          </tr>
        </thead>
        <tbody>
          {report.codes.map((code) => (
            <tr
              key={code.code}
              aria-selected={
                opened?.code === code.code &&
                opened.second === undefined &&
                opened.hour === undefined &&
                !opened.passed_on
              }>
              <td className={`${styles.codeName} ${code.code ? "" : styles.noCode}`}>{code.name}</td>
              <td className="num">
                <button
                  type="button"
                  className={styles.figure}
                  onClick={() => open({ code: code.code, title: code.name })}>
                  {counted(code.legs)}
                </button>
              </td>
              <td className="num">{percent(code.share)}</td>
              <td className={styles.fifth}>
                <i
                  className={styles.share}
                  data-tone={code.code ? (code.handed_on > code.legs / 2 ? "warm" : undefined) : "none"}
                  style={{ width: `${(100 * code.legs) / most}%` }}
                />
              </td>
              <td className="num">{figure(code.talk_average_ms, "ms")}</td>
              <td className="num">{figure(code.wrap_average_ms, "ms")}</td>
              <td className="num">{passed({ code: code.code }, code.handed_on, code.name)}</td>
            </tr>
          ))}
        </tbody>
        <tfoot>
          <tr>
            <td>All</td>
            <td className="num">
              <button type="button" className={styles.figure} onClick={() => open({ title: "parts of all codes" })}>
                {counted(total.legs)}
              </button>
            </td>
            <td />
            <td className={`dim ${styles.light}`}>sum</td>
            <td className="num">{figure(total.talk_average_ms, "ms")}</td>
            <td className="num">{figure(total.wrap_average_ms, "ms")}</td>
            <td className="num">{passed({}, total.handed_on, "All codes")}</td>
          </tr>
        </tfoot>
      </table>
    </section>
  );
}

/** A soft fill, the fuller the greater the share. */
const fill = (share: number, colour: string) =>
  `color-mix(in srgb, ${colour} ${Math.round(8 + 82 * share)}%, var(--sheet))`;
/** As soft as words on it can be read, by day and by night. */
const underWords = (share: number, colour: string) =>
  `color-mix(in srgb, ${colour} ${Math.round(6 + 39 * share)}%, var(--sheet))`;

function Hours({ report, opened, open }: { report: Report; opened: Opened | null; open: (opened: Opened) => void }) {
  const used = Array.from({ length: 24 }, (_, hour) => hour).filter((hour) =>
    report.hours.some((row) => (row.counts[hour] ?? 0) > 0),
  );
  const first = used[0] ?? 0,
    last = used[used.length - 1] ?? 23;
  const shown = Array.from({ length: last - first + 1 }, (_, n) => first + n);
  const order = report.codes
    .map((code) => report.hours.find((row) => row.code === code.code))
    .filter((row) => row !== undefined);
  const most = Math.max(1, ...order.flatMap((row) => row.counts));
  return (
    <section aria-label="When">
      <h2>
        When <span className="dim">parts of each code by the hour of the day</span>
      </h2>
      <table className={styles.heat}>
        <thead>
          <tr>
            <th />
            {shown.map((hour) => (
              <th key={hour}>{String(hour).padStart(2, "0")}</th>
            ))}
          </tr>
        </thead>
        <tbody>
          {order.map((row) => (
            <tr key={row.code}>
              <th scope="row">{nameOf(report, row.code)}</th>
              {shown.map((hour) => {
                const count = row.counts[hour] ?? 0;
                const title = `${nameOf(report, row.code)}, ${hour}:00: ${count}`;
                return (
                  <td
                    key={hour}
                    data-chosen={opened?.code === row.code && opened.hour === hour}
                    style={{
                      background: count
                        ? fill(count / most, row.code ? "var(--fern)" : "var(--plum)")
                        : "var(--line-2)",
                    }}>
                    {count > 0 && (
                      <button
                        type="button"
                        title={title}
                        aria-label={title}
                        onClick={() =>
                          open({ code: row.code, hour, title: `${nameOf(report, row.code)}, from ${hour}:00` })
                        }
                      />
                    )}
                  </td>
                );
              })}
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

function HandOvers({
  report,
  opened,
  open,
}: {
  report: Report;
  opened: Opened | null;
  open: (opened: Opened) => void;
}) {
  if (!report.matrix.length)
    return (
      <Empty title="Nothing was passed on">
        Where an agent passes a contact on, the code of one part stands here against the code of the next.
      </Empty>
    );
  const rank = new Map(report.codes.map((code, place) => [code.code, place]));
  const place = (code: string) => (code === NOBODY ? 1e6 : code === "" ? 1e5 : (rank.get(code) ?? 1e4));
  const counts = new Map(report.matrix.map((cell) => [`${cell.first} ${cell.second}`, cell.count]));
  const whole = (of: "first" | "second") =>
    report.matrix.reduce(
      (all, cell) => all.set(cell[of], (all.get(cell[of]) ?? 0) + cell.count),
      new Map<string, number>(),
    );
  /** The most frequent ones, in the order of the table of codes; and the others. */
  const parted = (all: Map<string, number>) => {
    const named = [...all.keys()]
      .filter((code) => code && code !== NOBODY)
      .sort((a, b) => (all.get(b) ?? 0) - (all.get(a) ?? 0));
    const shown = [...named.slice(0, SHOWN), ...[...all.keys()].filter((code) => !code || code === NOBODY)];
    return { shown: shown.sort((a, b) => place(a) - place(b)), rest: named.slice(SHOWN) };
  };
  const { shown: seconds, rest } = parted(whole("second"));
  const { shown: firsts } = parted(whole("first"));
  const most = Math.max(...report.matrix.map((cell) => cell.count));
  return (
    <section aria-label="Hand-overs">
      <h2>
        Hand-overs{" "}
        <span className="dim">
          {counted(report.handed_on)} parts were passed on: the code of one, down, and of the next, across
        </span>
      </h2>
      <div className={styles.scrolls}>
        <table className={styles.matrix}>
          <thead>
            <tr>
              <th />
              {seconds.map((code) => (
                <th key={code} scope="col">
                  {nameOf(report, code)}
                </th>
              ))}
              {rest.length > 0 && <th scope="col">{rest.length} others</th>}
            </tr>
          </thead>
          <tbody>
            {firsts.map((first) => (
              <tr key={first}>
                <th scope="row">{nameOf(report, first)}</th>
                {seconds.map((second) => {
                  const count = counts.get(`${first} ${second}`) ?? 0;
                  const title = `${nameOf(report, first)}, then ${nameOf(report, second)}`;
                  const chosen = opened?.code === first && opened.second === second;
                  const tone = second === NOBODY ? "var(--plum)" : "var(--clay)";
                  return (
                    <td key={second} data-chosen={chosen} style={{ background: underWords(count / most, tone) }}>
                      {count > 0 && (
                        <button
                          type="button"
                          aria-label={`${title}: ${count}`}
                          onClick={() =>
                            open({ code: first, second, title: `${nameOf(report, first)} → ${nameOf(report, second)}` })
                          }>
                          {count}
                        </button>
                      )}
                    </td>
                  );
                })}
                {rest.length > 0 && (
                  <td data-rest>
                    {rest.reduce((sum, second) => sum + (counts.get(`${first} ${second}`) ?? 0), 0) || ""}
                  </td>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
    </section>
  );
}

function Behind({ opened, query }: { opened: Opened; query: object }) {
  const { session } = useSession();
  const { title, ...chosen } = opened;
  const asked = { ...query, ...chosen, limit: 12 };
  const found = useReport("coded", asked, () =>
    data(api.GET("/api/v1/reports/codes/contacts", { params: { query: asked } })),
  );
  if (found.isError) return <Failure error={found.error} retry={() => void found.refetch()} />;
  if (!found.data) return <Loading what="the contacts" />;
  const { count, contacts, first_talk_ms, second_wait_ms } = found.data;
  const over = opened.second !== undefined || opened.passed_on !== undefined;
  return (
    <section aria-label="The contacts behind it">
      <div className={styles.told}>
        <h2>
          {counted(count)}: {title}
        </h2>
        <table className={styles.plain}>
          <thead>
            <tr>
              <th>Answered</th>
              <th>Caller</th>
              <th>{over ? "First part" : "Agent"}</th>
              <th className="num">talk</th>
              {over && (
                <>
                  <th>Next part</th>
                  <th className="num">waited again</th>
                </>
              )}
            </tr>
          </thead>
          <tbody>
            {contacts.map((one) => (
              <tr key={`${one.contact} ${one.at_ms}`}>
                <td>
                  <Link to={`/learn/contacts/${one.contact}`}>{moment(one.at_ms, session.time_zone)}</Link>
                </td>
                <td>{one.caller}</td>
                <td>{one.first.agent_name}</td>
                <td className="num">{clock(one.first.talk_ms)}</td>
                {over && (
                  <>
                    <td>{one.second?.agent_name ?? "–"}</td>
                    <td className="num">{one.second ? clock(one.second.wait_ms) : "–"}</td>
                  </>
                )}
              </tr>
            ))}
          </tbody>
        </table>
      </div>
      {over && (
        <p className={styles.cost}>
          <b>What it costs</b> {counted(count)} hand-overs took {long(first_talk_ms)} of the first agents’ time, and{" "}
          {long(second_wait_ms)} of waiting again.
        </p>
      )}
    </section>
  );
}

/** What contacts were about, and whether the first part solves it. */
export default function CodesReport() {
  const asked = useAsked();
  const [opened, setOpened] = useState<Opened | null>(null);
  const queue = asked.get("queues");
  const query = { ...periodOf(asked), ...(queue && { queues: queue }) } as object;
  const report = useReport("codes", query, () => data(api.GET("/api/v1/reports/codes", { params: { query } })));
  const coded = (told: Report) =>
    told.legs
      ? `${percent(told.coded / told.legs)} of ${counted(told.legs)} parts have a code.`
      : "No agent had a contact in these days.";
  return (
    <ReportPage
      here="codes"
      name="Wrap-up codes"
      asked={asked}
      report={report}
      bare={coded}
      fields={<QueueField asked={asked} changed={() => setOpened(null)} />}>
      {(told) =>
        told.legs === 0 ? (
          <Empty title="Nothing to show for these days">
            Agents label their part of each contact when it is over; the codes come from the queue’s code set.
          </Empty>
        ) : (
          <div className={styles.two}>
            <div tabIndex={0} role="region" aria-label="Codes">
              <Codes report={told} opened={opened} open={setOpened} />
              <Hours report={told} opened={opened} open={setOpened} />
            </div>
            <div tabIndex={0} role="region" aria-label="From one part to the next">
              <HandOvers report={told} opened={opened} open={setOpened} />
              {opened && <Behind opened={opened} query={query} />}
            </div>
          </div>
        )
      }
    </ReportPage>
  );
}
