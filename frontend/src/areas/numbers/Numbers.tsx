import type { Schemas } from "../../api/client";
import { flows, numbers } from "../../api/resources";
import { useNow } from "../../frame/useLive";
import { picked } from "../shared/fields";
import { KeptPage } from "../shared/KeptPage";
import { PlannedChanges } from "./PlannedChanges";

type PhoneNumber = Schemas["Number"];

/** What answers now, and whether that changes by itself. */
function Answers({ number }: { number: PhoneNumber }) {
  const now = useNow(60_000);
  const coming = number.planned?.some((change) => new Date(change.at).getTime() > now);
  return (
    <span>
      {number.flow_now ?? <span className="dim">nothing yet</span>}
      {coming && <> <span className="chip">changes ahead</span></>}
    </span>
  );
}

/** The numbers that callers dial, and the flow that answers each. */
export default function Numbers() {
  return (
    <KeptPage<PhoneNumber>
      resource={numbers}
      area="numbers"
      base="/arrive/numbers"
      title="Numbers"
      noun="number"
      titleOf={(number) => number.label || number.national}
      sort={[{ field: "e164", sort: "asc" }]}
      empty="Add the first number, in any way it is usually written. The flow that answers it can be chosen later."
      columns={[
        {
          field: "e164", headerName: "Number", width: 200,
          renderCell: ({ row }) => <span title={row.e164}>{row.national}</span>,
        },
        { field: "label", headerName: "Label", flex: 1, minWidth: 140 },
        {
          field: "flow.name", headerName: "Answered by", flex: 1, minWidth: 140,
          renderCell: ({ row }) => <Answers number={row} />,
        },
        {
          field: "fictional", headerName: "", width: 130, sortable: false,
          renderCell: ({ row }) => (row.fictional ? <span className="chip">fictional range</span> : ""),
        },
      ]}
      fields={[
        { kind: "text", name: "e164", label: "Number", required: true, help: "As it is usually written, such as 020 7946 0210." },
        { kind: "text", name: "label", label: "Label" },
        { kind: "one", name: "flow", label: "Flow that answers", none: "Nothing answers yet", ...picked(flows, (flow) => flow.name) },
        { kind: "own", name: "planned", label: "Planned changes", Input: PlannedChanges },
      ]}
    />
  );
}
