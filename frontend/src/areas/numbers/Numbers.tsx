import { Button } from "@mui/material";
import { useNavigate } from "react-router-dom";
import type { Schemas } from "../../api/client";
import { numbers, plainFlows } from "../../api/resources";
import { counted, moment } from "../../frame/format";
import { useSession } from "../../frame/session";
import { useNow } from "../../frame/useLive";
import { picked } from "../shared/fields";
import { useInUse } from "../reports/InUse";
import { ConfigListPage } from "../shared/ConfigListPage";
import { HoursNow, useGlance } from "../shared/glance";
import { PlannedChanges } from "./PlannedChanges";
import { ValuesField } from "./ValuesField";
import { choices } from "../shared/choices";

type PhoneNumber = Schemas["Number"];

/** What answers now, and whether that changes by itself. */
function Answers({ number }: { number: PhoneNumber }) {
  const { session } = useSession();
  const now = useNow(60_000);
  const coming = number.planned?.find((change) => new Date(change.at).getTime() > now);
  return (
    <span>
      {number.flow_now ?? <span className="dim">nothing yet</span>}
      {coming && <span className="dim"> until {moment(coming.at, session.time_zone)}</span>}
    </span>
  );
}

/** The way from a number to a diversion of its calls. */
function DivertThis({ number }: { number: PhoneNumber }) {
  const navigate = useNavigate();
  const { may } = useSession();
  if (number.channel !== "voice" || !may("change", "diversions")) return null;
  const state = { numbers: [number.id], where: "outside", then: "normal" };
  return (
    <div>
      <Button variant="outlined" onClick={() => void navigate("/arrive/diversions/new", { state })}>
        Divert its calls…
      </Button>
    </div>
  );
}

/** The numbers that callers dial, and the flow that answers each. */
export default function Numbers() {
  const used = useInUse<PhoneNumber>("number", (number) => number.address);
  const glance = useGlance("numbers");
  return (
    <ConfigListPage<PhoneNumber>
      resource={numbers}
      area="numbers"
      base="/arrive/numbers"
      title="Numbers"
      noun="number"
      titleOf={(number) => number.label || number.national}
      sort={[{ field: "address", sort: "asc" }]}
      initial={{ channel: "voice" }}
      copy={({ label, channel, flow, values, planned }) => ({ label, channel, flow, values, planned })}
      extra={(number) => <DivertThis number={number} />}
      empty="Add the first number, in any way it is usually written. The flow that answers it can be chosen later."
      columns={[
        {
          field: "address",
          headerName: "Number",
          width: 170,
          renderCell: ({ row }) => (
            <span title={row.fictional ? `${row.address}, of a fictional range` : row.address}>{row.national}</span>
          ),
        },
        {
          field: "label",
          headerName: "Label",
          flex: 1,
          minWidth: 180,
          renderCell: ({ row }) => (
            <span title={row.label}>
              {row.label}
              {(row.channel === "text" || row.internal) && (
                <span className="dim"> {row.internal ? "from inside" : "text messages"}</span>
              )}
            </span>
          ),
        },
        {
          field: "flow.name",
          headerName: "Answered by",
          flex: 1,
          minWidth: 200,
          renderCell: ({ row }) => <Answers number={row} />,
        },
        {
          field: "hours_now",
          headerName: "Hours that callers meet first",
          width: 240,
          sortable: false,
          renderCell: ({ row }) => <HoursNow hours={glance.get(row.id)?.hours} none="no hours" />,
        },
        {
          field: "today",
          headerName: "Today",
          width: 80,
          sortable: false,
          align: "right",
          headerAlign: "right",
          renderCell: ({ row }) => counted(glance.get(row.id)?.today),
        },
        ...used,
        {
          field: "channel",
          headerName: "Takes",
          width: 130,
          spare: true,
          valueFormatter: (value: string) => (value === "text" ? "text messages" : "calls"),
        },
      ]}
      fields={[
        {
          kind: "text",
          name: "address",
          label: "Number",
          required: true,
          help: "As it is usually written, such as 020 7946 0210; or an extension, such as 4700.",
        },
        { kind: "text", name: "label", label: "Label" },
        {
          kind: "choice",
          name: "channel",
          label: "Takes",
          options: choices<Schemas["Number"]["channel"]>({ voice: "Calls", text: "Text messages" }),
        },
        {
          kind: "one",
          name: "flow",
          label: "Flow that answers",
          none: "Nothing answers yet",
          ...picked(plainFlows, (flow) => flow.name),
        },
        { kind: "own", name: "values", label: "Values", Input: ValuesField },
        { kind: "own", name: "planned", label: "Planned changes", Input: PlannedChanges },
      ]}
    />
  );
}
