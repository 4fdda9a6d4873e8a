import { Button } from "@mui/material";
import { useSnackbar } from "notistack";
import { api, data, type Schemas, words } from "../../api/client";
import type { Resource } from "../../api/resources";
import { useSession } from "../../frame/session";
import { Failure, Loading } from "../../frame/states";
import { ConflictDialog } from "../shared/ConflictDialog";
import { FieldInput } from "../shared/FieldInput";
import type { Field } from "../shared/fields";
import styles from "../shared/shared.module.css";
import { useKeptForm } from "../shared/useKeptForm";

type Rules = Schemas["HandlingRules"];

/** The one row of rules, in the shape that forms know. */
const rules = {
  what: "handling-rules",
  get: () => data(api.GET("/api/v1/handling-rules")),
  change: (_id: string, values: object) => data(api.PATCH("/api/v1/handling-rules", { body: values })),
} as unknown as Resource<Rules>;

const fields: Field[] = [
  { kind: "number", name: "ring_s", label: "Ring time before the next agent", unit: "s" },
  {
    kind: "choice", name: "wrap_up", label: "Wrap-up code",
    options: [
      { value: "none", label: "None: no wrap-up after a contact" },
      { value: "optional", label: "Optional" },
      { value: "required", label: "Required before the next contact" },
    ],
  },
  { kind: "number", name: "longest_wrap_s", label: "Longest wrap-up time", unit: "s", help: "Then the agent is available again, with “no code” if none was chosen." },
  { kind: "list", name: "away_reasons", label: "Away reasons, one a line" },
];

/** How agents of the whole centre work. */
export default function HandlingRules() {
  const { may } = useSession();
  const { enqueueSnackbar } = useSnackbar();
  const form = useKeptForm(rules, "centre", {}, () => { enqueueSnackbar("The rules are saved; they count at once."); });
  if (form.pending) return <Loading what="the rules" />;
  if (form.failure) return <Failure error={form.failure} retry={form.reload} />;
  const mayChange = may("change", "agents");
  return (
    <form noValidate onSubmit={(event) => { event.preventDefault(); form.save(); }} aria-label="Handling rules">
      <div className={styles.head}><h1>Handling rules</h1><span className="dim">for the whole centre, at once, no publishing</span></div>
      <div className={styles.fields} style={{ maxWidth: 520 }}>
        {fields.map((field) => (
          <FieldInput key={field.name} field={field} value={form.values[field.name]} disabled={!mayChange}
            error={form.errors[field.name]?.[0] ?? Object.entries(form.errors).find(([name]) => name.startsWith(`${field.name}.`))?.[1][0]}
            change={(value) => { form.set(field.name, value); }} />
        ))}
        {form.saveError !== null && <div role="alert" style={{ color: "var(--plum-ink)" }}>{words(form.saveError)}</div>}
        {mayChange && (
          <div style={{ display: "flex", gap: 8 }}>
            <Button type="submit" variant="contained" disabled={!form.dirty || form.saving}>Save</Button>
            {form.dirty && <Button onClick={form.revert}>Undo typing</Button>}
          </div>
        )}
      </div>
      {form.conflict && <ConflictDialog conflict={form.conflict} fields={fields} settle={form.settle} />}
    </form>
  );
}
