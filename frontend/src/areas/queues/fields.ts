import type { Schemas } from "../../api/client";
import {
  agents,
  codeSets,
  hours,
  numbers,
  only,
  plainFlows,
  sounds,
  supervisors,
  teams,
  waitingPlans,
} from "../../api/resources";
import { AsksField } from "../agents/SkillLevels";
import { DESCRIPTION, type Field, picked } from "../shared/fields";
import { formulas } from "../shared/formulas";
import { ChannelsField } from "./ChannelsField";
import { OrderField } from "./OrderField";
import { ClosedField, NobodyField, WaitedField } from "./ThenField";
import { WidenField } from "./WidenField";
import { choices } from "../shared/choices";

type Queue = Schemas["Queue"];

const ways = choices<Queue["distribution"]>({
  longest_idle: "Longest idle first",
  fewest: "Fewest contacts today first",
  best_skill: "Best skill, then longest idle",
  turn: "Each in turn",
  listed: "Always from the top of the list",
  all: "All at once, the first to answer",
});
const waitOrLeave = choices<Queue["when_nobody"] & Queue["when_closed"]>({
  wait: "Callers wait all the same",
  leave: "Callers go on at once",
});
const recordings = choices<Queue["recording"]>({
  none: "No call",
  all: "Every call",
  share: "A share of the calls",
  on_demand: "When the agent asks for it",
});
const told = choices<Queue["recording_told"]>({
  notice: "A notice is spoken",
  tone: "A tone sounds",
  nothing: "Callers are not told",
});
const textNumbers = only(numbers, { channel: "text" });
const records = (values: Record<string, unknown>) => values.recording !== undefined && values.recording !== "none";

/** Every setting of a queue. */
export const fields: Field[] = [
  { kind: "text", name: "name", label: "Name", required: true },
  DESCRIPTION,
  { kind: "many", name: "members", label: "Members", ...picked(agents, (agent) => agent.name) },
  { kind: "many", name: "teams", label: "And whole teams", ...picked(teams, (team) => team.name) },
  { kind: "many", name: "supervisors", label: "Supervised by", ...picked(supervisors, (person) => person.name) },
  { kind: "choice", name: "distribution", label: "The next agent", options: ways },
  {
    kind: "own",
    name: "ranks",
    label: "Order of the list",
    Input: OrderField,
    when: (values) => values.distribution === "listed" || values.distribution === "turn",
  },
  { kind: "own", name: "required_skills", label: "Callers need", Input: AsksField },
  { kind: "own", name: "widening", label: "Look further after", Input: WidenField },
  { kind: "text", name: "extension", label: "Extension", help: "Calls can be put through to it; empty: none." },
  { kind: "own", name: "channels", label: "Takes", Input: ChannelsField },
  { kind: "number", name: "priority", label: "Priority", unit: "of 99", help: "Higher is served first." },
  {
    kind: "number",
    name: "priority_growth",
    label: "Grows by",
    unit: "a minute",
    help: "0: a wait alone raises nobody.",
  },
  {
    kind: "number",
    name: "last_agent_s",
    label: "Who knows the caller first",
    unit: "s",
    help: "Only the agent who spoke with them last may answer so long; 0: everybody at once.",
  },
  { kind: "number", name: "longest_wait_s", label: "Longest wait", unit: "s", nullable: "without end" },
  { kind: "own", name: "overflow", label: "After the longest wait", Input: WaitedField },
  {
    kind: "choice",
    name: "when_nobody",
    label: "With nobody signed in",
    options: waitOrLeave,
    help: "Nobody who could take them: by skill, as widened, and by language.",
  },
  {
    kind: "own",
    name: "overflow_nobody",
    label: "While nobody is signed in",
    Input: NobodyField,
    when: (values) => values.when_nobody === "leave",
  },
  { kind: "one", name: "hours", label: "Hours", none: "Always", ...picked(hours, (one) => one.name) },
  {
    kind: "choice",
    name: "when_closed",
    label: "Outside of the hours",
    options: waitOrLeave,
    when: (values) => Boolean(values.hours),
  },
  {
    kind: "own",
    name: "overflow_closed",
    label: "While it is closed",
    Input: ClosedField,
    when: (values) => Boolean(values.hours) && values.when_closed === "leave",
  },
  {
    kind: "one",
    name: "plan",
    label: "Waiting plan",
    none: "Music only",
    ...picked(waitingPlans, (plan) => plan.name),
  },
  { kind: "one", name: "music", label: "Hold music", none: "The centre’s", ...picked(sounds, (sound) => sound.name) },
  { kind: "number", name: "threshold_s", label: "Service threshold", unit: "s" },
  { kind: "number", name: "goal_percent", label: "Goal", unit: "%" },
  { kind: "choice", name: "formula", label: "Service level", options: formulas },
  { kind: "number", name: "short_abandon_s", label: "Short abandon under", unit: "s" },
  { kind: "choice", name: "recording", label: "Recorded is", options: recordings },
  {
    kind: "number",
    name: "recording_percent",
    label: "Share",
    unit: "%",
    when: (values) => values.recording === "share",
  },
  { kind: "choice", name: "recording_told", label: "How callers learn of it", options: told, when: records },
  {
    kind: "text",
    name: "recording_notice",
    label: "Words of the notice",
    help: "Empty: “This call is being recorded.”",
    when: (values) => records(values) && values.recording_told === "notice",
  },
  {
    kind: "yes",
    name: "transcribed",
    label: "Say that it is written down too",
    when: (values) => records(values) && values.recording_told === "notice",
  },
  { kind: "one", name: "survey", label: "Survey afterwards", none: "None", ...picked(plainFlows, (flow) => flow.name) },
  {
    kind: "one",
    name: "text_number",
    label: "Go on in writing from",
    none: "Not offered",
    ...picked(textNumbers, (number) => number.label ?? number.address),
  },
  { kind: "one", name: "code_set", label: "Wrap-up codes", none: "No codes", ...picked(codeSets, (set) => set.name) },
  { kind: "area", name: "note", label: "Agents read" },
  { kind: "text", name: "link", label: "Link for agents", help: "{caller}, {number} and {queue} are filled in." },
  {
    kind: "text",
    name: "group",
    label: "Group on the floor",
    help: "Queues of one group stand together there, with their sums; empty: none.",
  },
  { kind: "colour", name: "colour", label: "Colour" },
];

