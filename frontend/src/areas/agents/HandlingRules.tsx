import { Button, TextField } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { Fragment, useState } from "react";
import { api, data, words } from "../../api/client";
import { keys } from "../../api/keys";
import { agents, teams } from "../../api/resources";
import { useSession } from "../../frame/session";
import { Failure, Loading } from "../../frame/states";
import styles from "../shared/shared.module.css";
import { ThingPicker } from "../shared/ThingPicker";
import { RuleCell, type Target, useTargets } from "./RuleCell";
import { groups, type Layer, layers, rules, said, type Setting } from "./rules";
import own from "./agents.module.css";

/** The line on which a value runs from its layer to the column that counts; barred where a nearer layer overrides it. */
function Run({ setting, layer, shown }: { setting: Setting; layer: Layer; shown: Layer[] }) {
  const from = shown.indexOf(setting.counts.layer);
  const at = shown.indexOf(layer);
  const set = setting[layer] !== null && setting[layer] !== undefined;
  if (at < from)
    return set ? (
      <span className={`dim ${own.stops}`} title="overridden by a nearer layer" aria-label="overridden" />
    ) : null;
  return <span aria-hidden="true" className={own.runs} />;
}

interface Change {
  layer: Layer;
  values?: Record<string, unknown>;
  reasons?: string[];
}

/** The rules of the centre, of a team, or of an agent and the agent's team; and setting them. */
function useRules(team: string | null, agent: string | null) {
  const cache = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const person = useQuery({
    queryKey: keys.one("agents", agent ?? ""),
    queryFn: () => agents.get(agent ?? ""),
    enabled: agent !== null,
  });
  const teamOf = agent ? (person.data?.team ?? null) : team;
  const query = { ...(team && !agent && { team }), ...(agent && { agent }) };
  const key = ["handling-rules", query];
  const found = useQuery({
    queryKey: key,
    queryFn: () => data(api.GET("/api/v1/handling-rules", { params: { query } })),
  });
  const set = useMutation({
    mutationFn: ({ layer, values, reasons }: Change) =>
      data(
        api.PATCH("/api/v1/handling-rules", {
          body: {
            layer,
            team: teamOf,
            agent,
            revision: found.data?.revisions[layer] ?? null,
            ...(values && { values }),
            ...(reasons && { away_reasons: reasons }),
          } as never,
        }),
      ),
    onSuccess: (rulesNow) => {
      cache.setQueryData(key, rulesNow);
      void cache.invalidateQueries({ queryKey: keys.of("handling-rules") });
      enqueueSnackbar("Saved; it counts at once.");
    },
    onError: (error) => {
      enqueueSnackbar(words(error), { variant: "error" });
      void found.refetch();
    },
  });
  return { found, set, teamOf };
}

/** The centre's away reasons, kept with their own button. */
function AwayReasons({
  standing,
  mayChange,
  busy,
  save,
}: {
  standing: string;
  mayChange: boolean;
  busy: boolean;
  save: (reasons: string[], done: () => void) => void;
}) {
  const [typed, setTyped] = useState<string | null>(null);
  return (
    <div className={own.reasons}>
      <TextField
        label="Away reasons of the centre, one a line"
        multiline
        minRows={3}
        value={typed ?? standing}
        disabled={!mayChange}
        onChange={(event) => setTyped(event.target.value)}
      />
      {mayChange && typed !== null && typed !== standing && (
        <div className="beside">
          <Button
            variant="contained"
            disabled={busy}
            onClick={() =>
              save(
                typed
                  .split("\n")
                  .map((line) => line.trim())
                  .filter(Boolean),
                () => {
                  setTyped(null);
                },
              )
            }>
            Save
          </Button>
          <Button onClick={() => setTyped(null)}>Undo typing</Button>
        </div>
      )}
    </div>
  );
}

const cell = { padding: "2px 10px", height: 36, borderTop: "1px solid var(--line-2)", verticalAlign: "middle" };

interface RowProps {
  setting: Setting;
  shown: Layer[];
  disabled: boolean;
  targets: Target[];
  reasons: string[];
  set: (layer: Layer, value: unknown) => void;
}

