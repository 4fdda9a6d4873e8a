import { Button } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { memo, useState } from "react";
import { Navigate, useLocation, useNavigate, useParams } from "react-router-dom";
import { type Definition, type Topics, type Use, words } from "../../api/client";
import { keys } from "../../api/keys";
import { flows } from "../../api/resources";
import { clock } from "../../frame/format";
import { useSession } from "../../frame/session";
import { Failure, Loading } from "../../frame/states";
import { useTopic } from "../../frame/useLive";
import { usePageTitle } from "../../frame/title";
import { BlockDialog } from "./BlockDialog";
import { Chosen } from "./Chosen";
import { accepting, addAfter, addArm, leadingTo, removeStep, stepOf } from "./edits";
import { ChooseKind, FindStop, KeyHelp } from "./EditorDialogs";
import { Findings } from "./Findings";
import styles from "./flows.module.css";
import { PaperPhone, walkOfTrial } from "./phone/PaperPhone";
import { Telephone } from "./phone/Telephone";
import { TextHandset } from "./phone/TextHandset";
import { type Paper, type Setup, usePaper } from "./phone/usePaper";
import { type TelephoneState, useTelephone } from "./phone/useTelephone";
import { MergeQuestion } from "./MergeQuestion";
import { OthersHere } from "./OthersHere";
import { places } from "./places";
import { type Route, Routes, walkOfRoute } from "./Routes";
import { FlowSheet } from "./sheet/FlowSheet";
import { StopSheet } from "./sheet/StopSheet";
import { Trials } from "./Trials";
import { TrailMap, type Walk } from "./trail/TrailMap";
import { offered, type StepKind } from "./kinds";
import { type Choice, useChoice } from "./useChoice";
import { type Clipboard, useClipboard } from "./useClipboard";
import { type FlowDraft, useFlowDraft } from "./useFlowDraft";

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

function SaveState({ draft }: { draft: FlowDraft }) {
  const changes = draft.inspection.data?.changes;
  const force = draft.flow?.in_force;
  const than = force
    ? changes
      ? `Draft: ${changes} ${changes === 1 ? "change" : "changes"} since version ${force.number}`
      : `Version ${force.number} is in force, as drawn`
    : "Draft; nothing is in force yet";
  const saved = draft.saveError ? <span role="alert" style={{ color: "var(--plum-ink)" }}>{words(draft.saveError)} Trying again.</span> : draft.unsaved ? "saving…" : "saved";
  return <span className="dim nowrap">{than} · {saved}</span>;
}

function typing(target: EventTarget): boolean {
  return (target as HTMLElement).closest("input,textarea") !== null;
}

function focusSheet() {
  document.querySelector<HTMLElement>("[data-sheet] input, [data-sheet] textarea")?.focus();
}

type Panel = "sheet" | "telephone";

/** From so wide a window on the flow's own sheet stands beside the map without being asked for. */
const WIDE = 1600;

/** What the map lights: the chosen route, else the trial or call at hand. */
function litWalk(route: Route | null, panel: Panel, paper: Paper, phone: TelephoneState, flow: string): Walk | null {
  if (route) return walkOfRoute(route);
  if (panel !== "telephone") return null;
  const tried = paper.dialled ? paper.run.data : undefined;
  return tried ? walkOfTrial(tried) : walkOf(phone, flow);
}

/** What stands in for a definition until one is there. */
const NOTHING: Definition = { channel: "voice", purpose: "flow", language: "en", inputs: [], outputs: [], start: null, steps: [], stay_limit_s: 900, failure_prompt: null, music: null, accepted: [] };

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

interface Acts {
  enter: () => void;
  select: (id: string | null) => void;
  call: () => void;
  about: () => void;
  find: () => void;
  help: () => void;
  add: () => void;
  block: () => void;
  fold: () => void;
}

/** Take the chosen stops out; the trail heals. */
function without(definition: Definition, chosen: string[]): Definition {
  return chosen.reduce((left, id) => removeStep(left, id), definition);
}

