import { daysBetween } from "../../frame/format";
import type { UseQueryResult } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { useSession } from "../../frame/session";
import { Failure, Loading } from "../../frame/states";

import { PeriodField } from "./PeriodField";
import styles from "./reports.module.css";
import { ReportTabs } from "./ReportTabs";
import type { Asked } from "./useAsked";

interface Told {
  begin_ms: number;
  end_ms: number;
  sentence?: string;
}

/** What all reports share: the tabs, what is asked with, and the sentence that answers. */
export function ReportPage<T extends Told>({
  here,
  name,
  asked,
  also,
  fields,
  report,
  bare,
  children,
  aside,
}: {
  here: string;
  name: string;
  asked: Asked;
  also?: Record<string, string>;
  fields?: ReactNode;
  report: UseQueryResult<T>;
  bare: (told: T) => string;
  children: (told: T) => ReactNode;
  aside?: ReactNode;
}) {
  const { session } = useSession();
  const told = report.data;
  return (
    <section className={styles.page} aria-label={`${name}, a report`}>
      <div className={styles.main}>
        <ReportTabs here={here} also={also} />
        <div className={styles.bar}>
          {fields}
          <PeriodField asked={asked} />
        </div>
        {report.isError ? (
          <Failure error={report.error} retry={() => void report.refetch()} />
        ) : !told ? (
          <Loading what="the report" />
        ) : (
          <>
            <p className={styles.sentence}>
              {told.sentence || bare(told)}{" "}
              <span className="dim">{daysBetween(told.begin_ms, told.end_ms, session.time_zone)}</span>
            </p>
            {children(told)}
          </>
        )}
      </div>
      {aside}
    </section>
  );
}
