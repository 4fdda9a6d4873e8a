import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useState } from "react";
import { Problem } from "../../api/client";
import { keys } from "../../api/keys";
import type { ConfigItem, Resource, Values } from "../../api/resources";

/** Somebody else changed it first: both versions, for the user to choose from. */
export interface Conflict {
  by: string;
  at: string;
  mine: Values;
  theirs: Values;
}

export interface ItemForm<T extends ConfigItem> {
  record: T | undefined;
  pending: boolean;
  failure: unknown;
  reload: () => void;
  values: Values;
  set: (name: string, value: unknown) => void;
  dirty: boolean;
  errors: Record<string, string[]>;
  saving: boolean;
  saveError: unknown;
  save: () => void;
  revert: () => void;
  conflict: Conflict | null;
  settle: (chosen: Values) => void;
  /** A change made beside the form has been saved: go on from it, with what is typed. */
  took: (record: T) => void;
}

const READ_JUST_NOW_MS = 2_000;

function conflictFrom(error: unknown, mine: Values): Conflict | null {
  if (!(error instanceof Problem) || error.code !== "stale") return null;
  const { by = "", at = "", current } = error.body;
  return { by, at, mine, theirs: current as Values };
}

/** The words about a field, or about something inside of it. */
export function errorOf(errors: Record<string, string[]>, name: string): string | undefined {
  return errors[name]?.[0] ?? Object.entries(errors).find(([path]) => path.startsWith(`${name}.`))?.[1][0];
}

/**
 * The state of a form for one kept thing: loads it, keeps what was typed, saves only what
 * changed with the revision it was changed from, and holds both versions when somebody was faster.
 */
export function useItemForm<T extends ConfigItem>(
  resource: Resource<T>,
  id: string,
  initial: Values,
  saved: (record: T) => void,
): ItemForm<T> {
  const cache = useQueryClient();
  const fresh = id === "new";
  const query = useQuery({ queryKey: keys.one(resource.what, id), queryFn: () => resource.get(id), enabled: !fresh });
  const [opened] = useState(() => Date.now());
  // What was read a while ago may have been changed since: nobody should type over that.
  const outdated = query.isFetching && !query.isFetchedAfterMount && query.dataUpdatedAt < opened - READ_JUST_NOW_MS;
  const [typed, setTyped] = useState<Values>({});
  const [base, setBase] = useState<{ id: string; revision: number } | null>(null);
  const [conflict, setConflict] = useState<Conflict | null>(null);
  // What is typed was typed over the revision that was shown then, whatever arrives later.
  const shown = base?.id === id ? base.revision : query.data?.revision;
  const mutation = useMutation({
    mutationFn: (values: Values) =>
      fresh ? resource.create({ ...initial, ...values }) : resource.change(id, { ...values, revision: shown }),
    onSuccess: (record) => {
      setTyped({});
      setBase(null);
      cache.setQueryData(keys.one(resource.what, record.id), record);
      void cache.invalidateQueries({ queryKey: keys.all(resource.what) });
      saved(record);
    },
    onError: (error, values) => {
      setConflict(conflictFrom(error, values));
    },
  });
  const error = mutation.error;
  return {
    record: query.data,
    pending: !fresh && (query.isPending || outdated),
    failure: query.isError ? query.error : null,
    reload: () => void query.refetch(),
    values: { ...initial, ...(query.data as Values | undefined), ...typed },
    set: (name, value) => {
      if (query.data && base?.id !== id) setBase({ id, revision: query.data.revision ?? 1 });
      setTyped((before) => ({ ...before, [name]: value }));
    },
    dirty: Object.keys(typed).length > 0,
    errors: error instanceof Problem ? error.fields : {},
    saving: mutation.isPending,
    saveError: conflict ? null : error,
    save: () => {
      mutation.mutate(typed);
    },
    revert: () => {
      setTyped({});
      setBase(null);
      mutation.reset();
    },
    conflict,
    took: (saved) => {
      cache.setQueryData(keys.one(resource.what, id), saved);
      if (base) setBase({ id, revision: saved.revision ?? base.revision });
      void cache.invalidateQueries({ queryKey: keys.of(resource.what, "list") });
    },
    settle: (chosen) => {
      const revision = conflict?.theirs.revision as number;
      setConflict(null);
      mutation.reset();
      cache.setQueryData(keys.one(resource.what, id), conflict?.theirs);
      setTyped(chosen);
      setBase({ id, revision });
    },
  };
}