/** Keys of the editor, where no field is being typed in. */
function useEditorKeys(draft: FlowDraft, chosen: string[], mayChange: boolean, clipboard: Clipboard, act: Acts) {
  const selected = chosen[chosen.length - 1] ?? null;
  const { definition } = draft;
  const changing = (key: string): boolean => {
    if (!definition || !mayChange) return false;
    const step = stepOf(definition, selected);
    if (key === "a") act.add();
    else if (key === "c" && selected) clipboard.copy(chosen, true);
    else if (key === "b" && selected) act.block();
    else if (key === "v" && clipboard.full()) clipboard.paste();
    else if (key === "f" && step?.kind === "menu") draft.edit(addArm(definition, step));
    else if (key === "delete" && selected) {
      draft.edit(without(definition, chosen));
      act.select(leadingTo(definition, chosen[0] ?? selected));
    } else return false;
    return true;
  };
  const withControl = (key: string, shift: boolean): boolean => {
    // Words that are marked are what the browser copies.
    const stops = mayChange && !window.getSelection()?.toString();
    if (key === "c" && stops && selected) clipboard.copy(chosen, false);
    else if (key === "v" && stops && clipboard.full()) clipboard.paste();
    else if (key === "y" || (key === "z" && shift)) draft.redo();
    else if (key === "z") draft.undo();
    else return false;
    return true;
  };
  return (event: React.KeyboardEvent) => {
    const key = event.key.toLowerCase();
    if (event.ctrlKey || event.metaKey) {
      if (!withControl(key, event.shiftKey)) return;
    } else if (key === "enter" && selected) act.enter();
    else if (key === "t") act.call();
    else if (key === "i") act.about();
    else if (key === "/") act.find();
    else if (key === "?") act.help();
    else if (key === "-" && selected) act.fold();
    else if (key === "escape") act.select(null);
    else if (!changing(key)) return;
    event.preventDefault();
    event.stopPropagation();
  };
}

/** The editor of one flow: map, sheet or telephone, findings. */
export default function FlowEditor() {
  const { id = "" } = useParams();
  return <Editor key={id} id={id} />;
}

function EditorHead({ draft, id, about, add, call }: { draft: FlowDraft; id: string; about: { open: boolean; toggle: () => void }; add: () => void; call: () => void }) {
  const navigate = useNavigate();
  const { may } = useSession();
  const mayChange = may("change", "flows");
  const small = { minWidth: 32, px: 1 };
  return (
    <div className={styles.head}>
      <h1 className="nowrap" style={{ flex: "none", maxWidth: 240 }} title={draft.flow?.name}>{draft.flow?.name}</h1>
      <SaveState draft={draft} />
      <OthersHere id={id} />
      <span style={{ flex: 1 }} />
      {mayChange && (
        <>
          <Button variant="outlined" onClick={add}>Add a stop… <kbd>A</kbd></Button>
          <Button variant="outlined" sx={small} aria-label="Undo" title="Undo (Ctrl Z)" disabled={!draft.canUndo} onClick={draft.undo}>↶</Button>
          <Button variant="outlined" sx={small} aria-label="Redo" title="Redo (Ctrl Shift Z)" disabled={!draft.canRedo} onClick={draft.redo}>↷</Button>
        </>
      )}
      <Button variant="outlined" aria-expanded={about.open} title="The whole flow (I)" onClick={about.toggle}>About it</Button>
      {may("use", "telephone") && <Button variant="outlined" onClick={call}>{draft.definition?.channel === "text" ? "Try a text" : "Try a call"}</Button>}
      {mayChange && <Button variant="contained" disabled={draft.unsaved} onClick={() => void navigate(`${places[draft.definition?.purpose ?? "flow"].base}/${id}/publish`)}>Publish…</Button>}
    </div>
  );
}

type Tab = "findings" | "routes" | "trials";

interface DrawerProps {
  walking: boolean;
  draft: FlowDraft;
  id: string;
  mayChange: boolean;
  route: Route | null;
  go: (step: string) => void;
  light: (route: Route | null) => void;
  play: (setup: Setup) => void;
}

/** While the keys walk the map, what stands beside it is not drawn anew for each stop on the way. */
function standsStill(_: unknown, next: { walking: boolean }): boolean {
  return next.walking;
}

/** Under the map: what the checker found, every way through, the saved trials. */
const Drawer = memo(function Drawer({ draft, id, mayChange, route, go, light, play }: DrawerProps) {
  const [tab, setTab] = useState<Tab>("findings");
  const { data, isError, error } = draft.inspection;
  const findings = data?.findings ?? [];
  const state = data?.blocked ? "publishing waits for what blocks" : "nothing blocks publishing";
  const { definition } = draft;
  const small = tab === "findings" && findings.length === 0;
  const choose = (next: Tab) => { setTab(next); light(null); };
  return (
    <div className={styles.drawer} style={{ height: small ? 84 : tab === "findings" ? undefined : 210 }}>
      <div className={styles.drawerHead} role="tablist" aria-label="About the flow">
        <button role="tab" aria-selected={tab === "findings"} className={styles.drawerTab} onClick={() => { choose("findings"); }}>Findings <span className={`chip ${data?.blocked ? "blocks" : findings.length ? "warns" : "good"}`}>{findings.length}</span></button>
        <button role="tab" aria-selected={tab === "routes"} className={styles.drawerTab} onClick={() => { choose("routes"); }}>Routes</button>
        <button role="tab" aria-selected={tab === "trials"} className={styles.drawerTab} onClick={() => { choose("trials"); }}>Trials</button>
        <span className="dim" style={{ marginLeft: "auto", fontSize: 13 }}>{isError ? words(error) : state}</span>
      </div>
      {tab === "findings" && <Findings findings={findings} mayChange={mayChange} go={go} fix={draft.applyFix} accept={(finding, reason) => { if (definition) draft.edit(accepting(definition, finding, reason)); }} />}
      {tab === "routes" && definition && <Routes id={id} definition={definition} chosen={route} choose={light} />}
      {tab === "trials" && definition && <Trials id={id} definition={definition} mayChange={mayChange} play={play} />}
    </div>
  );
}, standsStill);

