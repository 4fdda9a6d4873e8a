import { Navigate, useParams } from "react-router-dom";
import AgentsReport from "./AgentsReport";
import CodesReport from "./CodesReport";
import FlowReport from "./FlowReport";
import HoursReport from "./HoursReport";
import OwnReport from "./OwnReport";
import QueueReport from "./QueueReport";
import SavedReports from "./SavedReports";
import UsageReport from "./UsageReport";

const reports: Record<string, React.ComponentType> = {
  queues: QueueReport,
  codes: CodesReport,
  agents: AgentsReport,
  flows: FlowReport,
  hours: HoursReport,
  usage: UsageReport,
  own: OwnReport,
  saved: SavedReports,
};

/** The report that the address names. */
export default function Reports() {
  const { report = "" } = useParams();
  const Report = reports[report];
  return Report ? <Report /> : <Navigate to="/learn/reports/queues" replace />;
}