export interface SettingsGroup {
  title: string;
  names: string[];
  /** Needed seldom: folded. */
  rare?: boolean;
}

/** What the queue is held to first, then the settings in the order in which a caller meets them. */
export const groups: SettingsGroup[] = [
  { title: "What counts as good", names: ["threshold_s", "goal_percent", "formula", "short_abandon_s"] },
  {
    title: "Who is asked",
    names: [
      "members",
      "teams",
      "required_skills",
      "distribution",
      "priority",
      "ranks",
      "priority_growth",
      "last_agent_s",
    ],
  },
  { title: "While the caller waits", names: ["plan", "music", "longest_wait_s", "overflow", "widening"] },
  {
    title: "When nobody is there, and hours",
    names: ["when_nobody", "overflow_nobody", "hours", "when_closed", "overflow_closed"],
    rare: true,
  },
  {
    title: "During and after",
    names: [
      "code_set",
      "survey",
      "note",
      "link",
      "text_number",
      "recording",
      "recording_percent",
      "recording_told",
      "recording_notice",
      "transcribed",
    ],
    rare: true,
  },
  {
    title: "The queue itself",
    names: ["name", "description", "extension", "channels", "group", "colour", "supervisors"],
    rare: true,
  },
];

/** What a new queue is asked for; its page has the rest. */
export const asked = ["name", "members", "teams", "distribution", "threshold_s", "goal_percent"];

/** What a new queue begins with. */
export const initial = {
  members: [],
  teams: [],
  required_skills: [],
  widening: [],
  distribution: "longest_idle",
  threshold_s: 60,
  goal_percent: 80,
  priority_growth: 0,
  when_nobody: "wait",
  when_closed: "wait",
  channels: ["voice", "text"],
  recording: "none",
};
const OWN = ["id", "revision", "updated_at", "extension", "finished", "member_count"];

/** What a copy takes over. */
export function copied(queue: Schemas["Queue"]): Record<string, unknown> {
  return Object.fromEntries(Object.entries(queue).filter(([name]) => !OWN.includes(name)));
}
