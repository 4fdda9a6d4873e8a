import { useQuery } from "@tanstack/react-query";
import type { ReactNode } from "react";
import { Link } from "react-router-dom";
import { api, data } from "../../api/client";
import { keys } from "../../api/keys";
import { percent } from "../../frame/format";
import { Failure, Loading } from "../../frame/states";
import styles from "./floor.module.css";

const FRESH_MS = 4_000;

function Part({
  title,
  heads,
  children,
  empty,
}: {
  title: string;
  heads: string[];
  children: ReactNode[];
  empty: string;
}) {
  return (
    <section aria-label={title} className={styles.nowPart}>
      <h2>{title}</h2>
      {children.length === 0 ? (
        <span className="dim">{empty}</span>
      ) : (
        <table>
          <thead>
            <tr>
              {heads.map((head, at) => (
                <th key={head} className={at ? "num" : undefined}>
                  {head}
                </th>
              ))}
            </tr>
          </thead>
          <tbody>{children}</tbody>
        </table>
      )}
    </section>
  );
}

const share = (part: number | null) =>
  part === null ? null : (
    <>
      {" "}
      <span className="dim">{percent(part, 0)}</span>
    </>
  );

/** What happens beside the queues: in flows, at numbers, and what the last hour was about. */
export function Now() {
  const now = useQuery({
    queryKey: keys.list("floor-now", {}),
    queryFn: () => data(api.GET("/api/v1/floor/now")),
    refetchInterval: FRESH_MS,
  });
  if (!now.data)
    return now.isError ? (
      <Failure error={now.error} retry={() => void now.refetch()} />
    ) : (
      <Loading what="flows and numbers" />
    );
  const { flows, numbers, codes } = now.data;
  return (
    <div className={styles.nowParts}>
      <Part title="Flows now" heads={["Flow", "In it", "Over today", "Hung up", "Failed"]} empty="No flow is in force.">
        {flows.map((flow) => (
          <tr key={flow.id}>
            <td>
              <Link to={`/guide/flows/${flow.id}`}>{flow.name}</Link>
            </td>
            <td className="num">
              <b>{flow.now}</b>
            </td>
            <td className="num">{flow.over}</td>
            <td className="num">
              {flow.hung_up}
              {share(flow.hung_up_share)}
            </td>
            <td className="num">{flow.failed}</td>
          </tr>
        ))}
      </Part>
      <Part title="Numbers today" heads={["Number", "Calls", "Person", "Hung up"]} empty="Nobody has called yet today.">
        {numbers.map((one) => (
          <tr key={one.number}>
            <td>
              <b>{one.label}</b>
              <br />
              <span className="dim">{one.number}</span>
            </td>
            <td className="num">
              <b>{one.arrived}</b>
            </td>
            <td className="num">
              {one.person}
              {share(one.person_share)}
            </td>
            <td className="num">
              {one.hung_up}
              {share(one.hung_up_share)}
            </td>
          </tr>
        ))}
      </Part>
      <Part
        title="What the last hour was about"
        heads={["Wrap-up code", "Parts"]}
        empty="Nothing was wrapped up in the last hour.">
        {codes.map((code) => (
          <tr key={code.name}>
            <td>{code.name}</td>
            <td className="num">
              <b>{code.legs}</b>
              {share(code.share)}
            </td>
          </tr>
        ))}
      </Part>
    </div>
  );
}
