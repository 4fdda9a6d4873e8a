import { Button, IconButton } from "@mui/material";
import { keepPreviousData, useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router-dom";
import { api, data, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { clock, counted } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Failure, Loading } from "../../frame/states";
import { figure, momentWithin } from "./figures";
import { formulaNames } from "../shared/formulas";
import { outcomeWords } from "./outcomes";
import styles from "./reports.module.css";

type Sum = Schemas["FigureSum"];
/** A figure that is opened: of which row, and whose. */
export interface Opened {
  figure: string;
  begin_ms: number;
  end_ms: number;
  title: string;
}

/** Where a sum comes from: what tells it apart, how so many of its contacts are asked for, in which order they come, and whose name is told of each in place of its wait. */
export interface SumOf {
  asked: object;
  ask: (limit: number) => Promise<Sum>;
  order: string;
  whose?: "agent_name" | "queue_name";
}

export function sumOfQueues(opened: Opened, queues: string, period: Record<string, string>): SumOf {
  const asked = {
    ...period,
    ...(queues && { queues }),
    figure: opened.figure,
    begin_ms: opened.begin_ms,
    end_ms: opened.end_ms,
  };
  return {
    asked,
    order: "late first",
    ask: (limit) => data(api.GET("/api/v1/reports/queues/sum", { params: { query: { ...asked, limit } } })),
  };
}

export function sumOfAgents(figure: string, agent: string, query: object): SumOf {
  const asked = { ...query, ...(agent && { agent }), figure };
  return {
    asked,
    order: "newest first",
    whose: agent ? "queue_name" : "agent_name",
    ask: (limit) => data(api.GET("/api/v1/reports/agents/sum", { params: { query: { ...asked, limit } } })),
  };
}

const PAGE = 12;

function Terms({ sum }: { sum: Sum }) {
  const unit = (column: string) => (column.endsWith("_ms") ? "ms" : "count");
  const lines = (terms: Sum["over"], whole: number, name: string) => (
    <>
      {terms.map((term, number) => (
        <tr key={`${name} ${term.column}`}>
          <td>{number > 0 || term.sign < 0 ? (term.sign < 0 ? "−" : "+") : ""}</td>
          <td>{term.name}</td>
          <td className="num">{figure(term.value, unit(term.column))}</td>
        </tr>
      ))}
      {terms.length > 1 && (
        <tr className={styles.sumLine}>
          <td>=</td>
          <td>{name}</td>
          <td className="num">{figure(whole, unit(terms[0]?.column ?? ""))}</td>
        </tr>
      )}
    </>
  );
  const divided = sum.under_sum !== null;
  const parts = unit(sum.over[0]?.column ?? "");
  return (
    <table className={styles.sumTable}>
      <tbody>
        {lines(sum.over, sum.over_sum, divided ? "Together" : sum.name)}
        {divided && (
          <tr>
            <td colSpan={3} className="dim">
              divided by
            </td>
          </tr>
        )}
        {divided && lines(sum.under, sum.under_sum ?? 0, "Together")}
      </tbody>
      {divided && (
        <tfoot>
          <tr>
            <td />
            <td>
              {figure(sum.over_sum, parts)} ÷ {figure(sum.under_sum, "count")}
            </td>
            <td className="num">{figure(sum.value, sum.unit)}</td>
          </tr>
        </tfoot>
      )}
    </table>
  );
}

function Levels({ sum }: { sum: Sum }) {
  if (!sum.levels.length) return null;
  return (
    <>
      <h3>The same by each formula</h3>
      <table className={styles.sumTable}>
        <tbody>
          {sum.levels.map((level) => (
            <tr key={level.formula}>
              <td colSpan={2}>
                <b>{formulaNames[level.formula as keyof typeof formulaNames]}</b>{" "}
                <span className="dim">{level.words}</span>
              </td>
              <td className="num">{figure(level.value, "share")}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </>
  );
}

/** How a figure comes about: in words, with its numbers, and the contacts behind it. */
export function SumPanel({ opened, of, close }: { opened: Opened; of: SumOf; close: () => void }) {
  const { session } = useSession();
  const [most, setMost] = useState(PAGE);
  const sum = useQuery({
    queryKey: keys.list("report-sum", { ...of.asked, most }),
    queryFn: () => of.ask(most),
    placeholderData: keepPreviousData,
  });
  if (sum.isError)
    return (
      <aside className={styles.panel}>
        <Failure error={sum.error} retry={() => void sum.refetch()} />
      </aside>
    );
  const told = sum.data;
  if (!told)
    return (
      <aside className={styles.panel}>
        <Loading what="the sum" />
      </aside>
    );
  const limit = told.limits.length === 1 ? told.limits[0] : undefined;
  return (
    <aside className={styles.panel} aria-label="The sum behind a figure">
      <div className={styles.panelHead}>
        <span className={styles.lead}>The sum behind</span>{" "}
        <b className={styles.big}>{figure(told.value, told.unit)}</b>
        <span className="fill" />
        <IconButton size="small" aria-label="Close the sum" onClick={close}>
          ✕
        </IconButton>
      </div>
      <div className={styles.panelBody}>
        <h2>
          {told.name}, {opened.title}
        </h2>
        <p className="dim">
          {told.sentence}
          {limit && told.levels.length > 0 ? ` Threshold ${clock(limit.threshold_ms)}.` : ""}
        </p>
        {told.limits.length > 1 && told.levels.length > 0 && (
          <p className="dim">
            The threshold or the formula was not the same for all of them: each contact counts by what was set when it
            came.
          </p>
        )}
        <Terms sum={told} />
        <Levels sum={told} />
        {told.count > 0 && (
          <h3>
            {told.count === 1 ? "The contact" : `The ${counted(told.count)} contacts`}{" "}
            <span className="dim">{of.order}</span>
          </h3>
        )}
        <table className={styles.behind}>
          <tbody>
            {told.contacts.map((one) => (
              <tr key={`${one.contact} ${one.at_ms} ${one.agent_name}`}>
                <td>
                  <Link to={`/learn/contacts/${one.contact}`}>
                    {momentWithin(one.at_ms, opened.begin_ms, opened.end_ms, session.time_zone)}
                  </Link>
                </td>
                <td>{one.caller}</td>
                <td className={of.whose ? undefined : "num"}>{of.whose ? one[of.whose] : clock(one.wait_ms)}</td>
                <td className={one.late ? styles.lateWord : "dim"}>{outcomeWords(one.outcome, one.late)}</td>
              </tr>
            ))}
          </tbody>
        </table>
        {told.count > told.contacts.length && (
          <Button onClick={() => setMost(Math.min(500, most + 40))}>Show more</Button>
        )}
        {told.count > 500 && told.contacts.length >= 500 && (
          <p className="dim">The first 500 are shown: narrow the period to see the others.</p>
        )}
      </div>
    </aside>
  );
}
