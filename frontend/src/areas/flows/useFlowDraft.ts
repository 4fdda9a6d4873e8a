import { keepPreviousData, useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useCallback, useEffect, useReducer, useRef, useState } from "react";
import { api, data, type Definition, type Finding, Problem, type Schemas } from "../../api/client";
import { keys } from "../../api/keys";
import { flows } from "../../api/resources";
import { mended } from "./edits";
import { marksOf, together, type Told, toldBy } from "./inspected";
import { type Choices, merge } from "./merge";

type Flow = Schemas["FlowDraft"];

interface History {
  loaded: Definition | null;
  past: Definition[];
  present: Definition | null;
  future: Definition[];
  tag: string;
  at: number;
}

type Act =
  | { type: "load"; definition: Definition }
  | { type: "edit"; definition: Definition; tag: string }
  | { type: "undo" }
  | { type: "redo" };

const LONGEST = 200;
const ONE_TYPING_MS = 1200;
const SAVE_AFTER_MS = 600;
const CHECK_AFTER_MS = 90;

const NO_HISTORY: History = { loaded: null, past: [], present: null, future: [], tag: "", at: 0 };

/** Edits with one tag that follow closely (typing in one field) are one step of undo. */
function reduce(history: History, act: Act): History {
  const { past, present, future } = history;
  switch (act.type) {
    case "load":
      return { ...NO_HISTORY, loaded: act.definition, present: act.definition };
    case "edit": {
      const now = Date.now();
      const same = act.tag !== "" && act.tag === history.tag && now - history.at < ONE_TYPING_MS;
      const before = same || present === null ? past : [...past, present].slice(-LONGEST);
      return { ...history, past: before, present: act.definition, future: [], tag: act.tag, at: now };
    }
    case "undo": {
      const back = past[past.length - 1];
      if (!back || !present) return history;
      return { ...history, past: past.slice(0, -1), present: back, future: [present, ...future], tag: "", at: 0 };
    }
    case "redo": {
      const next = future[0];
      if (!next || !present) return history;
      return { ...history, past: [...past, present], present: next, future: future.slice(1), tag: "", at: 0 };
    }
  }
}

/** Somebody else saved the draft first; `base` is what both began from. */
export interface DraftConflict {
  by: string;
  theirs: Flow;
  base: Definition;
}

/** Waits until a value has stood still. */
function useSettled<T>(value: T, ms: number): T {
  const [settled, setSettled] = useState(value);
  useEffect(() => {
    const timer = window.setTimeout(() => {
      setSettled(value);
    }, ms);
    return () => {
      window.clearTimeout(timer);
    };
  }, [value, ms]);
  return settled;
}

/** The findings, words and shares of a definition, as the core sees them; the last ones while new ones come. */
function useInspection(id: string, definition: Definition | null) {
  const settled = useSettled(definition, CHECK_AFTER_MS);
  const told = useRef<Told>(new Map());
  return useQuery({
    queryKey: keys.inspection(id, JSON.stringify(settled)),
    queryFn: async () => {
      const before = told.current;
      const body = { draft: settled as Definition, known: marksOf(before) };
      const news = await data(api.POST("/api/v1/flows/{id}/inspect", { params: { path: { id } }, body }));
      const whole = together(news, before);
      told.current = toldBy(whole);
      return whole;
    },
    enabled: settled !== null,
    placeholderData: keepPreviousData,
    staleTime: 15_000,
    gcTime: 30_000,
  });
}

