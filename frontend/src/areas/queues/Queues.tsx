import type { Schemas } from "../../api/client";
import { agents, codeSets, hours, queues, teams, waitingPlans } from "../../api/resources";
import { clock, percent } from "../../frame/format";
import { useTopic } from "../../frame/useLive";
import type { FloorQueue } from "../floor/types";
import { picked } from "../shared/fields";
import { UsedBy } from "../shared/UsedBy";
import { KeptPage } from "../shared/KeptPage";
import { AsksField } from "../agents/SkillLevels";
import { WidenField } from "./WidenField";

type Queue = Schemas["Queue"];

const formulas = [
  { value: "A", label: "A: (answered + abandoned − both late) ÷ (answered + abandoned)" },
  { value: "B", label: "B: answered in time ÷ answered" },
  { value: "C", label: "C: answered in time ÷ offered" },
  { value: "D", label: "D: answered in time ÷ (offered − short abandons)" },
];

const ways = [
  { value: "longest_idle", label: "Longest idle first" }, { value: "fewest", label: "Fewest contacts today first" }, { value: "best_skill", label: "Best skill, then longest idle" },
  { value: "turn", label: "Each in turn" }, { value: "listed", label: "Always from the top of the list" }, { value: "all", label: "All at once, the first to answer" },
];
const waitOrLeave = [{ value: "wait", label: "Callers wait all the same" }, { value: "leave", label: "Callers go on in the flow at once" }];

