import { memo, useState } from "react";
import { words } from "../../api/client";
import { accepting } from "./edits";
import { Findings } from "./Findings";
import styles from "./flows.module.css";
import type { Setup } from "./phone/usePaper";
import { type Route, Routes } from "./Routes";
import { standsStill } from "./standsStill";
import { Trials } from "./Trials";
import type { FlowDraft } from "./useFlowDraft";

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

/** Under the map: what the checker found, every way through, the saved trials. */
export const Drawer = memo(function Drawer({ draft, id, mayChange, route, go, light, play }: DrawerProps) {
  const [tab, setTab] = useState<Tab>("findings");
  const { data, isError, error } = draft.inspection;
  const findings = data?.findings ?? [];
  const state = data?.blocked ? "publishing waits for what blocks" : "nothing blocks publishing";
  const { definition } = draft;
  const small = tab === "findings" && findings.length === 0;
  const choose = (next: Tab) => {
    setTab(next);
    light(null);
  };
  return (
    <div className={styles.drawer} style={{ height: small ? 84 : tab === "findings" ? undefined : 210 }}>
      <div className={styles.drawerHead} role="tablist" aria-label="About the flow">
        <button
          role="tab"
          aria-selected={tab === "findings"}
          className={styles.drawerTab}
          onClick={() => choose("findings")}>
          Findings{" "}
          <span className={`chip ${data?.blocked ? "blocks" : findings.length ? "warns" : "good"}`}>
            {findings.length}
          </span>
        </button>
        <button
          role="tab"
          aria-selected={tab === "routes"}
          className={styles.drawerTab}
          onClick={() => choose("routes")}>
          Routes
        </button>
        <button
          role="tab"
          aria-selected={tab === "trials"}
          className={styles.drawerTab}
          onClick={() => choose("trials")}>
          Trials
        </button>
        <span className={`dim ${styles.drawerState}`}>{isError ? words(error) : state}</span>
      </div>
      {tab === "findings" && (
        <Findings
          findings={findings}
          mayChange={mayChange}
          go={go}
          fix={draft.applyFix}
          accept={(finding, reason) => {
            if (definition) draft.edit(accepting(definition, finding, reason));
          }}
        />
      )}
      {tab === "routes" && definition && <Routes id={id} definition={definition} chosen={route} choose={light} />}
      {tab === "trials" && definition && <Trials id={id} definition={definition} mayChange={mayChange} play={play} />}
    </div>
  );
}, standsStill);