/** One rule: what each layer sets, and what counts. */
function RuleRow({ setting, shown, disabled, targets, reasons, set }: RowProps) {
  const nameOf = (to: string) => targets.find((one) => one.to === to)?.name ?? (to.includes(":") ? "somebody" : to);
  return (
    <tr>
      <td style={{ ...cell, maxWidth: 330 }} className="nowrap" title={rules[setting.name]?.about}>
        <b>{rules[setting.name]?.label ?? setting.name}</b>{" "}
        <span className="dim small">{rules[setting.name]?.about}</span>
      </td>
      {shown.map((layer) => (
        <td key={layer} style={{ ...cell, paddingRight: 0 }}>
          <span className={own.cell}>
            <RuleCell
              key={String(setting[layer])}
              setting={setting}
              layer={layer}
              disabled={disabled}
              targets={targets}
              reasons={reasons}
              set={(value) => set(layer, value)}
            />
            <Run setting={setting} layer={layer} shown={shown} />
          </span>
        </td>
      ))}
      <td style={cell}>
        <b>{said(setting, setting.counts.value, nameOf)}</b>{" "}
        <span className="dim">
          from {setting.counts.layer === "centre" ? "the centre" : `the ${setting.counts.layer}`}
        </span>
      </td>
    </tr>
  );
}

/** How agents work, layer by layer: a value counts until a nearer layer sets its own. */
export default function HandlingRules() {
  const { may } = useSession();
  const [team, setTeam] = useState<string | null>(null);
  const [agent, setAgent] = useState<string | null>(null);
  const mayChange = may("change", "agents");
  const targets = useTargets();
  const { found, set, teamOf } = useRules(team, agent);
  if (found.isError) return <Failure error={found.error} retry={() => void found.refetch()} />;
  if (!found.data) return <Loading what="the rules" />;
  const shown = layers.filter(
    (layer) => layer === "centre" || (layer === "team" ? Boolean(found.data.team) : Boolean(found.data.agent)),
  );
  const heads: Record<Layer, string> = { centre: "The centre", team: found.data.team, agent: found.data.agent };
  return (
    <section aria-label="Handling rules" className={own.scrolls}>
      <div className={styles.head}>
        <h1>Handling rules</h1>
        <div className={own.picker}>
          <ThingPicker
            resource={teams}
            nameOf={(one) => one.name}
            disabled={agent !== null}
            field={{ label: "Of the team" }}
            value={teamOf}
            choose={setTeam}
          />
        </div>
        <div className={own.picker}>
          <ThingPicker
            resource={agents}
            nameOf={(one) => one.name}
            disabled={false}
            field={{ label: "Of the agent" }}
            value={agent}
            choose={setAgent}
          />
        </div>
        <span className="dim">they count at once, no publishing</span>
      </div>
      <table className={`${styles.dense} ${own.rules}`}>
        <thead>
          <tr className={own.heads}>
            <th className={own.head}>Rule</th>
            {shown.map((layer) => (
              <th key={layer} className={own.head}>
                {heads[layer]}
              </th>
            ))}
            <th className={own.head}>In effect</th>
          </tr>
        </thead>
        <tbody>
          {Object.entries(groups).map(([name, wanted]) => (
            <Fragment key={name}>
              <tr>
                <th colSpan={shown.length + 2} className={own.group}>
                  {name}
                </th>
              </tr>
              {found.data.settings
                .filter((setting) => wanted.includes(setting.name))
                .sort((a, b) => wanted.indexOf(a.name) - wanted.indexOf(b.name))
                .map((setting) => (
                  <RuleRow
                    key={`${agent ?? team ?? ""} ${setting.name}`}
                    setting={setting}
                    shown={shown}
                    disabled={!mayChange || set.isPending}
                    targets={targets}
                    reasons={found.data.away_reasons}
                    set={(layer, value) => set.mutate({ layer, values: { [setting.name]: value } })}
                  />
                ))}
            </Fragment>
          ))}
        </tbody>
      </table>
      <AwayReasons
        standing={found.data.away_reasons.join("\n")}
        mayChange={mayChange}
        busy={set.isPending}
        save={(reasons, done) => set.mutate({ layer: "centre", reasons }, { onSuccess: done })}
      />
    </section>
  );
}
