import createClient, { type Middleware } from "openapi-fetch";
import type { components, paths } from "./schema";

export type Schemas = components["schemas"];
export type Definition = Schemas["Definition"];
export type Step = Definition["steps"][number];
export type Prompt = Schemas["DefinitionSpokenText"] | Schemas["DefinitionLibrarySound"];
export type Inspection = Schemas["Inspection"];
export type Stop = Schemas["Stop"];
export type Finding = Schemas["Finding"];
export type Session = Schemas["Session"];
/** What each live topic carries, by the word that it begins with. */
export type Topics = Schemas["Topics"];

/** One place that uses a thing. */
export interface Use {
  kind: string;
  id: string;
  name: string;
  how: string;
}

interface ProblemBody {
  status: number;
  code: string;
  detail: string;
  fields: Record<string, string[]>;
  current?: unknown;
  by?: string;
  at?: string;
  uses?: Use[];
}

/** A refusal of the server, or no answer at all, in words for the user. */
export class Problem extends Error {
  readonly status: number;
  readonly code: string;
  readonly fields: Record<string, string[]>;
  readonly body: ProblemBody;

  constructor(body: ProblemBody) {
    super(body.detail);
    this.status = body.status;
    this.code = body.code;
    this.fields = body.fields;
    this.body = body;
  }
}

/** The server is silent: what that means for what was asked of it. */
function noAnswer(method: string, status = 0): ProblemBody {
  const detail =
    method === "GET"
      ? "The server does not answer, so this cannot be shown."
      : "The server does not answer. Whether this was done is not known yet; what you typed is still here.";
  return { status, code: "no-answer", detail, fields: {} };
}

function cookie(name: string): string {
  const found = document.cookie.split("; ").find((part) => part.startsWith(`${name}=`));
  return found ? found.slice(name.length + 1) : "";
}

let signedOut: () => void = () => undefined;

/** What happens when the server no longer knows who we are. */
export function onSignedOut(act: () => void): void {
  signedOut = act;
}

/** The server says that the session is over: signed out elsewhere, or disabled. */
export function sessionEnded(): void {
  signedOut();
}

const manners: Middleware = {
  onRequest({ request }) {
    request.headers.set("X-CSRFToken", cookie("hazeridge_csrf"));
    return request;
  },
  async onResponse({ request, response }) {
    if (response.ok) return response;
    const body = (await response
      .clone()
      .json()
      .catch(() => null)) as ProblemBody | null;
    if (body?.code === "not-authenticated") signedOut();
    throw new Problem(body ?? noAnswer(request.method, response.status));
  },
  onError({ request, error }) {
    return error instanceof Problem ? error : new Problem(noAnswer(request.method));
  },
};

/** The API, typed by its own schema. Every failure is thrown as a `Problem`. */
export const api = createClient<paths>({ baseUrl: "", credentials: "same-origin" });
api.use(manners);

/** The data of an answer; failures have been thrown already. */
export async function data<T>(call: Promise<{ data?: T }>): Promise<Exclude<T, string>> {
  // Lists can be had as CSV, a text, as well; this interface asks for JSON.
  return (await call).data as Exclude<T, string>;
}

/** A file as the body of a request; the generated types know only its fields. */
function fileForm(file: File, fields: Record<string, string> = {}) {
  const form = new FormData();
  form.set("file", file);
  for (const [name, value] of Object.entries(fields)) form.set(name, value);
  return { body: form as never, bodySerializer: (body: unknown) => body as FormData };
}

export type Language = "en" | "cy";

/** Send a file, or what a microphone gave, as a sound's recording. */
export async function uploadSound(
  id: string,
  revision: number,
  file: File,
  language: Language,
  recorded = false,
): Promise<Schemas["Sound"]> {
  const form = fileForm(file, { revision: String(revision), language, recorded: String(recorded) });
  return data(api.POST("/api/v1/sounds/{id}/upload", { params: { path: { id } }, ...form }));
}

/** A new sound from a file, named after it. */
export async function soundFromFile(file: File, language: Language, signal: AbortSignal): Promise<Schemas["Sound"]> {
  return data(api.POST("/api/v1/sounds/files", { ...fileForm(file, { language }), signal }));
}

/** What a flow's file would bring; nothing is changed. */
export async function previewFlow(file: File): Promise<Schemas["FlowFilePreview"]> {
  return data(api.POST("/api/v1/flows/preview", { ...fileForm(file) }));
}

/** Make the flow of a file, with what it refers to. */
export async function importFlow(file: File): Promise<Schemas["FlowDraft"]> {
  return data(api.POST("/api/v1/flows/import", { ...fileForm(file) }));
}

/** What a CSV file would do to a lookup table; nothing is changed. */
export async function previewRows(id: string, file: File): Promise<Schemas["Preview"]> {
  return data(api.POST("/api/v1/lookups/{id}/preview", { params: { path: { id } }, ...fileForm(file) }));
}

/** Put a CSV file's rows in place of a table's; the worker does it. */
export async function importRows(id: string, revision: number, file: File): Promise<Schemas["Import"]> {
  const form = fileForm(file, { revision: String(revision) });
  return data(api.POST("/api/v1/lookups/{id}/import", { params: { path: { id } }, ...form }));
}

/** What a CSV file of agents would do; nothing is changed. */
export async function previewAgents(file: File): Promise<Schemas["File"]> {
  return data(api.POST("/api/v1/agents/preview", fileForm(file)));
}

/** Make and change the agents of a CSV file, all or none. */
export async function importAgents(file: File): Promise<Schemas["File"]> {
  return data(api.POST("/api/v1/agents/import", fileForm(file)));
}

/** The profile of callers that a CSV file holds; nothing is changed. */
export async function readProfile(file: File): Promise<number[][]> {
  return (await data(api.POST("/api/v1/stand-ins/profile", fileForm(file)))).profile;
}

/** What an iCalendar file would bring to hours; nothing is changed. */
export async function readCalendar(id: string, file: File): Promise<Schemas["CalendarPreview"]> {
  return data(api.POST("/api/v1/hours/{id}/calendar", { params: { path: { id } }, ...fileForm(file) }));
}

/** A problem's words, whatever was thrown. */
export function words(error: unknown): string {
  return error instanceof Error ? error.message : "Something went wrong.";
}
