import { Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import type { Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { flows, plainFlows } from "../../api/resources";
import { wallClock, zonedIso } from "../../frame/format";
import { line } from "../../frame/live";
import { useSession } from "../../frame/session";
import type { OwnProps } from "../shared/fields";
import { MomentBox } from "../shared/MomentBox";
import { ThingPicker } from "../shared/ThingPicker";
import { InputValues } from "./InputValue";
import styles from "./numbers.module.css";

type Planned = Schemas["Planned"];

function PlannedValues({
  item,
  disabled,
  change,
}: {
  item: Planned;
  disabled: boolean;
  change: (values: Record<string, unknown>) => void;
}) {
  const flow = item.flow ?? "";
  const found = useQuery({ queryKey: keys.one("flows", flow), queryFn: () => flows.get(flow), enabled: flow !== "" });
  return (
    <InputValues inputs={found.data?.inputs ?? []} values={item.values ?? {}} disabled={disabled} change={change} />
  );
}

/** What the number does from a date on. */
export function PlannedChanges({ value, error, disabled, change }: OwnProps) {
  const { session } = useSession();
  const zone = session.time_zone;
  const planned = (value as Planned[] | undefined) ?? [];
  const set = (index: number, changed: Partial<Planned>) => {
    change(planned.map((old, i) => (i === index ? { ...old, ...changed } : old)));
  };
  const add = () => {
    const next = new Date(line.siteTime(Date.now()) + 24 * 3_600_000);
    next.setUTCMinutes(0, 0, 0);
    change([...planned, { at: next.toISOString(), flow: null, values: {} }]);
  };
  return (
    <section aria-label="Planned changes" className="stack">
      <h2>Planned changes</h2>
      {planned.length === 0 && <span className="dim">None: the flow above answers until you change it.</span>}
      {planned.map((item, i) => (
        <div key={i} role="group" aria-label={`Planned change ${i + 1}`} className={styles.planned}>
          <div className={styles.plan}>
            <MomentBox
              label="From"
              value={wallClock(item.at, zone)}
              disabled={disabled}
              change={(typed) => {
                if (typed) set(i, { at: zonedIso(typed, zone) });
              }}
            />
            <ThingPicker
              resource={plainFlows}
              nameOf={(flow) => flow.name}
              disabled={disabled}
              field={{ label: "Answers", placeholder: "nothing any more" }}
              value={item.flow}
              choose={(flow) => set(i, { flow, values: {} })}
            />
            <Button
              sx={{ minWidth: 0 }}
              disabled={disabled}
              aria-label={`Remove planned change ${i + 1}`}
              onClick={() => change(planned.filter((_, n) => n !== i))}>
              ✕
            </Button>
          </div>
          <PlannedValues item={item} disabled={disabled} change={(values) => set(i, { values })} />
        </div>
      ))}
      {error && (
        <div role="alert" className="wrong">
          {error}
        </div>
      )}
      {!disabled && (
        <div>
          <Button variant="outlined" onClick={add}>
            Plan a change…
          </Button>
        </div>
      )}
    </section>
  );
}
