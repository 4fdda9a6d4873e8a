// @vitest-environment jsdom
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { api, data, onSignedOut, Problem, soundFromFile, words } from "../src/api/client";

/** The server, in place before the client takes what it calls it by; addresses are whole where no page is open. */
const server = vi.hoisted(() => {
  const Whole = Request;
  const state = { asked: [] as Request[], answer: (): Promise<Response> => Promise.reject(new Error("no answer set")) };
  globalThis.Request = class extends Whole {
    constructor(to: string | URL | Request, more?: RequestInit) {
      super(typeof to === "string" ? new URL(to, "http://hazeridge.example") : to, more);
    }
  };
  globalThis.fetch = (request) => {
    state.asked.push(request as Request);
    return state.answer();
  };
  return state;
});

/** What it answers from now on. */
function answers(status: number, body: string, type = "application/json") {
  server.answer = () => Promise.resolve(new Response(body, { status, headers: { "Content-Type": type } }));
}

const thrown = async (call: Promise<unknown>): Promise<Problem> => {
  try {
    await call;
  } catch (error) {
    return error as Problem;
  }
  throw new Error("nothing was thrown");
};

const change = () =>
  data(api.PATCH("/api/v1/queues/{id}", { params: { path: { id: "q" } }, body: { revision: 1 } as never }));

beforeEach(() => {
  server.asked = [];
});

afterEach(() => {
  onSignedOut(() => undefined);
  document.cookie = "hazeridge_csrf=; max-age=0";
});

describe("the API as pages call it", () => {
  it("gives the data of an answer, and sends the token of this browser", async () => {
    document.cookie = "hazeridge_csrf=abc123";
    answers(200, JSON.stringify({ count: 0, results: [] }));
    expect(await data(api.GET("/api/v1/queues"))).toEqual({ count: 0, results: [] });
    expect(server.asked[0]?.headers.get("X-CSRFToken")).toBe("abc123");
  });

  it("throws a refusal with its words, fields and what stands now", async () => {
    const body = { status: 409, code: "stale", detail: "Deepa was faster.", fields: { name: ["Taken."] }, by: "Deepa" };
    answers(409, JSON.stringify(body));
    const problem = await thrown(change());
    expect(problem).toBeInstanceOf(Problem);
    expect([problem.status, problem.code, problem.message]).toEqual([409, "stale", "Deepa was faster."]);
    expect([problem.fields, problem.body.by]).toEqual([{ name: ["Taken."] }, "Deepa"]);
    expect(words(problem)).toBe("Deepa was faster.");
  });

  it("says of a silent server what that means for what was asked", async () => {
    server.answer = () => Promise.reject(new TypeError("network"));
    const looked = await thrown(api.GET("/api/v1/queues"));
    expect([looked.code, looked.message]).toEqual([
      "no-answer",
      "The server does not answer, so this cannot be shown.",
    ]);
    const changed = await thrown(change());
    expect(changed.message).toContain("Whether this was done is not known yet");
    expect(changed.message).toContain("what you typed is still here");
  });

  it("does not take a proxy's page for an answer of the server", async () => {
    answers(502, "<html>Bad gateway</html>", "text/html");
    const problem = await thrown(api.GET("/api/v1/queues"));
    expect([problem.status, problem.code]).toEqual([502, "no-answer"]);
    expect(problem.message).not.toContain("<");
  });

  it("lets the page know once the server does not know who we are", async () => {
    const signedOut = vi.fn();
    onSignedOut(signedOut);
    answers(403, JSON.stringify({ status: 403, code: "not-allowed", detail: "You may not.", fields: {} }));
    await thrown(change());
    expect(signedOut).not.toHaveBeenCalled();
    answers(403, JSON.stringify({ status: 403, code: "not-authenticated", detail: "Sign in.", fields: {} }));
    await thrown(change());
    expect(signedOut).toHaveBeenCalledOnce();
  });

  it("sends a file as a form, with its fields", async () => {
    answers(200, JSON.stringify({ id: "s" }));
    const file = new File(["RIFF"], "welcome.wav");
    await soundFromFile(file, "cy", new AbortController().signal);
    const sent = server.asked[0] as Request;
    expect(sent.headers.get("Content-Type")).toMatch(/^multipart\/form-data/);
    const said = await sent.text();
    for (const part of ['name="file"', "RIFF", 'name="language"', "cy"]) expect(said).toContain(part);
  });

  it("has words for whatever was thrown", () => {
    expect([words(new Error("Broken.")), words("x"), words(undefined)]).toEqual([
      "Broken.",
      "Something went wrong.",
      "Something went wrong.",
    ]);
  });
});
