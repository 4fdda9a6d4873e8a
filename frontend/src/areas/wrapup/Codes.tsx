import type { Schemas } from "../../api/client";
import { codes } from "../../api/resources";
import { KeptPage } from "../shared/KeptPage";

/** The labels that agents give to their part of a contact. */
export default function Codes() {
  return (
    <KeptPage<Schemas["Code"]>
      resource={codes}
      area="wrapup"
      base="/wrap-up/codes"
      title="Wrap-up codes"
      noun="wrap-up code"
      titleOf={(code) => code.name}
      sort={[{ field: "digits", sort: "asc" }]}
      empty="Add what contacts are about, with digits for a desk phone’s keypad, then collect them in a code set."
      columns={[
        { field: "digits", headerName: "Digits", width: 90 },
        { field: "name", headerName: "Name", flex: 1, minWidth: 160 },
        { field: "group", headerName: "Group", flex: 1, minWidth: 140 },
      ]}
      fields={[
        { kind: "text", name: "name", label: "Name", required: true },
        { kind: "text", name: "digits", label: "Digits", required: true, help: "1 to 6 figures, for a keypad; no two codes share them." },
        { kind: "text", name: "group", label: "Group" },
      ]}
    />
  );
}
