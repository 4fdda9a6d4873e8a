import { Button, Dialog, DialogActions, DialogContent, DialogTitle, TextField } from "@mui/material";
import { useState } from "react";
import { useNavigate } from "react-router-dom";
import type { Finding } from "../../api/client";
import { lengths } from "../../api/lengths";
import { Glyph } from "../../frame/states";
import styles from "./flows.module.css";

const severities = {
  blocks: { word: "Blocks", glyph: "peak", colour: "var(--plum)" },
  warns: { word: "Warning", glyph: "rise", colour: "var(--ochre)" },
  hints: { word: "Hint", glyph: "flat", colour: "var(--slate)" },
} as const;

/** Where the things live that a mend leads to. */
const pages: Record<string, string | undefined> = {
  queue: "/wait/queues",
  hours: "/arrive/hours",
  mailbox: "/wait/mailboxes",
  flow: "/guide/flows",
  sound: "/guide/sounds",
  table: "/guide/lookups",
};

interface Props {
  findings: Finding[];
  mayChange: boolean;
  go: (step: string) => void;
  fix: (finding: Finding) => void;
  /** Lets a warning be with a reason; an empty one takes that back. */
  accept?: (finding: Finding, reason: string) => void;
}

/** Asks why a warning is let be; the reason stands in the flow and on the publishing page. */
function AcceptDialog({
  finding,
  close,
  accept,
}: {
  finding: Finding;
  close: () => void;
  accept: (reason: string) => void;
}) {
  const [reason, setReason] = useState("");
  return (
    <Dialog open onClose={close} fullWidth maxWidth="sm">
      <form
        onSubmit={(event) => {
          event.preventDefault();
          accept(reason.trim());
          close();
        }}>
        <DialogTitle>Let this warning be</DialogTitle>
        <DialogContent sx={{ display: "grid", gap: 2 }}>
          <div>{finding.message}</div>
          <TextField
            label="Why"
            value={reason}
            autoFocus
            slotProps={{ htmlInput: { maxLength: lengths.DefinitionAccepted.reason } }}
            onChange={(event) => setReason(event.target.value)}
            sx={{ mt: 1 }}
          />
        </DialogContent>
        <DialogActions>
          <Button onClick={close}>Cancel</Button>
          <Button type="submit" variant="contained" disabled={!reason.trim()}>
            Accept
          </Button>
        </DialogActions>
      </form>
    </Dialog>
  );
}

/** What the checker found, worst first, each with what a caller would meet and how to mend it. */
export function Findings({ findings, mayChange, go, fix, accept }: Props) {
  const [asking, setAsking] = useState<Finding | null>(null);
  const navigate = useNavigate();
  const mend = (finding: Finding) => {
    const [kind = "", id] = finding.fix?.goto.split(":") ?? [];
    const page = pages[kind];
    if (page && id) void navigate(`${page}/${id}`);
    else fix(finding);
  };
  if (findings.length === 0)
    return <p className={`dim ${styles.nothing}`}>The checker found nothing: no caller can be stranded here.</p>;
  return (
    <>
      <ul className={styles.findings} aria-label="Findings">
        {findings.map((finding) => {
          const look = severities[finding.severity];
          return (
            <li key={`${finding.code} ${finding.step} ${finding.exit}`}>
              <span className={styles.severity}>
                <Glyph name={look.glyph} colour={look.colour} /> {look.word}
              </span>
              <button className={styles.where} onClick={() => go(finding.step)}>
                {finding.name}
              </button>
              <span title={finding.mend} style={{ opacity: finding.accepted ? 0.75 : 1 }}>
                {finding.message}{" "}
                <span className="dim">{finding.accepted ? `Let be: ${finding.accepted}` : finding.mend}</span>
              </span>
              <span className={styles.acts}>
                {mayChange && finding.fix && !finding.accepted && (
                  <Button variant="outlined" color="secondary" onClick={() => mend(finding)}>
                    {finding.fix.label}
                  </Button>
                )}
                {mayChange &&
                  accept &&
                  finding.severity === "warns" &&
                  (finding.accepted ? (
                    <Button onClick={() => accept(finding, "")}>Warn again</Button>
                  ) : (
                    <Button onClick={() => setAsking(finding)}>Accept…</Button>
                  ))}
              </span>
            </li>
          );
        })}
      </ul>
      {asking && accept && (
        <AcceptDialog finding={asking} close={() => setAsking(null)} accept={(reason) => accept(asking, reason)} />
      )}
    </>
  );
}
