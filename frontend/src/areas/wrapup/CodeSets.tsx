import type { Schemas } from "../../api/client";
import { codes, codeSets } from "../../api/resources";
import { picked } from "../shared/fields";
import { ConfigListPage } from "../shared/ConfigListPage";

/** Collections of codes; a queue uses one. */
export default function CodeSets() {
  return (
    <ConfigListPage<Schemas["CodeSet"]>
      resource={codeSets}
      area="wrapup"
      base="/wrap-up/sets"
      title="Code sets"
      noun="code set"
      titleOf={(set) => set.name}
      sort={[{ field: "name", sort: "asc" }]}
      initial={{ codes: [] }}
      copy={({ name, codes: chosen }) => ({ name: `${name} 2`, codes: chosen })}
      empty="Collect wrap-up codes into sets; each queue offers its agents one set."
      columns={[
        { field: "name", headerName: "Name", flex: 1, minWidth: 160 },
        { field: "size", headerName: "Codes", width: 100, align: "right", headerAlign: "right" },
      ]}
      fields={[
        { kind: "text", name: "name", label: "Name", required: true },
        { kind: "many", name: "codes", label: "Codes", ...picked(codes, (code) => `${code.digits} ${code.name}`) },
      ]}
    />
  );
}
