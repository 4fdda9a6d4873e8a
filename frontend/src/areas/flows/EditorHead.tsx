import { Button } from "@mui/material";
import { useNavigate } from "react-router-dom";
import { words } from "../../api/client";
import { useSession } from "../../frame/session";
import styles from "./flows.module.css";
import { OthersHere } from "./OthersHere";
import { places } from "./places";
import type { FlowDraft } from "./useFlowDraft";

/** What has become of the draft since it was put in force, and whether it is saved. */
function SaveState({ draft }: { draft: FlowDraft }) {
  const changes = draft.inspection.data?.changes;
  const force = draft.flow?.in_force;
  const than = force
    ? changes
      ? `Draft: ${changes} ${changes === 1 ? "change" : "changes"} since version ${force.number}`
      : `Version ${force.number} is in force, as drawn`
    : "Draft; nothing is in force yet";
  const saved = draft.saveError ? (
    <span role="alert" className="wrong">
      {words(draft.saveError)} Trying again.
    </span>
  ) : draft.unsaved ? (
    "saving…"
  ) : (
    "saved"
  );
  return (
    <span className="dim nowrap">
      {than} · {saved}
    </span>
  );
}

/** Over the map: the flow's name, its state, and what is done with the whole. */
export function EditorHead({
  draft,
  id,
  about,
  add,
  call,
}: {
  draft: FlowDraft;
  id: string;
  about: { open: boolean; toggle: () => void };
  add: () => void;
  call: () => void;
}) {
  const navigate = useNavigate();
  const { may } = useSession();
  const mayChange = may("change", "flows");
  const small = { minWidth: 32, px: 1 };
  return (
    <div className={styles.head}>
      <h1 className={`nowrap ${styles.flowName}`} title={draft.flow?.name}>
        {draft.flow?.name}
      </h1>
      <SaveState draft={draft} />
      <OthersHere id={id} />
      <span className="fill" />
      {mayChange && (
        <>
          <Button variant="outlined" onClick={add}>
            Add a stop… <kbd>A</kbd>
          </Button>
          <Button
            variant="outlined"
            sx={small}
            aria-label="Undo"
            title="Undo (Ctrl Z)"
            disabled={!draft.canUndo}
            onClick={draft.undo}>
            ↶
          </Button>
          <Button
            variant="outlined"
            sx={small}
            aria-label="Redo"
            title="Redo (Ctrl Shift Z)"
            disabled={!draft.canRedo}
            onClick={draft.redo}>
            ↷
          </Button>
        </>
      )}
      <Button variant="outlined" aria-expanded={about.open} title="The whole flow (I)" onClick={about.toggle}>
        About it
      </Button>
      {may("use", "telephone") && (
        <Button variant="outlined" onClick={call}>
          {draft.definition?.channel === "text" ? "Try a text" : "Try a call"}
        </Button>
      )}
      {mayChange && (
        <Button
          variant="contained"
          disabled={draft.unsaved}
          onClick={() => void navigate(`${places[draft.definition?.purpose ?? "flow"].base}/${id}/publish`)}>
          Publish…
        </Button>
      )}
    </div>
  );
}