/** Saves a draft a moment after each edit, over the revision it was made from. */
function useSaving(id: string, present: Definition | null, loaded: Definition | null, mayChange: boolean) {
  const cache = useQueryClient();
  const [conflict, setConflict] = useState<DraftConflict | null>(null);
  const [saved, setSaved] = useState<Definition | null>(null);
  const revision = useRef(0);
  // One after the other: each is saved over the revision that the one before has left.
  const scope = { id: `flow ${id}` };
  const rename = useMutation({
    scope,
    mutationFn: (said: { name?: string; description?: string }) =>
      flows.change(id, { ...said, revision: revision.current }),
    onSuccess: (record) => {
      revision.current = record.revision ?? revision.current;
      cache.setQueryData(keys.one("flows", id), record);
      void cache.invalidateQueries({ queryKey: keys.all("flows"), predicate: (query) => query.queryKey[1] !== "one" });
    },
  });
  const save = useMutation({
    scope,
    mutationFn: (draft: Definition) => flows.change(id, { draft, revision: revision.current }),
    onSuccess: (record, draft) => {
      revision.current = record.revision ?? revision.current;
      setSaved(draft);
      cache.setQueryData(keys.one("flows", id), record);
      void cache.invalidateQueries({ queryKey: keys.of("flows", "list") });
    },
    onError: (error) => {
      if (error instanceof Problem && error.code === "stale")
        setConflict({
          by: error.body.by ?? "Somebody",
          theirs: error.body.current as Flow,
          base: (saved ?? loaded) as Definition,
        });
    },
  });
  const { mutate, isPending, isError } = save;
  // Nothing was saved here yet: what was loaded is what stands.
  const standing = saved ?? loaded;
  const unsaved = present !== null && present !== standing;
  useEffect(() => {
    if (!mayChange || !unsaved || isPending || conflict) return undefined;
    const timer = window.setTimeout(
      () => {
        mutate(present);
      },
      isError ? 4000 : SAVE_AFTER_MS,
    );
    return () => {
      window.clearTimeout(timer);
    };
  }, [present, unsaved, isPending, isError, conflict, mayChange, mutate]);
  const startFrom = useCallback((number: number) => {
    revision.current = number;
  }, []);
  /** What the other author saved is what stands; whatever is saved next is saved over it. */
  const overTheirs = (theirs: Flow) => {
    revision.current = theirs.revision ?? revision.current;
    setSaved(theirs.draft as Definition);
    setConflict(null);
    save.reset();
  };
  return {
    startFrom,
    rename,
    unsaved,
    saving: isPending,
    saveError: conflict ? null : save.error,
    conflict,
    overTheirs,
  };
}

/** A flow's draft: edited with undo and redo, checked as it is typed, saved by itself. */
export function useFlowDraft(id: string, mayChange: boolean) {
  const { enqueueSnackbar } = useSnackbar();
  const flow = useQuery({
    queryKey: keys.one("flows", id),
    queryFn: () => flows.get(id),
    staleTime: Infinity,
    gcTime: 0,
  });
  const [history, dispatch] = useReducer(reduce, NO_HISTORY);
  const { present } = history;
  const { startFrom, conflict, overTheirs, ...saving } = useSaving(id, present, history.loaded, mayChange);

  useEffect(() => {
    if (!flow.data || present) return;
    startFrom(flow.data.revision ?? 1);
    dispatch({ type: "load", definition: flow.data.draft as Definition });
  }, [flow.data, present, startFrom]);

  const edit = useCallback((definition: Definition, tag = "") => {
    dispatch({ type: "edit", definition, tag });
  }, []);
  const applyFix = useCallback(
    (finding: Finding) => {
      if (!present || !finding.fix) return;
      const definition = mended(present, finding.fix);
      if (definition) edit(definition);
      else enqueueSnackbar("The flow has changed meanwhile: what is found is looked for again.");
    },
    [present, edit, enqueueSnackbar],
  );
  /** Both drafts together; where both changed one part, `choices` says whose counts. The other's is one undo away. */
  const settle = (choices: Choices) => {
    if (!conflict || !present) return;
    const together = merge(conflict.base, present, conflict.theirs.draft as Definition, choices);
    overTheirs(conflict.theirs);
    edit(together.definition);
  };
  const clear =
    conflict !== null &&
    present !== null &&
    merge(conflict.base, present, conflict.theirs.draft as Definition).clashes.length === 0;
  useEffect(() => {
    if (!clear || !conflict) return;
    enqueueSnackbar(`${conflict.by} saved this flow too: both your changes are in the draft now.`);
    settle({});
  });
  return {
    flow: flow.data,
    loading: flow.isPending,
    failure: flow.isError ? flow.error : null,
    retry: () => void flow.refetch(),
    definition: present,
    inspection: useInspection(id, present),
    edit,
    applyFix,
    undo: () => {
      dispatch({ type: "undo" });
    },
    redo: () => {
      dispatch({ type: "redo" });
    },
    canUndo: history.past.length > 0,
    canRedo: history.future.length > 0,
    ...saving,
    conflict: clear ? null : conflict,
    settle,
  };
}

export type FlowDraft = ReturnType<typeof useFlowDraft>;
