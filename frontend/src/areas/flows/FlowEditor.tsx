import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { Navigate, useLocation, useParams } from "react-router-dom";
import type { Definition } from "../../api/client";
import { keys } from "../../api/keys";
import { flows } from "../../api/resources";
import { useSession } from "../../frame/session";
import { Failure, Loading } from "../../frame/states";
import { usePageTitle } from "../../frame/title";
import { useTopic } from "../../frame/useLive";
import { BlockDialog } from "./BlockDialog";
import { Chosen } from "./Chosen";
import { Aside, type Panel } from "./EditorAside";
import { ChooseKind, FindStop, KeyHelp } from "./EditorDialogs";
import { Drawer } from "./EditorDrawer";
import { EditorHead } from "./EditorHead";
import { litWalk, NONE, Stage } from "./EditorStage";
import { addAfter, stepOf } from "./edits";
import styles from "./flows.module.css";
import { offered, type StepKind } from "./kinds";
import { MergeQuestion } from "./MergeQuestion";
import { usePaper } from "./phone/usePaper";
import { useTelephone } from "./phone/useTelephone";
import { places } from "./places";
import type { Route } from "./Routes";
import { type Choice, useChoice } from "./useChoice";
import { useClipboard } from "./useClipboard";
import { editorKeys, without } from "./editorKeys";
import { type FlowDraft, useFlowDraft } from "./useFlowDraft";

function typing(target: EventTarget): boolean {
  return (target as HTMLElement).closest("input,textarea") !== null;
}

function focusSheet() {
  document.querySelector<HTMLElement>("[data-sheet] input, [data-sheet] textarea")?.focus();
}

/** From so wide a window on the flow's own sheet stands beside the map without being asked for. */
const WIDE = 1600;

/** What stands in for a definition until one is there. */
const NOTHING: Definition = {
  channel: "voice",
  purpose: "flow",
  language: "en",
  inputs: [],
  outputs: [],
  start: null,
  steps: [],
  stay_limit_s: 900,
  failure_prompt: null,
  music: null,
  accepted: [],
};

/** The editor of one flow: map, sheet or telephone, findings. */
export default function FlowEditor() {
  const { id = "" } = useParams();
  return <Editor key={id} id={id} />;
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
      return (
        <ChooseKind
          kinds={offered(draft.inspection.data?.kinds)}
          after={stops.find((stop) => stop.id === selected)?.name ?? ""}
          close={close}
          choose={add}
        />
      );
    case "help":
      return <KeyHelp close={close} />;
    case "block":
      return (
        <BlockDialog
          id={id}
          definition={definition}
          chosen={chosen}
          stops={stops}
          close={close}
          done={(next, made) => {
            draft.edit(next);
            select(made);
          }}
        />
      );
    default:
      return <MergeQuestion draft={draft} stops={stops} />;
  }
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
  const choice = useChoice((step) => {
    if (step && !phone.live) setPanel("sheet");
  });
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
  const open = (which: Open) => () => {
    setDialog(which);
  };
  const clipboard = useClipboard(draft, draft.definition, selected, select);
  // A flow without stops has nothing to see but what it is.
  const beside = about || panel === "telephone" || chosen.length > 0 || draft.definition?.steps.length === 0;
  const toggleAbout = () => {
    select(null);
    setPanel("sheet");
    setAbout(!beside || chosen.length > 0 || panel === "telephone");
  };
  const press = editorKeys(draft, chosen, mayChange, clipboard, {
    enter: () => {
      choice.show();
      focusSheet();
    },
    block: open("block"),
    fold: () => {
      toggleFold(selected);
    },
    select,
    call,
    about: toggleAbout,
    find: open("find"),
    help: open("help"),
    add: open("add"),
  });
  if (draft.failure)
    return <Failure error={draft.failure} retry={draft.retry} of={{ noun: "flow", list: "/guide/flows" }} />;
  const { definition, flow } = draft;
  if (!definition || !flow) return <Loading what="the flow" />;
  const home = places[definition.purpose].base;
  if (!pathname.startsWith(home)) return <Navigate to={`${home}/${id}`} replace />;
  return (
    <div
      className={styles.editor}
      onKeyDown={(event) => {
        if ((event.ctrlKey || event.metaKey) && !typing(event.target)) press(event);
      }}>
      <section className={styles.main} aria-label={flow.name}>
        <EditorHead draft={draft} id={id} about={{ open: beside, toggle: toggleAbout }} add={open("add")} call={call} />
        <Stage
          draft={draft}
          definition={definition}
          uses={uses.data ?? []}
          choice={choice}
          walk={litWalk(route, panel, paper, phone, id)}
          live={live}
          press={press}
          covered={dialog !== null}
          small={small}
        />
        <div className={styles.under}>
          <Drawer
            walking={choice.walking}
            draft={draft}
            id={id}
            mayChange={mayChange}
            route={route}
            go={(step) => select(step || null)}
            light={setRoute}
            play={(setup) => {
              paper.load(setup);
              setRoute(null);
              setPanel("telephone");
            }}
          />
          <div ref={setSmall} className={styles.small} />
        </div>
      </section>
      {beside && (
        <aside
          className={styles.aside}
          data-kind={kindOf(definition, choice.shown)}
          onKeyDown={(event) => {
            if (event.key === "Escape" && !event.defaultPrevented)
              document.querySelector<SVGGElement>(`[data-stop="${selected ?? ""}"]`)?.focus();
          }}>
          {chosen.length > 1 ? (
            <Chosen
              stops={draft.inspection.data?.stops ?? []}
              chosen={chosen}
              mayChange={mayChange}
              copy={() => clipboard.copy(chosen, false)}
              remove={() => {
                draft.edit(without(definition, chosen));
                select(null);
              }}
              block={open("block")}
            />
          ) : (
            <Aside
              walking={choice.walking}
              draft={draft}
              id={id}
              panel={panel}
              selected={choice.shown}
              phone={phone}
              paper={paper}
              uses={uses.data ?? []}
              endings={live?.endings ?? NONE}
              mayChange={mayChange}
              select={select}
              clipboard={clipboard}
              close={() => setPanel("sheet")}
            />
          )}
        </aside>
      )}
      <Dialogs
        open={dialog}
        draft={draft}
        definition={definition}
        id={id}
        choice={choice}
        close={open(null)}
        add={add}
      />
    </div>
  );
}
