import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Definition, type Schemas } from "../../../api/client";
import { keys } from "../../../api/keys";

export type Tried = Schemas["Tried"];

/** What a trial on paper begins with, and what is pretended; kept with the trial, never in a flow. */
export interface Setup {
  caller: string;
  dialled: string;
  values: Record<string, unknown>;
  at: string | null;
  start: string | null;
  keys: string[];
  pretend: {
    figures: Record<string, Record<string, number>>;
    waits: Record<string, number | null>;
    queues: Record<string, string>;
    rows: Record<string, Record<string, unknown> | null>;
    rings: Record<string, string>;
    hours: Record<string, boolean>;
    failing: string[];
    fax: boolean;
  };
}

export const nobody: Setup = {
  caller: "+447700900417",
  dialled: "",
  values: {},
  at: null,
  start: null,
  keys: [],
  pretend: { figures: {}, waits: {}, queues: {}, rows: {}, rings: {}, hours: {}, failing: [], fax: false },
};

/** A trial call on paper: the same keys always lead to the same place, so a step back is a key less. */
export function usePaper(id: string, definition: Definition) {
  const [setup, setSetup] = useState<Setup>(nobody);
  const [dialled, setDialled] = useState(false);
  const run = useQuery({
    queryKey: keys.of("flows", "try", id, JSON.stringify(definition), JSON.stringify(setup)),
    queryFn: () =>
      data(
        api.POST("/api/v1/flows/{id}/try", {
          params: { path: { id } },
          body: { draft: definition, setup: { ...setup }, hold: true },
        }),
      ),
    enabled: dialled,
    placeholderData: (before) => before,
    retry: false,
  });
  return {
    setup,
    setSetup,
    dialled,
    run,
    dial: () => {
      setDialled(true);
      setSetup((before) => ({ ...before, keys: [] }));
    },
    press: (key: string) => {
      setSetup((before) => ({ ...before, keys: [...before.keys, key] }));
    },
    back: () => {
      setSetup((before) => ({ ...before, keys: before.keys.slice(0, -1) }));
    },
    // What was saved before something could be pretended says nothing of it.
    load: (saved: Setup) => {
      setSetup({ ...nobody, ...saved, pretend: { ...nobody.pretend, ...saved.pretend } });
      setDialled(true);
    },
    hangUp: () => {
      setDialled(false);
    },
  };
}

export type Paper = ReturnType<typeof usePaper>;
