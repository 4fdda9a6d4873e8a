import type { Definition, Topics, Use } from "../../api/client";
import { clock } from "../../frame/format";
import { Failure, Loading } from "../../frame/states";
import type { Panel } from "./EditorAside";
import styles from "./flows.module.css";
import { walkOfTrial } from "./phone/PaperPhone";
import type { Paper } from "./phone/usePaper";
import type { TelephoneState } from "./phone/useTelephone";
import { type Route, walkOfRoute } from "./Routes";
import { TrailMap, type Walk } from "./trail/TrailMap";
import type { Choice } from "./useChoice";
import type { FlowDraft } from "./useFlowDraft";

/** The path of a call on this flow's map. */
function walkOf(phone: TelephoneState, flow: string): Walk | null {
  const { call, log } = phone;
  if (!call || call.flow !== flow) return null;
  const steps = new Map<string, string>();
  const arms = new Set<string>();
  for (const entry of log) {
    if (entry.kind !== "contact.moved") continue;
    arms.add(`${entry.step ?? ""} ${entry.exit ?? ""}`);
    if (entry.to) steps.set(entry.to, clock(entry.at_ms - call.arrived_ms));
  }
  return { steps, arms, current: call.phase === "ended" ? null : call.step };
}

/** What the map lights: the chosen route, else the trial or call at hand. */
export function litWalk(
  route: Route | null,
  panel: Panel,
  paper: Paper,
  phone: TelephoneState,
  flow: string,
): Walk | null {
  if (route) return walkOfRoute(route);
  if (panel !== "telephone") return null;
  const tried = paper.dialled ? paper.run.data : undefined;
  return tried ? walkOfTrial(tried) : walkOf(phone, flow);
}

/** Where callers come from, as the map begins. */
function begins(definition: Definition, uses: Use[]) {
  const count = (kind: string, one: string, many: string) => {
    const n = uses.filter((use) => use.kind === kind).length;
    return `${n} ${n === 1 ? one : many}`;
  };
  if (definition.purpose === "plan") return { head: "Waits in", words: count("queue", "queue", "queues") };
  if (definition.purpose === "block") return { head: "Used by", words: count("flow", "flow", "flows") };
  return { head: "Arrives on", words: count("number", "number", "numbers") };
}

/** The keys of the map, at a glance. */
function Hints() {
  return (
    <span className={styles.hints}>
      <span>
        <kbd>← → ↑ ↓</kbd> walk
      </span>
      <span>
        <kbd>Enter</kbd> edit
      </span>
      <span>
        <kbd>A</kbd> add after
      </span>
      <span>
        <kbd>F</kbd> add a key
      </span>
      <span>
        <kbd>C</kbd> <kbd>V</kbd> copy, paste
      </span>
      <span>
        <kbd>Del</kbd> remove
      </span>
      <span>
        <kbd>-</kbd> fold
      </span>
      <span>
        <kbd>/</kbd> find a stop
      </span>
      <span>
        <kbd>T</kbd> trial call
      </span>
      <span>
        <kbd>?</kbd> all keys
      </span>
    </span>
  );
}

export const NONE: Record<string, number> = {};

interface StageProps {
  draft: FlowDraft;
  definition: Definition;
  uses: Use[];
  choice: Choice;
  walk: Walk | null;
  live: Topics["flow"] | null;
  press: (event: React.KeyboardEvent) => void;
  covered: boolean;
  small: HTMLElement | null;
}

/** The map, or why there is none yet. */
export function Stage({ draft, definition, uses, choice, walk, live, press, covered, small }: StageProps) {
  const { data, isError, error, refetch } = draft.inspection;
  const { chosen, selected, select, walkTo, selectMore, folded, toggleFold } = choice;
  if (!data) return isError ? <Failure error={error} retry={() => void refetch()} /> : <Loading what="the map" />;
  return (
    <TrailMap
      inspection={data}
      start={definition.start}
      begins={begins(definition, uses)}
      selected={selected}
      select={select}
      walkTo={walkTo}
      walk={walk}
      here={live?.here ?? NONE}
      counts={live?.arms ?? NONE}
      keys={press}
      also={new Set(chosen)}
      selectMore={selectMore}
      folded={folded}
      unfold={toggleFold}
      covered={covered}
      foot={<Hints />}
      small={small}
    />
  );
}
