import type { Schemas } from "../../api/client";
import { codes } from "../../api/resources";
import { useInUse } from "../reports/InUse";
import { ConfigListPage } from "../shared/ConfigListPage";
import { UsedBy } from "../shared/UsedBy";
import styles from "./wrapup.module.css";

/** The labels that agents give to their part of a contact. */
export default function Codes() {
  const used = useInUse<Schemas["Code"]>("code");
  return (
    <ConfigListPage<Schemas["Code"]>
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
        {
          field: "name",
          headerName: "Name",
          flex: 1,
          minWidth: 160,
          renderCell: ({ row }) => (
            <>
              {row.name}
              {row.retired && <span className={`chip ${styles.former}`}>retired</span>}
            </>
          ),
        },
        { field: "group", headerName: "Group", flex: 1, minWidth: 140 },
        ...used,
      ]}
      fields={[
        { kind: "text", name: "name", label: "Name", required: true },
        {
          kind: "text",
          name: "digits",
          label: "Digits",
          required: true,
          help: "1 to 6 digits, for a keypad; no two codes share them.",
        },
        { kind: "text", name: "group", label: "Group", help: "Codes of a group stand together at the desk." },
        { kind: "area", name: "long_label", label: "In full", help: "Shown over the name where it is not plain." },
        { kind: "yes", name: "retired", label: "Retired: not offered any more" },
      ]}
      extra={(code) => <UsedBy resource={codes} id={code.id} />}
    />
  );
}
