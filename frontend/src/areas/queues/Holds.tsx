import type { Values } from "../../api/resources";
import type { Field } from "../shared/fields";
import { useThings } from "../shared/ThingPicker";

type Picked = Extract<Field, { kind: "one" | "many" }>;

/** The names of what was chosen from a list. */
function Names({ field, ids }: { field: Picked; ids: string[] }) {
  const { known } = useThings(field.from, "", ids);
  return (
    <>
      {ids
        .flatMap((id) => known.get(id) ?? [])
        .map((item) => field.labelOf(item))
        .join(", ") || "…"}
    </>
  );
}

/** What a field says in a line; nothing where it says nothing. */
function said(field: Field, value: unknown): string | null {
  switch (field.kind) {
    case "choice":
      return field.options.find((option) => option.value === value)?.label ?? null;
    case "number":
      return value === null || value === undefined || value === "" ? null : `${String(value)} ${field.unit}`;
    case "text":
    case "area":
      return typeof value === "string" && value ? `“${value}”` : null;
    case "yes":
      return value === true ? "yes" : null;
    default:
      return null;
  }
}

/** What the fields of a folded group hold, in a line; the name stands at the head of the page. */
export function Holds({ fields, values }: { fields: Field[]; values: Values }) {
  const shown = fields.filter((field) => field.name !== "name" && (!field.when || field.when(values)));
  const parts = shown.flatMap((field) => {
    const value = values[field.name];
    if (field.kind === "one" || field.kind === "many") {
      const ids = (Array.isArray(value) ? value : value ? [value] : []) as string[];
      return ids.length
        ? [
            <span key={field.name}>
              {field.label}: <Names field={field} ids={ids} />
            </span>,
          ]
        : [];
    }
    const words = said(field, value);
    return words === null
      ? []
      : [
          <span key={field.name}>
            {field.label}: {words}
          </span>,
        ];
  });
  return parts.length ? <>{parts.flatMap((part, i) => (i ? [" · ", part] : [part]))}</> : <>Nothing is set.</>;
}
