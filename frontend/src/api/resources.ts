import { api, data, type Schemas, type Use } from "./client";

/** A page of a list. */
export interface Page<T> {
  count: number;
  results: T[];
}

/** What every kept thing has. */
export interface ConfigItem {
  id: string;
  revision?: number;
  description?: string;
}

/** What is known by its name. */
export interface Named extends ConfigItem {
  name: string;
}

export type Values = Record<string, unknown>;

/** A kind of kept things in the API. */
export interface Resource<T extends ConfigItem> {
  what: string;
  list: (query: Record<string, string | number>) => Promise<Page<T>>;
  get: (id: string) => Promise<T>;
  create: (values: Values) => Promise<T>;
  change: (id: string, values: Values) => Promise<T>;
  remove: (id: string) => Promise<void>;
  uses: (id: string) => Promise<Use[]>;
  csv: string;
  /** What every list of it asks for. */
  always?: Record<string, string>;
  /** Whether saving changes a draft only, which is published later. */
  drafts?: boolean;
  /** Whether it can say what it is for. */
  described: boolean;
  /** For what begins with a name alone: what one is called, and what it holds beside its name. */
  begins?: { noun: string; area: string; values?: Values };
}

type Call = (path: string, init: object) => Promise<{ data?: unknown }>;

/** All kept things share one shape, so one set of calls serves them; the cast is made here only. */
const calls = api as unknown as Record<"GET" | "POST" | "PATCH" | "DELETE", Call>;

/** Notices say all that they are, and people belong to the house. */
const undescribed = new Set(["notices", "people", "supervisors"]);

function resource<T extends ConfigItem>(what: string, begins?: Resource<T>["begins"]): Resource<T> {
  const base = `/api/v1/${what}`;
  const one = (id: string) => `${base}/${id}`;
  return {
    what,
    begins,
    described: !undescribed.has(what),
    list: (query) => data(calls.GET(base, { params: { query } }) as Promise<{ data?: Page<T> }>),
    get: (id) => data(calls.GET(one(id), {}) as Promise<{ data?: T }>),
    create: (values) => data(calls.POST(base, { body: values }) as Promise<{ data?: T }>),
    change: (id, values) => data(calls.PATCH(one(id), { body: values }) as Promise<{ data?: T }>),
    remove: async (id) => {
      await calls.DELETE(one(id), {});
    },
    uses: (id) => data(calls.GET(`${one(id)}/uses`, {}) as Promise<{ data?: Use[] }>),
    csv: `${base}?as=csv`,
  };
}

/** The same things, only those that a list asked so would show. */
export function only<T extends ConfigItem>(
  all: Resource<T>,
  always: Record<string, string>,
  begins = all.begins,
): Resource<T> {
  return {
    ...all,
    always,
    begins,
    csv: `${all.csv}&${new URLSearchParams(always).toString()}`,
    list: (query) => all.list({ ...always, ...query }),
  };
}

export const numbers = resource<Schemas["Number"]>("numbers");
export const diversions = resource<Schemas["Diversion"]>("diversions");
export const mailboxes = resource<Schemas["Mailbox"]>("mailboxes", { noun: "mailbox", area: "mailboxes" });
export const lookups = resource<Schemas["Table"]>("lookups");
export const flows: Resource<Schemas["FlowDraft"]> = { ...resource<Schemas["FlowDraft"]>("flows"), drafts: true };
export const plainFlows = only(
  flows,
  { purpose: "flow" },
  { noun: "flow", area: "flows", values: { purpose: "flow" } },
);
export const sharedBlocks = only(
  flows,
  { purpose: "flow,block" },
  { noun: "shared block", area: "flows", values: { purpose: "block" } },
);
export const waitingPlans = only(
  flows,
  { purpose: "plan" },
  { noun: "waiting plan", area: "flows", values: { purpose: "plan" } },
);
export const sounds = resource<Schemas["Sound"]>("sounds", { noun: "sound", area: "sounds" });
export const queues = resource<Schemas["Queue"]>("queues", { noun: "queue", area: "queues" });
export const agents = resource<Schemas["Agent"]>("agents");
export const teams = resource<Schemas["Team"]>("teams", { noun: "team", area: "teams" });
export const ringGroups = resource<Schemas["RingGroup"]>("ring-groups", { noun: "ring group", area: "agents" });
export const alerts = resource<Schemas["AlertRule"]>("alerts");
export const notices = resource<Schemas["Notice"]>("notices");
export const people = resource<Schemas["Person"]>("people");
export const supervisors = resource<Schemas["Supervisor"]>("supervisors");
export const skills = resource<Schemas["Skill"]>("skills");
export const hours = resource<Schemas["Hours"]>("hours", { noun: "hours", area: "hours" });
export const codes = resource<Schemas["Code"]>("codes");
export const codeSets = resource<Schemas["CodeSet"]>("code-sets", { noun: "code set", area: "wrapup" });

/** Take the newest change of a thing back. */
export async function undoLast(objectId: string): Promise<void> {
  const log = await data(api.GET("/api/v1/changes", { params: { query: { object_id: objectId, page_size: 1 } } }));
  const last = log.results[0];
  if (last) await api.POST("/api/v1/changes/{id}/undo", { params: { path: { id: last.id } } });
}