interface AsideProps {
  walking: boolean;
  draft: FlowDraft;
  id: string;
  panel: Panel;
  selected: string | null;
  phone: TelephoneState;
  paper: Paper;
  uses: Use[];
  endings: Record<string, number>;
  mayChange: boolean;
  select: (id: string | null) => void;
  close: () => void;
  clipboard: Clipboard;
}

const Aside = memo(function Aside({ draft, id, panel, selected, phone, paper, uses, endings, mayChange, select, clipboard, close }: AsideProps) {
  const navigate = useNavigate();
  const { definition, flow } = draft;
  if (!definition || !flow) return null;
  const stops = draft.inspection.data?.stops ?? [];
  const onPaper = <PaperPhone id={id} definition={definition} stops={stops} paper={paper} />;
  if (panel === "telephone" && definition.channel === "text")
    return <TextHandset phone={phone} flow={id} inForce={flow.in_force !== null} unsaved={draft.unsaved} close={close} paper={paper} onPaper={onPaper} />;
  if (panel === "telephone")
    return <Telephone phone={phone} flow={id} inForce={flow.in_force !== null} unsaved={draft.unsaved} close={close} paper={paper} onPaper={onPaper} />;
  if (selected && stepOf(definition, selected))
    return <StopSheet draft={draft} definition={definition} id={selected} stops={stops} mayChange={mayChange} select={select} clipboard={clipboard} />;
  return (
    <FlowSheet id={id} name={flow.name} about={flow.description ?? ""} rename={draft.rename} definition={definition} uses={uses} endings={endings} mayChange={mayChange}
      change={draft.edit} gone={() => void navigate(places[definition.purpose].base)} />
  );
}, standsStill);

/** The keys of the map, at a glance. */
function Hints() {
  return (
    <span className={styles.hints}>
      <span><kbd>← → ↑ ↓</kbd> walk</span><span><kbd>Enter</kbd> edit</span><span><kbd>A</kbd> add after</span><span><kbd>F</kbd> add a key</span>
      <span><kbd>C</kbd> <kbd>V</kbd> copy, paste</span><span><kbd>Del</kbd> remove</span><span><kbd>-</kbd> fold</span><span><kbd>/</kbd> find a stop</span><span><kbd>T</kbd> trial call</span><span><kbd>?</kbd> all keys</span>
    </span>
  );
}

type Open = "find" | "help" | "add" | "block" | null;

interface DialogsProps {
  open: Open;
  draft: FlowDraft;
  definition: Definition;
  id: string;
  choice: Choice;
  close: () => void;
  add: (kind: StepKind) => void;
}

/** Whatever lies over the editor. */
function Dialogs({ open, draft, definition, id, choice, close, add }: DialogsProps) {
  const stops = draft.inspection.data?.stops ?? [];
  const { chosen, selected, select } = choice;
  switch (open) {
    case "find":
      return <FindStop stops={stops} close={close} go={select} />;
    case "add":
      return <ChooseKind kinds={offered(draft.inspection.data?.kinds)} after={stops.find((stop) => stop.id === selected)?.name ?? ""} close={close} choose={add} />;
    case "help":
      return <KeyHelp close={close} />;
    case "block":
      return <BlockDialog id={id} definition={definition} chosen={chosen} stops={stops} close={close} done={(next, made) => { draft.edit(next); select(made); }} />;
    default:
      return <MergeQuestion draft={draft} stops={stops} />;
  }
}

const NONE: Record<string, number> = {};

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
function Stage({ draft, definition, uses, choice, walk, live, press, covered, small }: StageProps) {
  const { data, isError, error, refetch } = draft.inspection;
  const { chosen, selected, select, walkTo, selectMore, folded, toggleFold } = choice;
  if (!data) return isError ? <Failure error={error} retry={() => void refetch()} /> : <Loading what="the map" />;
  return (
    <TrailMap inspection={data} start={definition.start} begins={begins(definition, uses)} selected={selected} select={select} walkTo={walkTo} walk={walk} here={live?.here ?? NONE} counts={live?.arms ?? NONE}
      keys={press} also={new Set(chosen)} selectMore={selectMore} folded={folded} unfold={toggleFold} covered={covered} foot={<Hints />} small={small} />
  );
}

