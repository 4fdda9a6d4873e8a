import { Button, Dialog, DialogActions, DialogContent, DialogTitle } from "@mui/material";
import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, data, type Definition, type Schemas, type Stop, words } from "../../api/client";
import { keys } from "../../api/keys";
import { Loading } from "../../frame/states";
import styles from "./flows.module.css";
import { type Choices, keyOf, type Whose } from "./merge";
import type { DraftConflict, FlowDraft } from "./useFlowDraft";

type Clash = Schemas["Clash"];

/** What both changed differently, in the core's words. */
function useClashes(id: string, conflict: DraftConflict | null, mine: Definition | null) {
  const theirs = conflict?.theirs.draft as Definition | undefined;
  return useQuery({
    queryKey: keys.clashes(id, JSON.stringify([conflict?.theirs.revision, mine])),
    queryFn: () =>
      data(
        api.POST("/api/v1/flows/{id}/clashes", {
          params: { path: { id } },
          body: { base: conflict?.base as Definition, mine: mine as Definition, theirs: theirs as Definition },
        }),
      ),
    enabled: conflict !== null && mine !== null,
    gcTime: 0,
  });
}

interface PartProps {
  clash: Clash;
  by: string;
  whose: Whose;
  choose: (whose: Whose) => void;
}

/** One part: what each of the two made of it; one counts. */
function Part({ clash, by, whose, choose }: PartProps) {
  const sides = [
    ["mine", "Mine", clash.mine],
    ["theirs", `${by}’s`, clash.theirs],
  ] as const;
  return (
    <div role="radiogroup" aria-label={clash.label} className={styles.part}>
      <span className="dim">{clash.label}</span>
      {sides.map(([side, name, said]) => (
        <button key={side} type="button" role="radio" aria-checked={whose === side} onClick={() => choose(side)}>
          <b>{name}</b> {said}
        </button>
      ))}
    </div>
  );
}

/** Two authors changed the same parts: which of each counts. All else has come together by itself. */
export function MergeQuestion({ draft, stops }: { draft: FlowDraft; stops: Stop[] }) {
  const { conflict, definition } = draft;
  const [choices, setChoices] = useState<Choices>({});
  const clashes = useClashes(draft.flow?.id ?? "", conflict, definition);
  if (!conflict || !definition) return null;
  const found = clashes.data ?? [];
  const byStop = new Map<string, Clash[]>();
  for (const clash of found) byStop.set(clash.step, [...(byStop.get(clash.step) ?? []), clash]);
  const nameOf = (step: string) => (step ? (stops.find((stop) => stop.id === step)?.name ?? step) : "The whole flow");
  return (
    <Dialog open maxWidth="md" fullWidth>
      <DialogTitle>{conflict.by} changed the same as you while you did</DialogTitle>
      <DialogContent>
        <p className="dim">
          What only one of you touched is brought together already. Whichever you choose here, the other stays in the
          change log, and this is one step of undo.
        </p>
        {clashes.isPending && <Loading what="what differs" />}
        {clashes.isError && <p role="alert">{words(clashes.error)} Bring together keeps yours.</p>}
        {[...byStop].map(([step, parts]) => (
          <section key={step} aria-label={nameOf(step)} className={styles.clash}>
            <b>{nameOf(step)}</b>
            {parts.map((clash) => (
              <Part
                key={clash.part}
                clash={clash}
                by={conflict.by}
                whose={choices[keyOf(clash)] ?? "mine"}
                choose={(whose) => setChoices((before) => ({ ...before, [keyOf(clash)]: whose }))}
              />
            ))}
          </section>
        ))}
      </DialogContent>
      <DialogActions>
        <Button variant="contained" disabled={clashes.isPending} onClick={() => draft.settle(choices)}>
          Bring together
        </Button>
      </DialogActions>
    </Dialog>
  );
}
