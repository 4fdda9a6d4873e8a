import { Button, Dialog, DialogActions, DialogContent, DialogTitle, ToggleButton, ToggleButtonGroup } from "@mui/material";
import { useState } from "react";
import type { Definition, Stop } from "../../api/client";
import { stepOf } from "./edits";
import { merge } from "./merge";
import type { FlowDraft } from "./useFlowDraft";

/** A part of a definition as its lines, those that the other has differently marked. */
function Side({ of, other }: { of: unknown; other: unknown }) {
  const lines = (value: unknown) => (value === undefined ? ["not there"] : JSON.stringify(value, null, 1).split("\n").slice(1, -1));
  const others = new Set(lines(other));
  return (
    <pre style={{ whiteSpace: "pre-wrap", overflowWrap: "anywhere", margin: 0, fontSize: 12 }}>
      {lines(of).map((text, i) => <div key={i} style={{ background: others.has(text) ? undefined : "var(--lichen-soft)" }}>{text}</div>)}
    </pre>
  );
}

/** Two authors changed the same stops: which of each counts. All else has come together by itself. */
export function MergeQuestion({ draft, stops }: { draft: FlowDraft; stops: Stop[] }) {
  const { conflict, definition } = draft;
  const [choice, setChoice] = useState<Record<string, "mine" | "theirs">>({});
  if (!conflict || !definition) return null;
  const theirs = conflict.theirs.draft as Definition;
  const { clashes } = merge(conflict.base, definition, theirs);
  const partOf = (of: Definition, part: string, kind: string) => (kind === "stop" ? stepOf(of, part) : of[part as keyof Definition]);
  return (
    <Dialog open maxWidth="md" fullWidth>
      <DialogTitle>{conflict.by} changed {clashes.length === 1 ? "the same stop" : `${clashes.length} of the same stops`} while you did</DialogTitle>
      <DialogContent>
        <p className="dim">What only one of you touched is brought together already. Whichever you choose here, the other stays in the change log, and this is one step of undo.</p>
        {clashes.map(({ part, of }) => (
          <section key={part} aria-label={part} style={{ borderTop: "1px solid var(--line)", padding: "8px 0" }}>
            <div style={{ display: "flex", alignItems: "center", gap: 12 }}>
              <b style={{ flex: 1 }}>{of === "stop" ? (stops.find((stop) => stop.id === part)?.name ?? part) : part.replaceAll("_", " ")}</b>
              <ToggleButtonGroup size="small" exclusive value={choice[part] ?? "mine"} onChange={(_, whose: "mine" | "theirs" | null) => { if (whose) setChoice((before) => ({ ...before, [part]: whose })); }}>
                <ToggleButton value="mine">Mine</ToggleButton><ToggleButton value="theirs">{conflict.by}’s</ToggleButton>
              </ToggleButtonGroup>
            </div>
            <div style={{ display: "grid", gridTemplateColumns: "1fr 1fr", gap: 12 }}>
              <Side of={partOf(definition, part, of)} other={partOf(theirs, part, of)} />
              <Side of={partOf(theirs, part, of)} other={partOf(definition, part, of)} />
            </div>
          </section>
        ))}
      </DialogContent>
      <DialogActions><Button variant="contained" onClick={() => { draft.settle(choice); }}>Bring together</Button></DialogActions>
    </Dialog>
  );
}
