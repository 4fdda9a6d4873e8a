import { memo } from "react";
import { useNavigate } from "react-router-dom";
import type { Use } from "../../api/client";
import { stepOf } from "./edits";
import { PaperPhone } from "./phone/PaperPhone";
import { Telephone } from "./phone/Telephone";
import { TextHandset } from "./phone/TextHandset";
import type { Paper } from "./phone/usePaper";
import type { TelephoneState } from "./phone/useTelephone";
import { places } from "./places";
import { FlowSheet } from "./sheet/FlowSheet";
import { StopSheet } from "./sheet/StopSheet";
import { standsStill } from "./standsStill";
import type { Clipboard } from "./useClipboard";
import type { FlowDraft } from "./useFlowDraft";

export type Panel = "sheet" | "telephone";

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

/** Beside the map: the chosen stop, the telephone, or the whole flow. */
export const Aside = memo(function Aside({
  draft,
  id,
  panel,
  selected,
  phone,
  paper,
  uses,
  endings,
  mayChange,
  select,
  clipboard,
  close,
}: AsideProps) {
  const navigate = useNavigate();
  const { definition, flow } = draft;
  if (!definition || !flow) return null;
  const stops = draft.inspection.data?.stops ?? [];
  const onPaper = <PaperPhone id={id} definition={definition} stops={stops} paper={paper} />;
  if (panel === "telephone" && definition.channel === "text")
    return (
      <TextHandset
        phone={phone}
        flow={id}
        inForce={flow.in_force !== null}
        unsaved={draft.unsaved}
        close={close}
        paper={paper}
        onPaper={onPaper}
      />
    );
  if (panel === "telephone")
    return (
      <Telephone
        phone={phone}
        flow={id}
        inForce={flow.in_force !== null}
        unsaved={draft.unsaved}
        close={close}
        paper={paper}
        onPaper={onPaper}
      />
    );
  if (selected && stepOf(definition, selected))
    return (
      <StopSheet
        draft={draft}
        definition={definition}
        id={selected}
        stops={stops}
        mayChange={mayChange}
        select={select}
        clipboard={clipboard}
      />
    );
  return (
    <FlowSheet
      id={id}
      name={flow.name}
      about={flow.description ?? ""}
      rename={draft.rename}
      definition={definition}
      uses={uses}
      endings={endings}
      mayChange={mayChange}
      change={draft.edit}
      gone={() => void navigate(places[definition.purpose].base)}
    />
  );
}, standsStill);
