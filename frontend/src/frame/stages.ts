/** The six stages of a caller's journey, and the pages that live there. */

export interface Page {
  path: string;
  name: string;
  area: string;
}

export interface Stage {
  key: string;
  name: string;
  pages: Page[];
}

export const stages: Stage[] = [
  {
    key: "arrive",
    name: "Arrive",
    pages: [
      { path: "/arrive/numbers", name: "Numbers", area: "numbers" },
      { path: "/arrive/hours", name: "Hours & closures", area: "hours" },
      { path: "/arrive/diversions", name: "Diversions", area: "diversions" },
    ],
  },
  {
    key: "guide",
    name: "Guide",
    pages: [
      { path: "/guide/flows", name: "Flows", area: "flows" },
      { path: "/guide/blocks", name: "Shared blocks", area: "flows" },
      { path: "/guide/sounds", name: "Sounds", area: "sounds" },
      { path: "/guide/lookups", name: "Lookup tables", area: "lookups" },
    ],
  },
  {
    key: "wait",
    name: "Wait",
    pages: [
      { path: "/wait/queues", name: "Queues", area: "queues" },
      { path: "/wait/plans", name: "Waiting plans", area: "flows" },
      { path: "/wait/callbacks", name: "Callbacks", area: "callbacks" },
      { path: "/wait/mailboxes", name: "Mailboxes", area: "mailboxes" },
    ],
  },
  {
    key: "talk",
    name: "Talk",
    pages: [
      { path: "/talk/agents", name: "Agents", area: "agents" },
      { path: "/talk/teams", name: "Teams", area: "teams" },
      { path: "/talk/groups", name: "Groups", area: "agents" },
      { path: "/talk/skills", name: "Skills", area: "teams" },
      { path: "/talk/rules", name: "Handling rules", area: "agents" },
      { path: "/talk/notices", name: "Notices", area: "agents" },
      { path: "/talk/people", name: "People", area: "people" },
    ],
  },
  {
    key: "wrap",
    name: "Wrap up",
    pages: [
      { path: "/wrap-up/codes", name: "Wrap-up codes", area: "wrapup" },
      { path: "/wrap-up/sets", name: "Code sets", area: "wrapup" },
    ],
  },
  {
    key: "learn",
    name: "Learn",
    pages: [
      { path: "/learn/floor", name: "Floor", area: "floor" },
      { path: "/learn/contacts", name: "Contacts", area: "contacts" },
      { path: "/learn/reports", name: "Reports", area: "reports" },
      { path: "/learn/alerts", name: "Alerts", area: "alerts" },
      { path: "/learn/boards", name: "Boards", area: "floor" },
    ],
  },
];

/** For everybody. */
export const help = { path: "/help", name: "Words and figures" };

/** What is of no stage: how the centre itself is kept. */
export const settings: Page[] = [
  { path: "/settings/changes", name: "Change log", area: "changes" },
  { path: "/settings/kept", name: "What is kept", area: "keeping" },
  { path: "/settings/stand-ins", name: "Stand-ins", area: "stand_ins" },
];
