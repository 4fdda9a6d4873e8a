import { Button } from "@mui/material";
import { useNavigate } from "react-router-dom";
import type { Finding } from "../../api/client";
import { Glyph } from "../../frame/states";
import styles from "./flows.module.css";

const severities = {
  blocks: { word: "Blocks", glyph: "peak", colour: "var(--plum)" },
  warns: { word: "Warning", glyph: "rise", colour: "var(--ochre)" },
  hints: { word: "Hint", glyph: "flat", colour: "var(--slate)" },
} as const;

/** Where the things live that a mend leads to. */
const pages: Record<string, string | undefined> = {
  queue: "/wait/queues", hours: "/arrive/hours", mailbox: "/wait/mailboxes", flow: "/guide/flows", sound: "/guide/sounds", table: "/guide/lookups",
};

interface Props {
  findings: Finding[];
  mayChange: boolean;
  go: (step: string) => void;
  fix: (finding: Finding) => void;
}

/** What the checker found, worst first, each with what a caller would meet and how to mend it. */
export function Findings({ findings, mayChange, go, fix }: Props) {
  const navigate = useNavigate();
  const mend = (finding: Finding) => {
    const [kind = "", id] = finding.fix?.goto.split(":") ?? [];
    const page = pages[kind];
    if (page && id) void navigate(`${page}/${id}`);
    else fix(finding);
  };
  if (findings.length === 0) return <p className="dim" style={{ padding: "4px 16px" }}>The checker found nothing: no caller can be stranded here.</p>;
  return (
    <ul className={styles.findings} aria-label="Findings">
      {findings.map((finding) => {
        const look = severities[finding.severity];
        return (
          <li key={`${finding.code} ${finding.step} ${finding.exit}`}>
            <span className={styles.severity}><Glyph name={look.glyph} colour={look.colour} /> {look.word}</span>
            <button className={styles.where} onClick={() => { go(finding.step); }}>{finding.name}</button>
            <span title={finding.mend}>{finding.message} <span className="dim">{finding.mend}</span></span>
            {mayChange && finding.fix && <Button variant="outlined" color="secondary" onClick={() => { mend(finding); }}>{finding.fix.label}</Button>}
          </li>
        );
      })}
    </ul>
  );
}
