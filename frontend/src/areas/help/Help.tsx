import { InputBase } from "@mui/material";
import { useState } from "react";
import type { Schemas } from "../../api/client";
import { useSession } from "../../frame/session";
import { usePageTitle } from "../../frame/title";
import { useMeasures } from "../reports/useMeasures";
import styles from "./help.module.css";
import { productWords } from "./words";

type Fits = (...texts: string[]) => boolean;

function Part({ title, rows }: { title: string; rows: { head: string; says: string; sum?: string }[] }) {
  if (rows.length === 0) return null;
  return (
    <section aria-label={title} className={styles.part}>
      <h2>{title}</h2>
      <dl>
        {rows.map((row) => (
          <div key={row.head}>
            <dt>{row.head}</dt>
            <dd>
              {row.says}
              {row.sum && <div className={styles.sum}>{row.sum}</div>}
            </dd>
          </div>
        ))}
      </dl>
    </section>
  );
}

const kinds: [Schemas["Measure"]["of"], string][] = [
  ["queues", "Figures of queues"],
  ["agents", "Figures of agents and teams"],
  ["codes", "Figures of wrap-up codes"],
  ["numbers", "Figures of numbers"],
];

/** How each figure is summed, as the reports do it. */
function Figures({ of, title, fits }: { of: Schemas["Measure"]["of"]; title: string; fits: Fits }) {
  const measures = useMeasures(of) ?? [];
  return (
    <Part
      title={title}
      rows={measures
        .filter((one) => fits(one.name, one.sentence, one.formula))
        .map((one) => ({
          head: one.name,
          says: one.sentence,
          sum: one.formula === one.name.toLowerCase() ? undefined : one.formula,
        }))}
    />
  );
}

/** What the product's words mean, and how its figures are summed. */
export default function Help() {
  const { may } = useSession();
  const [text, setText] = useState("");
  usePageTitle("Words and figures");
  const typed = text.trim().toLowerCase();
  const fits: Fits = (...texts) => texts.some((one) => one.toLowerCase().includes(typed));
  return (
    <div className={styles.page}>
      <div className={styles.head}>
        <h1>Words and figures</h1>
        <InputBase
          value={text}
          autoFocus
          placeholder="Any word"
          className={styles.find}
          inputProps={{ "aria-label": "Find a word" }}
          onChange={(event) => setText(event.target.value)}
        />
      </div>
      <div className={styles.columns}>
        {productWords.map((group) => (
          <Part
            key={group.title}
            title={group.title}
            rows={group.words
              .filter((one) => one.means && fits(one.word, one.means))
              .map((one) => ({ head: one.word, says: one.means }))}
          />
        ))}
        {may("see", "reports") && kinds.map(([of, title]) => <Figures key={of} of={of} title={title} fits={fits} />)}
      </div>
    </div>
  );
}
