import { Button } from "@mui/material";
import { useMutation, useQuery, useQueryClient } from "@tanstack/react-query";
import { useSnackbar } from "notistack";
import { useState } from "react";
import { Link } from "react-router-dom";
import { api, data, type Schemas, words } from "../../api/client";
import { keys } from "../../api/keys";
import { Failure, Loading } from "../../frame/states";
import { NumberBox } from "../shared/NumberBox";
import { counted } from "../../frame/format";
import styles from "./keeping.module.css";

type Rules = Schemas["Keeping"];
type Would = Schemas["WouldGo"];
type Days = "contacts_days" | "messages_days" | "texts_days";

const LEAST = 7;
const MOST = 3660;
/** The server counts no further. */
const MOST_COUNTED = 100_000;
const kinds: { name: Days; count: keyof Would; label: string; what: string; of: [string, string] }[] = [
  {
    name: "contacts_days",
    count: "contacts",
    label: "Contacts",
    what: "A contact with its trace, the caller's number, and what supervisors and agents wrote that day. It is found no more; what it came to stays in every figure.",
    of: ["contact", "contacts"],
  },
  {
    name: "messages_days",
    count: "messages",
    label: "Messages",
    what: "What callers left in mailboxes, heard or not, with the sound.",
    of: ["message", "messages"],
  },
  {
    name: "texts_days",
    count: "texts",
    label: "Words of texts",
    what: "That somebody wrote, and when, stays; the words go.",
    of: ["text", "texts"],
  },
];

/** What some rules would take out, before anybody sets them. */
function useWouldGo(rules: Rules | undefined) {
  return useQuery({
    queryKey: keys.one("would-go", JSON.stringify(rules)),
    enabled: rules !== undefined,
    gcTime: 0,
    queryFn: () => data(api.POST("/api/v1/keeping/would-go", { body: rules as Rules })),
  });
}

function goes(count: number | undefined, [one, many]: [string, string]): string {
  if (count === undefined) return "…";
  if (count === 0) return "Nothing is that old now.";
  const told =
    count > MOST_COUNTED
      ? `More than ${counted(MOST_COUNTED)} ${many}`
      : `${counted(count)} ${count === 1 ? one : many}`;
  return `${told} would go at once, for good.`;
}

/** How long what happened is kept; figures are kept for ever. */
export default function Keeping() {
  const client = useQueryClient();
  const { enqueueSnackbar } = useSnackbar();
  const key = keys.one("keeping", "rules");
  const stands = useQuery({ queryKey: key, queryFn: () => data(api.GET("/api/v1/keeping")) });
  const [changed, setChanged] = useState<Partial<Record<Days, number | null>>>({});
  const rules = stands.data && { ...stands.data, ...changed };
  const would = useWouldGo(rules);
  const save = useMutation({
    mutationFn: (now: Rules) => data(api.PATCH("/api/v1/keeping", { body: now })),
    onSuccess: (now) => {
      client.setQueryData(key, now);
      setChanged({});
      enqueueSnackbar("Saved. What is older begins to go within a minute.");
    },
    onError: () => void stands.refetch(),
  });
  if (stands.isError) return <Failure error={stands.error} retry={() => void stands.refetch()} />;
  if (!rules) return <Loading what="what is kept" />;
  return (
    <div className={styles.page}>
      <h1>What is kept</h1>
      <p className="dim">
        Figures of <Link to="/learn/reports/queues">reports</Link> are kept for ever. What they were counted of may go
        by age, by whole days of the centre; it cannot be had back.
      </p>
      {kinds.map(({ name, count, label, what, of }) => (
        <section key={name} className={styles.kind} aria-label={label}>
          <h2>{label}</h2>
          <div>
            <NumberBox
              label="Days kept"
              value={rules[name] ?? null}
              least={LEAST}
              most={MOST}
              empty="for ever"
              width={130}
              change={(value) => setChanged({ ...changed, [name]: value })}
            />
          </div>
          <div>
            {what}{" "}
            {rules[name] != null && (
              <b className={would.data?.[count] ? styles.goes : undefined}>{goes(would.data?.[count], of)}</b>
            )}
          </div>
        </section>
      ))}
      {save.isError && (
        <div role="alert" className={styles.goes}>
          {words(save.error)}
        </div>
      )}
      <div className={styles.acts}>
        <Button
          variant="contained"
          disabled={Object.keys(changed).length === 0 || save.isPending || !would.data}
          onClick={() => save.mutate(rules)}>
          Save
        </Button>
        {Object.keys(changed).length > 0 && (
          <Button
            onClick={() => {
              setChanged({});
              save.reset();
            }}>
            Cancel
          </Button>
        )}
      </div>
    </div>
  );
}