/** Today's figures of a queue: every way out, adding up to those offered. */
function Today({ id }: { id: string }) {
  const floor = useTopic("floor").view?.queues as Record<string, FloorQueue> | undefined;
  const queue = floor?.[id];
  if (!queue) return <span className="dim">Today’s figures come with the exchange.</span>;
  const f = queue.figures;
  const rows: [string, string | number][] = [
    ["Answered", f.answered], ["+ Abandoned", f.abandoned], ["+ Left otherwise", f.left_otherwise],
    ["+ Waiting now", f.under_way], ["= Offered", f.offered],
    ["Average wait in queue, answered", f.average_wait_ms === null ? "–" : clock(f.average_wait_ms)],
    ["Longest wait, answered", f.answered ? clock(f.longest_answered_ms) : "–"],
    [`Answered after ${clock(queue.threshold_s * 1000)}`, f.answered_late],
    [`Service level ${queue.formula}, goal ${queue.goal_percent} %`, percent(f.service_level)],
  ];
  return (
    <section aria-label="Today so far">
      <h2>Today so far</h2>
      <table style={{ width: "100%", fontSize: 13, borderCollapse: "collapse" }}>
        <tbody>
          {rows.map(([name, value]) => (
            <tr key={name} style={{ borderTop: "1px solid var(--line-2)", fontWeight: name.startsWith("=") ? 640 : 400 }}>
              <td>{name}</td><td className="num">{value}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

const estimators: Record<string, string> = { last: "wait of the last one taken", head: "wait of the first in line", rate: "line over recent pace", staff: "agents, handle time, patience" };

/** How long a caller who came now would wait, and how well each way of estimating it did. */
function ExpectedWait({ id }: { id: string }) {
  const floor = useTopic("floor").view?.queues as Record<string, FloorQueue> | undefined;
  const expected = floor?.[id]?.expected;
  if (!expected) return null;
  const seconds = (value: number | null) => (value === null ? "–" : clock(value * 1000));
  const signed = (value: number | null) => (value === null ? "–" : `${value < 0 ? "−" : "+"}${clock(Math.abs(value) * 1000)}`);
  return (
    <section aria-label="Expected wait">
      <h2>Expected wait {expected.seconds !== null && <b>{seconds(expected.seconds)}</b>}</h2>
      <p className="dim" style={{ margin: "2px 0 6px" }}>{expected.told ? "Good enough to be told to callers." : "Not told to callers: past estimates were too few, or too far off. They hear their place only."}</p>
      <table style={{ width: "100%", fontSize: 12.5, borderCollapse: "collapse" }}>
        <thead><tr><th align="left">By</th><th align="right">Scored</th><th align="right">Error</th><th align="right">Bias</th><th align="right">In band</th></tr></thead>
        <tbody>
          {Object.entries(expected.scores).map(([name, score]) => (
            <tr key={name} style={{ borderTop: "1px solid var(--line-2)", fontWeight: name === expected.best && score.scored ? 640 : 400 }}>
              <td>{estimators[name] ?? name}</td><td className="num">{score.scored}</td><td className="num">{seconds(score.error_s)}</td><td className="num">{signed(score.bias_s)}</td><td className="num">{score.scored ? percent(score.within / score.scored, 0) : "–"}</td>
            </tr>
          ))}
        </tbody>
      </table>
    </section>
  );
}

/** Where contacts wait for a person. */
export default function Queues() {
  return (
    <KeptPage<Queue>
      resource={queues}
      area="queues"
      base="/wait/queues"
      title="Queues"
      noun="queue"
      titleOf={(queue) => queue.name}
      sort={[{ field: "name", sort: "asc" }]}
      initial={{ members: [], teams: [], asks: [], widening: [], chooses: "longest_idle", growth: 0, when_nobody: "wait", when_closed: "wait" }}
      empty="A queue needs a name to begin with; members, times and goals can follow."
      columns={[
        {
          field: "name", headerName: "Name", flex: 1, minWidth: 160,
          renderCell: ({ row }) => (
            <span style={{ display: "flex", gap: 8, alignItems: "center" }}>
              <i style={{ width: 8, height: 16, background: row.colour, borderRadius: 2 }} />{row.name}
              {!row.finished && <span className="chip warns">only a name so far</span>}
            </span>
          ),
        },
        { field: "member_count", headerName: "Members", width: 100, align: "right", headerAlign: "right" },
        { field: "priority", headerName: "Priority", width: 90, align: "right", headerAlign: "right" },
        { field: "threshold_s", headerName: "Threshold", width: 100, align: "right", headerAlign: "right", valueFormatter: (value: number) => clock(value * 1000) },
        { field: "goal_percent", headerName: "Goal", width: 80, align: "right", headerAlign: "right", sortable: false, valueFormatter: (value: number) => `${value} %` },
      ]}
      fields={[
        { kind: "text", name: "name", label: "Name", required: true },
        { kind: "many", name: "members", label: "Members", ...picked(agents, (agent) => agent.name) },
        { kind: "many", name: "teams", label: "And whole teams", ...picked(teams, (team) => team.name) },
        { kind: "choice", name: "chooses", label: "The next agent", options: ways },
        { kind: "own", name: "asks", label: "Callers need", Input: AsksField },
        { kind: "own", name: "widening", label: "Widening", Input: WidenField },
        { kind: "text", name: "extension", label: "Extension", help: "Calls can be put through to it; empty: none." },
        { kind: "number", name: "priority", label: "Priority", unit: "of 99", help: "Higher is served first." },
        { kind: "number", name: "growth", label: "Grows by", unit: "a minute", help: "0: a wait alone raises nobody." },
        { kind: "number", name: "longest_wait_s", label: "Longest wait", unit: "s", nullable: "without end" },
        { kind: "choice", name: "when_nobody", label: "When nobody is signed in", options: waitOrLeave },
        { kind: "one", name: "hours", label: "Hours", none: "Always", ...picked(hours, (one) => one.name) },
        { kind: "choice", name: "when_closed", label: "Outside of the hours", options: waitOrLeave, when: (values) => Boolean(values.hours) },
        { kind: "one", name: "plan", label: "Waiting plan", none: "Music only", ...picked(waitingPlans, (plan) => plan.name) },
        { kind: "number", name: "threshold_s", label: "Service threshold", unit: "s" },
        { kind: "number", name: "goal_percent", label: "Goal", unit: "%" },
        { kind: "choice", name: "formula", label: "Service level", options: formulas },
        { kind: "number", name: "short_abandon_s", label: "Short abandon under", unit: "s" },
        { kind: "one", name: "code_set", label: "Wrap-up codes", none: "No codes", ...picked(codeSets, (set) => set.name) },
        { kind: "area", name: "note", label: "Agents read" },
        { kind: "colour", name: "colour", label: "Colour" },
      ]}
      copy={({ name, members, teams: whole, chooses, asks, widening, growth, when_nobody, when_closed, hours: open, priority, longest_wait_s, plan, threshold_s, goal_percent, formula, short_abandon_s, code_set, note, colour }) =>
        ({ name: `${name} 2`, members, teams: whole, chooses, asks, widening, growth, when_nobody, when_closed, hours: open, priority, longest_wait_s, plan, threshold_s, goal_percent, formula, short_abandon_s, code_set, note, colour })}
      top={(queue) => <><Today id={queue.id} /><ExpectedWait id={queue.id} /></>}
      extra={(queue) => <UsedBy resource={queues} id={queue.id} />}
    />
  );
}
