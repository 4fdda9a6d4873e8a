import { lazy, Suspense } from "react";
import { Navigate, Route, Routes } from "react-router-dom";
import { SignIn } from "./areas/accounts/SignIn";
import { places } from "./areas/flows/places";
import { Frame } from "./frame/Frame";
import { SessionProvider, useSession } from "./frame/session";
import { Empty, Loading } from "./frame/states";

const Numbers = lazy(() => import("./areas/numbers/Numbers"));
const HoursList = lazy(() => import("./areas/hours/HoursList"));
const HoursPage = lazy(() => import("./areas/hours/HoursPage"));
const Flows = lazy(() => import("./areas/flows/Flows"));
const FlowEditor = lazy(() => import("./areas/flows/FlowEditor"));
const Publish = lazy(() => import("./areas/flows/Publish"));
const Diversions = lazy(() => import("./areas/diversions/Diversions"));
const Mailboxes = lazy(() => import("./areas/mailboxes/Mailboxes"));
const Lookups = lazy(() => import("./areas/lookups/Lookups"));
const LookupTable = lazy(() => import("./areas/lookups/LookupTable"));
const Sounds = lazy(() => import("./areas/sounds/Sounds"));
const Callbacks = lazy(() => import("./areas/callbacks/Callbacks"));
const Contacts = lazy(() => import("./areas/contacts/Contacts"));
const Trace = lazy(() => import("./areas/contacts/Trace"));
const Reports = lazy(() => import("./areas/reports/Reports"));
const Queues = lazy(() => import("./areas/queues/Queues"));
const QueuePage = lazy(() => import("./areas/queues/QueuePage"));
const Agents = lazy(() => import("./areas/agents/Agents"));
const Teams = lazy(() => import("./areas/agents/Teams").then((area) => ({ default: area.Teams })));
const Skills = lazy(() => import("./areas/agents/Teams").then((area) => ({ default: area.Skills })));
const Boards = lazy(() => import("./areas/floor/Boards"));
const Wall = lazy(() => import("./areas/floor/Wall"));
const Alerts = lazy(() => import("./areas/floor/Alerts"));
const Keeping = lazy(() => import("./areas/keeping/Keeping"));
const Notices = lazy(() => import("./areas/agents/Notices"));
const RingGroups = lazy(() => import("./areas/agents/RingGroups"));
const HandlingRules = lazy(() => import("./areas/agents/HandlingRules"));
const People = lazy(() => import("./areas/accounts/People"));
const Codes = lazy(() => import("./areas/wrapup/Codes"));
const CodeSets = lazy(() => import("./areas/wrapup/CodeSets"));
const Floor = lazy(() => import("./areas/floor/Floor"));
const StandIns = lazy(() => import("./areas/standins/StandIns"));
const Changes = lazy(() => import("./areas/changelog/Changes"));
const Help = lazy(() => import("./areas/help/Help"));
const Desk = lazy(() => import("./areas/desk/Desk"));

/** Where a person lands: on the floor, or at their desk. */
function Home() {
  const { may } = useSession();
  return <Navigate to={may("see", "floor") ? "/learn/floor" : "/desk"} replace />;
}

/** A wall by its link stands apart: nobody signs in there. */
export function App() {
  return (
    <Routes>
      <Route
        path="/wall/:token"
        element={
          <Suspense fallback={<Loading what="the board" />}>
            <Wall />
          </Suspense>
        }
      />
      <Route path="*" element={<Signed />} />
    </Routes>
  );
}

function Signed() {
  return (
    <SessionProvider signIn={<SignIn />}>
      <Routes>
        <Route
          path="/wall/board/:board"
          element={
            <Suspense fallback={<Loading what="the board" />}>
              <Wall />
            </Suspense>
          }
        />
        <Route element={<Frame />}>
          <Route index element={<Home />} />
          <Route path="/arrive/numbers/:id?" element={<Numbers />} />
          <Route path="/arrive/hours" element={<HoursList />} />
          <Route path="/arrive/hours/new" element={<HoursList />} />
          <Route path="/arrive/hours/:id" element={<HoursPage />} />
          <Route path="/arrive/diversions/:id?" element={<Diversions />} />
          <Route path="/guide/lookups" element={<Lookups />} />
          <Route path="/guide/lookups/new" element={<Lookups />} />
          <Route path="/guide/lookups/:id" element={<LookupTable />} />
          <Route path="/wait/mailboxes/:id?" element={<Mailboxes />} />
          {(["flow", "block", "plan"] as const).map((purpose) => (
            <Route key={purpose} path={places[purpose].base}>
              <Route index element={<Flows purpose={purpose} />} />
              <Route path="new" element={<Flows purpose={purpose} />} />
              <Route path=":id" element={<FlowEditor />} />
              <Route path=":id/publish" element={<Publish />} />
            </Route>
          ))}
          <Route path="/guide/sounds/:id?" element={<Sounds />} />
          <Route path="/wait/queues" element={<Queues />} />
          <Route path="/wait/queues/new" element={<Queues />} />
          <Route path="/wait/queues/:id" element={<QueuePage />} />
          <Route path="/wait/callbacks" element={<Callbacks />} />
          <Route path="/learn/contacts" element={<Contacts />} />
          <Route path="/learn/contacts/:id" element={<Trace />} />
          <Route path="/learn/reports/:report?" element={<Reports />} />
          <Route path="/talk/agents/:id?" element={<Agents />} />
          <Route path="/talk/teams/:id?" element={<Teams />} />
          <Route path="/talk/skills/:id?" element={<Skills />} />
          <Route path="/talk/people/:id?" element={<People />} />
          <Route path="/talk/groups/:id?" element={<RingGroups />} />
          <Route path="/talk/notices/:id?" element={<Notices />} />
          <Route path="/learn/boards" element={<Boards />} />
          <Route path="/learn/alerts/:id?" element={<Alerts />} />
          <Route path="/talk/rules/*" element={<HandlingRules />} />
          <Route path="/wrap-up/codes/:id?" element={<Codes />} />
          <Route path="/wrap-up/sets/:id?" element={<CodeSets />} />
          <Route path="/learn/floor" element={<Floor />} />
          <Route path="/settings/stand-ins" element={<StandIns />} />
          <Route path="/settings/changes" element={<Changes />} />
          <Route path="/settings/kept" element={<Keeping />} />
          <Route path="/desk" element={<Desk />} />
          <Route path="/help" element={<Help />} />
          <Route path="*" element={<Empty title="There is no such page">Ctrl+K finds everything.</Empty>} />
        </Route>
      </Routes>
    </SessionProvider>
  );
}
