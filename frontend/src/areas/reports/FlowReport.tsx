import { MenuItem, TextField, ToggleButton, ToggleButtonGroup } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Link } from "react-router-dom";
import { api, data, type Definition, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { clock, counted, percent } from "../../frame/format";
import { Empty, Failure, Loading } from "../../frame/states";
import { endingWords } from "../flows/endings";
import { TrailMap } from "../flows/trail/TrailMap";
import { figure } from "./figures";
import { useUses } from "./InUse";
import { ReportPage } from "./ReportPage";
import styles from "./reports.module.css";
import { periodOf, useAsked } from "./useAsked";
import { useReport } from "./useReport";

type Stop = Schemas["StopRow"];

const MOST = { page_size: 500 };
const WIDTH = 90;

function Bar({ share, tone }: { share: number | null; tone?: string }) {
  return <i className={styles.share} data-tone={tone} style={{ width: `${Math.max(1, (share ?? 0) * WIDTH)}px` }} />;
}

function Where({ stop }: { stop: Stop }) {
  const nowhere = stop.keys.filter((key) => !key.has_arm);
  return (
    <div>
      <div className={styles.arms}>
        {stop.arms.map((arm) => (
          <span key={arm.exit} className={arm.misses ? styles.missWord : undefined}>
            <Bar share={arm.share} tone={arm.misses ? "late" : undefined} /> {arm.label} <b>{percent(arm.share, 0)}</b>{" "}
            <span className="dim">{counted(arm.count)}</span>
          </span>
        ))}
        {stop.ends.map((end) => (
          <span key={end.ending}>
            <Bar share={end.share} tone="warm" /> {endingWords[end.ending] ?? end.ending} <b>{percent(end.share, 0)}</b>{" "}
            <span className="dim">{counted(end.count)}</span>
          </span>
        ))}
      </div>
      {stop.kind === "menu" && nowhere.length > 0 && (
        <div className={styles.missWord}>
          Keys that lead nowhere: {nowhere.map((key) => `${key.key} (${counted(key.count)})`).join(", ")}
        </div>
      )}
    </div>
  );
}

function Ends({ flow }: { flow: Schemas["FlowReport"] }) {
  const all = flow.ends.reduce((sum, end) => sum + end.count, 0);
  return (
    <div className={`${styles.arms} ${styles.ends}`}>
      <b>How contacts ended in it</b>
      {flow.ends.map((end) => (
        <span key={end.ending}>
          <Bar share={end.count / all} /> {endingWords[end.ending] ?? end.ending} <b>{percent(end.count / all, 0)}</b>{" "}
          <span className="dim">{counted(end.count)}</span>
        </span>
      ))}
    </div>
  );
}

function Stops({ flow }: { flow: Schemas["FlowReport"] }) {
  return (
    <section className={`${styles.block} ${styles.under}`} aria-label="Stops">
      <div className={`${styles.stopRow} ${styles.stopHead}`}>
        <span>Stop</span>
        <span className="num">Callers</span>
        <span className="num" title="From coming to the stop to leaving it">
          Time, average
        </span>
        <span>Where they went</span>
      </div>
      {flow.stops.map((stop) => (
        <div key={stop.stop} className={styles.stopRow}>
          <span>
            <b>{stop.name}</b>
            <br />
            <span className="dim">{stop.sentence}</span>
          </span>
          <span className="num">{counted(stop.callers)}</span>
          <span className="num" title={`longest ${clock(stop.longest_ms)}`}>
            {figure(stop.average_ms, "ms")}
          </span>
          <Where stop={stop} />
        </div>
      ))}
    </section>
  );
}

/** The map of what is in force, as wide as the callers of these days took each arm. */
function OnTheMap({ flow }: { flow: Schemas["FlowReport"] }) {
  const [selected, setSelected] = useState<string | null>(null);
  const definition = flow.definition as Definition | null;
  const drawn = useQuery({
    queryKey: keys.inspection(flow.flow, JSON.stringify(definition)),
    queryFn: () =>
      data(
        api.POST("/api/v1/flows/{id}/inspect", {
          params: { path: { id: flow.flow } },
          body: { draft: definition as Definition },
        }),
      ),
    enabled: definition !== null,
    staleTime: Infinity,
    retry: false,
  });
  if (!definition) return <p className={`dim ${styles.note}`}>The flow is gone, and its map with it.</p>;
  if (drawn.isError) return <Failure error={drawn.error} retry={() => void drawn.refetch()} />;
  if (!drawn.data) return <Loading what="the map" />;
  const counts = Object.fromEntries(
    flow.stops.flatMap((stop) => stop.arms.map((arm) => [`${stop.stop} ${arm.exit}`, arm.count])),
  );
  return (
    <div className={styles.map}>
      <TrailMap
        inspection={{ ...drawn.data, findings: [] }}
        start={definition.start}
        begins={{ head: "Callers", words: counted(flow.callers) }}
        selected={selected}
        select={setSelected}
        walk={null}
        here={{}}
        counts={counts}
        covered={false}
        keys={() => undefined}
      />
    </div>
  );
}

/** What callers do in a flow: which way they take, what they press, where they leave. */
export default function FlowReport() {
  const asked = useAsked();
  const flows = useQuery({
    queryKey: keys.list("flows", MOST),
    queryFn: () => data(api.GET("/api/v1/flows", { params: { query: MOST } })),
  });
  const all = flows.data?.results ?? [];
  const uses = useUses();
  const used = (id: string) => uses?.get(`flow:${id}`)?.count ?? 0;
  const most = all.reduce<string>((best, one) => (best === "" || used(one.id) > used(best) ? one.id : best), "");
  const chosen = asked.get("flow") || (uses ? most : "");
  const query = periodOf(asked) as object;
  const report = useReport(
    "flow",
    { ...query, flow: chosen },
    () => data(api.GET("/api/v1/reports/flows/{id}", { params: { path: { id: chosen }, query } })),
    chosen !== "",
  );
  if (flows.data && !all.length)
    return <Empty title="There is no flow yet">Make one under Guide, Flows: what callers do in it stands here.</Empty>;
  if (!chosen) return <Loading what="the flows" />;
  const field = (
    <>
      <ToggleButtonGroup
        size="small"
        exclusive
        value={asked.get("map") ? "map" : "rows"}
        aria-label="How it is shown"
        onChange={(_, value: string | null) => {
          if (value) asked.set({ map: value === "map" ? "yes" : "" });
        }}>
        <ToggleButton value="rows">Stop by stop</ToggleButton>
        <ToggleButton value="map">On the map</ToggleButton>
      </ToggleButtonGroup>
      <TextField
        select
        size="small"
        label="Flow"
        value={chosen}
        sx={{ width: 200 }}
        onChange={(event) => asked.set({ flow: event.target.value })}>
        {all.map((one) => (
          <MenuItem key={one.id} value={one.id}>
            {one.name}
          </MenuItem>
        ))}
      </TextField>
    </>
  );
  return (
    <ReportPage
      here="flows"
      name="Flows"
      asked={asked}
      also={{ flow: chosen }}
      report={report}
      fields={field}
      bare={(told) =>
        told.callers
          ? `${counted(told.callers)} callers began in ${told.name}.`
          : `Nobody came into ${told.name} in these days.`
      }>
      {(told) =>
        told.stops.length === 0 ? (
          <Empty title="Nothing to show for these days">
            Every exit that a caller takes is counted, with the time spent before it.{" "}
            <Link to={`/guide/flows/${chosen}`}>The flow</Link>
          </Empty>
        ) : (
          <>
            <Ends flow={told} />
            {asked.get("map") ? <OnTheMap flow={told} /> : <Stops flow={told} />}
          </>
        )
      }
    </ReportPage>
  );
}