/** The kind of a stop, if it is there. */
function kindOf(definition: Definition, id: string | null): string | undefined {
  return stepOf(definition, id)?.kind;
}

function Editor({ id }: { id: string }) {
  const { may } = useSession();
  const { pathname } = useLocation();
  const mayChange = may("change", "flows");
  const draft = useFlowDraft(id, mayChange);
  const phone = useTelephone();
  const paper = usePaper(id, draft.definition ?? NOTHING);
  const [route, setRoute] = useState<Route | null>(null);
  const [panel, setPanel] = useState<Panel>("sheet");
  const [dialog, setDialog] = useState<Open>(null);
  const [about, setAbout] = useState(() => window.innerWidth >= WIDE);
  const [small, setSmall] = useState<HTMLElement | null>(null);
  usePageTitle(draft.flow?.name);
  const choice = useChoice((step) => { if (step && !phone.live) setPanel("sheet"); });
  const { chosen, selected, select, toggleFold } = choice;
  const live = useTopic("flow", id).view;
  const uses = useQuery({ queryKey: keys.uses("flows", id), queryFn: () => flows.uses(id) });
  const add = (kind: StepKind) => {
    if (!draft.definition) return;
    const grown = addAfter(draft.definition, selected, kind);
    draft.edit(grown.definition);
    select(grown.made);
  };
  const call = () => {
    if (!may("use", "telephone")) return;
    setRoute(null);
    setPanel("telephone");
  };
  const open = (which: Open) => () => { setDialog(which); };
  const clipboard = useClipboard(draft, draft.definition, selected, select);
  // A flow without stops has nothing to see but what it is.
  const beside = about || panel === "telephone" || chosen.length > 0 || draft.definition?.steps.length === 0;
  const toggleAbout = () => {
    select(null);
    setPanel("sheet");
    setAbout(!beside || chosen.length > 0 || panel === "telephone");
  };
  const press = useEditorKeys(draft, chosen, mayChange, clipboard, { enter: () => { choice.show(); focusSheet(); }, block: open("block"), fold: () => { toggleFold(selected); }, select, call, about: toggleAbout, find: open("find"), help: open("help"), add: open("add") });
  if (draft.failure) return <Failure error={draft.failure} retry={draft.retry} of={{ noun: "flow", list: "/guide/flows" }} />;
  const { definition, flow } = draft;
  if (!definition || !flow) return <Loading what="the flow" />;
  const home = places[definition.purpose].base;
  if (!pathname.startsWith(home)) return <Navigate to={`${home}/${id}`} replace />;
  return (
    <div className={styles.editor} onKeyDown={(event) => { if ((event.ctrlKey || event.metaKey) && !typing(event.target)) press(event); }}>
      <section className={styles.main} aria-label={flow.name}>
        <EditorHead draft={draft} id={id} about={{ open: beside, toggle: toggleAbout }} add={open("add")} call={call} />
        <Stage draft={draft} definition={definition} uses={uses.data ?? []} choice={choice} walk={litWalk(route, panel, paper, phone, id)} live={live} press={press} covered={dialog !== null} small={small} />
        <div className={styles.under}>
        <Drawer walking={choice.walking} draft={draft} id={id} mayChange={mayChange} route={route} go={(step) => { select(step || null); }} light={setRoute}
          play={(setup) => { paper.load(setup); setRoute(null); setPanel("telephone"); }} />
        <div ref={setSmall} className={styles.small} />
        </div>
      </section>
      {beside && <aside className={styles.aside} data-kind={kindOf(definition, choice.shown)} onKeyDown={(event) => {
        if (event.key === "Escape" && !event.defaultPrevented) document.querySelector<SVGGElement>(`[data-stop="${selected ?? ""}"]`)?.focus();
      }}>
        {chosen.length > 1 ? (
          <Chosen stops={draft.inspection.data?.stops ?? []} chosen={chosen} mayChange={mayChange} copy={() => { clipboard.copy(chosen, false); }} remove={() => { draft.edit(without(definition, chosen)); select(null); }} block={open("block")} />
        ) : (
          <Aside walking={choice.walking} draft={draft} id={id} panel={panel} selected={choice.shown} phone={phone} paper={paper} uses={uses.data ?? []} endings={live?.endings ?? NONE}
            mayChange={mayChange} select={select} clipboard={clipboard} close={() => { setPanel("sheet"); }} />
        )}
      </aside>}
      <Dialogs open={dialog} draft={draft} definition={definition} id={id} choice={choice} close={open(null)} add={add} />
    </div>
  );
}
