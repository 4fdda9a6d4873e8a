import { Button, MenuItem, TextField } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { api, data, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { agents, teams } from "../../api/resources";
import { useSession } from "../../frame/session";
import { Failure, Loading } from "../../frame/states";
import styles from "../shared/shared.module.css";
import { ThingPicker } from "../shared/ThingPicker";

type Rules = Schemas["HandlingRules"];
type Setting = Rules["settings"][number];
type Layer = "centre" | "team" | "agent";

const layers: Layer[] = ["centre", "team", "agent"];

/** What each rule is called, and its choices. */
const rules: Record<string, { label: string; about: string; choices?: Record<string, string> }> = {
  ring_s: { label: "Ring time", about: "before the contact goes to the next agent" },
  answers: { label: "Answers", about: "by hand, or it is connected as soon as it rings", choices: { by_hand: "by hand", at_once: "at once" } },
  missed: { label: "After a missed ring", about: "whether the agent is set away", choices: { stays: "stays available", away: "is set away" } },
  wrap_up: { label: "Wrap-up code", about: "after each contact", choices: { none: "none", optional: "optional", required: "required" } },
  target_wrap_s: { label: "Wrap-up target", about: "shown at the desk" },
  longest_wrap_s: { label: "Longest wrap-up", about: "then available again, with “no code” if none was chosen" },
};

function said(setting: Setting, value: unknown): string {
  if (value === null || value === undefined) return "";
  const choice = rules[setting.name]?.choices?.[String(value)];
  return choice ?? `${String(value)} ${setting.unit}`.trim();
}

interface CellProps {
  setting: Setting;
  layer: Layer;
  disabled: boolean;
  set: (value: unknown) => void;
}

/** What one layer sets: nothing, a choice, or a number. */
function Cell({ setting, layer, disabled, set }: CellProps) {
  const value = setting[layer] as string | number | null;
  const [typed, setTyped] = useState<string | null>(null);
  const label = `${rules[setting.name]?.label ?? setting.name}, ${layer}`;
  if (setting.choices.length)
    return (
      <TextField select size="small" value={value ?? ""} disabled={disabled} slotProps={{ htmlInput: { "aria-label": label }, select: { displayEmpty: true } }} onChange={(event) => { set(event.target.value || null); }} sx={{ minWidth: 130 }}>
        {layer !== "centre" && <MenuItem value=""><span className="dim">inherited</span></MenuItem>}
        {setting.choices.map((choice) => <MenuItem key={choice} value={choice}>{rules[setting.name]?.choices?.[choice] ?? choice}</MenuItem>)}
      </TextField>
    );
  const done = () => {
    if (typed === null) return;
    set(typed === "" ? null : Number(typed));
    setTyped(null);
  };
  return (
    <TextField size="small" type="number" value={typed ?? value ?? ""} placeholder={layer === "centre" ? "" : "inherited"} disabled={disabled} slotProps={{ htmlInput: { "aria-label": label, min: setting.least, max: setting.most } }} sx={{ width: 130 }}
      onChange={(event) => { setTyped(event.target.value); }} onBlur={done} onKeyDown={(event) => { if (event.key === "Enter") done(); }} />
  );
}

/** The line on which a value runs from its layer to the column that counts; barred where a nearer layer overrides it. */
function Run({ setting, layer, shown }: { setting: Setting; layer: Layer; shown: Layer[] }) {
  const from = shown.indexOf(setting.counts.layer);
  const at = shown.indexOf(layer);
  const set = setting[layer] !== null && setting[layer] !== undefined;
  if (at < from) return set ? <span className="dim" title="overridden by a nearer layer" aria-label="overridden" style={{ borderTop: "2px dotted var(--edge)", width: 22, borderRight: "2px solid var(--plum)", height: 9 }} /> : null;
  return <span aria-hidden="true" style={{ borderTop: "2px solid var(--pine)", width: 22, height: 0 }} />;
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
  const person = useQuery({ queryKey: keys.one("agents", agent ?? ""), queryFn: () => agents.get(agent ?? ""), enabled: agent !== null });
  const teamOf = agent ? (person.data?.team ?? null) : team;
  const query = { ...(team && !agent && { team }), ...(agent && { agent }) };
  const key = ["handling-rules", query];
  const found = useQuery({ queryKey: key, queryFn: () => data(api.GET("/api/v1/handling-rules", { params: { query } })) });
  const set = useMutation({
    mutationFn: ({ layer, values, reasons }: Change) =>
      data(api.PATCH("/api/v1/handling-rules", { body: { layer, team: teamOf, agent, revision: found.data?.revisions[layer] ?? null, ...(values && { values }), ...(reasons && { away_reasons: reasons }) } as never })),
    onSuccess: (rulesNow) => { cache.setQueryData(key, rulesNow); void cache.invalidateQueries({ queryKey: ["handling-rules"] }); enqueueSnackbar("Saved; it counts at once."); },
    onError: (error) => { enqueueSnackbar(words(error), { variant: "error" }); void found.refetch(); },
  });
  return { found, set, teamOf };
}

/** The centre's away reasons, kept with their own button. */
function AwayReasons({ standing, mayChange, busy, save }: { standing: string; mayChange: boolean; busy: boolean; save: (reasons: string[], done: () => void) => void }) {
  const [typed, setTyped] = useState<string | null>(null);
  return (
    <div style={{ margin: 16, maxWidth: 420, display: "grid", gap: 8 }}>
      <TextField label="Away reasons of the centre, one a line" multiline minRows={3} value={typed ?? standing} disabled={!mayChange} onChange={(event) => { setTyped(event.target.value); }} />
      {mayChange && typed !== null && typed !== standing && (
        <div style={{ display: "flex", gap: 8 }}>
          <Button variant="contained" disabled={busy} onClick={() => { save(typed.split("\n").map((line) => line.trim()).filter(Boolean), () => { setTyped(null); }); }}>Save</Button>
          <Button onClick={() => { setTyped(null); }}>Undo typing</Button>
        </div>
      )}
    </div>
  );
}

const cell = { padding: "7px 10px", borderTop: "1px solid var(--line-2)", verticalAlign: "middle" };

interface RowProps {
  setting: Setting;
  shown: Layer[];
  disabled: boolean;
  set: (layer: Layer, value: unknown) => void;
}

/** One rule: what each layer sets, and what counts. */
function RuleRow({ setting, shown, disabled, set }: RowProps) {
  return (
    <tr>
      <td style={{ ...cell, width: 260 }}><b>{rules[setting.name]?.label ?? setting.name}</b><div className="dim" style={{ fontSize: 12 }}>{rules[setting.name]?.about}</div></td>
      {shown.map((layer) => (
        <td key={layer} style={cell}>
          <span style={{ display: "flex", alignItems: "center", gap: 8 }}>
            <Cell key={String(setting[layer])} setting={setting} layer={layer} disabled={disabled} set={(value) => { set(layer, value); }} />
            <Run setting={setting} layer={layer} shown={shown} />
          </span>
        </td>
      ))}
      <td style={cell}><b>{said(setting, setting.counts.value)}</b> <span className="dim">from {setting.counts.layer === "centre" ? "the centre" : `the ${setting.counts.layer}`}</span></td>
    </tr>
  );
}

/** How agents work, layer by layer: a value counts until a nearer layer sets its own. */
export default function HandlingRules() {
  const { may } = useSession();
  const [team, setTeam] = useState<string | null>(null);
  const [agent, setAgent] = useState<string | null>(null);
  const mayChange = may("change", "agents");
  const { found, set, teamOf } = useRules(team, agent);
  if (found.isError) return <Failure error={found.error} retry={() => void found.refetch()} />;
  if (!found.data) return <Loading what="the rules" />;
  const shown = layers.filter((layer) => layer === "centre" || (layer === "team" ? Boolean(found.data.team) : Boolean(found.data.agent)));
  const heads: Record<Layer, string> = { centre: "The centre", team: found.data.team, agent: found.data.agent };
  return (
    <section aria-label="Handling rules" style={{ overflow: "auto" }}>
      <div className={styles.head}>
        <h1>Handling rules</h1>
        <div style={{ width: 230 }}><ThingPicker resource={teams} nameOf={(one) => one.name} disabled={agent !== null} field={{ label: "Of the team" }} value={teamOf} choose={setTeam} /></div>
        <div style={{ width: 230 }}><ThingPicker resource={agents} nameOf={(one) => one.name} disabled={false} field={{ label: "Of the agent" }} value={agent} choose={setAgent} /></div>
        <span className="dim">they count at once, no publishing</span>
      </div>
      <table style={{ margin: "0 16px", borderCollapse: "collapse", background: "var(--sheet)", border: "1px solid var(--line)", fontSize: 13.5 }}>
        <thead>
          <tr style={{ textAlign: "left" }}>
            <th style={{ padding: "8px 10px" }}>Rule</th>
            {shown.map((layer) => <th key={layer} style={{ padding: "8px 10px" }}>{heads[layer]}</th>)}
            <th style={{ padding: "8px 10px" }}>Counts</th>
          </tr>
        </thead>
        <tbody>
          {found.data.settings.map((setting) => (
            <RuleRow key={`${agent ?? team ?? ""} ${setting.name}`} setting={setting} shown={shown} disabled={!mayChange || set.isPending} set={(layer, value) => { set.mutate({ layer, values: { [setting.name]: value } }); }} />
          ))}
        </tbody>
      </table>
      <AwayReasons standing={found.data.away_reasons.join("\n")} mayChange={mayChange} busy={set.isPending} save={(reasons, done) => { set.mutate({ layer: "centre", reasons }, { onSuccess: done }); }} />
    </section>
  );
}
