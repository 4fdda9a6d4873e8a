// @vitest-environment jsdom
import { act, cleanup, renderHook } from "@testing-library/react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { type Definition, Problem, type Step } from "../src/api/client";
import { flows } from "../src/api/resources";
import { keepCopy, keptCopy } from "../src/areas/flows/clipboard";
import { addAfter, fieldOf, stepOf } from "../src/areas/flows/edits";
import { useClipboard } from "../src/areas/flows/useClipboard";
import { useFlowDraft } from "../src/areas/flows/useFlowDraft";
import { Around } from "./around";
import { end, flow, say } from "./flows";

const base = flow([say("hello", "bye"), end("bye")]);
const nameOf = (definition: Definition | null, id: string) =>
  definition && fieldOf(stepOf(definition, id) as Step, "name");

/** The definition with a stop called otherwise. */
function renamed(definition: Definition, id: string, name: string): Definition {
  return { ...definition, steps: definition.steps.map((step) => (step.id === id ? { ...step, name } : step)) };
}

let saves: { draft: Definition; revision: number }[];
let answer: (draft: Definition, revision: number) => Promise<object>;

beforeEach(() => {
  vi.useFakeTimers();
  saves = [];
  answer = (draft, revision) => Promise.resolve({ id: "f", name: "Main", draft, revision: revision + 1 });
  vi.spyOn(flows, "get").mockResolvedValue({ id: "f", name: "Main", draft: base, revision: 5 } as never);
  vi.spyOn(flows, "change").mockImplementation((_, values) => {
    const { draft, revision } = values as { draft: Definition; revision: number };
    saves.push({ draft, revision });
    return answer(draft, revision) as never;
  });
});

afterEach(() => {
  cleanup();
  vi.useRealTimers();
  vi.restoreAllMocks();
  localStorage.clear();
});

async function opened(mayChange = true) {
  const draft = renderHook(() => useFlowDraft("f", mayChange), { wrapper: Around });
  await pass(10);
  return draft.result;
}

/** Let time pass, with all that happens in it. */
async function pass(ms: number) {
  await act(async () => {
    await vi.advanceTimersByTimeAsync(ms);
  });
}

describe("the draft of a flow", () => {
  it("goes back and forth step by step, and a new edit forgets what was taken back", async () => {
    const draft = await opened();
    expect(draft.current.definition).toEqual(base);
    for (const name of ["one", "two", "three"])
      act(() => draft.current.edit(renamed(draft.current.definition as Definition, "hello", name)));
    const seen = () => nameOf(draft.current.definition, "hello");
    act(() => draft.current.undo());
    act(() => draft.current.undo());
    expect(seen()).toBe("one");
    act(() => draft.current.redo());
    expect(seen()).toBe("two");
    act(() => draft.current.edit(renamed(base, "hello", "four")));
    act(() => draft.current.redo());
    expect(seen()).toBe("four");
    for (let back = 0; back < 5; back += 1) act(() => draft.current.undo());
    expect(draft.current.definition).toEqual(base);
  });

  it("takes what is typed into one field in one go as one step", async () => {
    const draft = await opened();
    const typed = (name: string, tag = "hello name") => {
      act(() => draft.current.edit(renamed(draft.current.definition as Definition, "hello", name), tag));
    };
    for (const name of ["W", "We", "Wel"]) typed(name);
    await pass(2_000);
    typed("Welcome");
    typed("Welcome!", "hello text");
    const back = () => {
      act(() => draft.current.undo());
      return nameOf(draft.current.definition, "hello");
    };
    expect([back(), back(), back()]).toEqual(["Welcome", "Wel", ""]);
  });

  it("is saved a moment after the last edit, each time over the revision that the one before left", async () => {
    const draft = await opened();
    await pass(5_000);
    expect(saves).toEqual([]);
    act(() => draft.current.edit(renamed(base, "hello", "a")));
    await pass(400);
    act(() => draft.current.edit(renamed(base, "hello", "b")));
    await pass(400);
    expect(saves).toEqual([]);
    await pass(400);
    act(() => draft.current.edit(renamed(base, "hello", "c")));
    await pass(1_000);
    expect(saves.map((save) => [nameOf(save.draft, "hello"), save.revision])).toEqual([
      ["b", 5],
      ["c", 6],
    ]);
  });

  it("is never saved by who may only look", async () => {
    const draft = await opened(false);
    act(() => draft.current.edit(renamed(base, "hello", "a")));
    await pass(10_000);
    expect(saves).toEqual([]);
  });

  it("is tried again where the server was silent, and nothing typed is lost", async () => {
    const draft = await opened();
    const silent = new Problem({ status: 0, code: "no-answer", detail: "No answer.", fields: {} });
    answer = () => Promise.reject(silent);
    act(() => draft.current.edit(renamed(base, "hello", "kept")));
    await pass(700);
    expect(saves).toHaveLength(1);
    answer = (held, revision) => Promise.resolve({ id: "f", name: "Main", draft: held, revision: revision + 1 });
    await pass(4_100);
    expect(saves.map((save) => [nameOf(save.draft, "hello"), save.revision])).toEqual([
      ["kept", 5],
      ["kept", 5],
    ]);
    await pass(10_000);
    expect(saves).toHaveLength(2);
  });

  it("comes together with what somebody else saved meanwhile, where both changed other stops", async () => {
    const draft = await opened();
    const theirs = { id: "f", name: "Main", draft: renamed(base, "bye", "theirs"), revision: 9 };
    const stale = new Problem({ status: 409, code: "stale", detail: "", fields: {}, by: "Deepa", current: theirs });
    answer = () => Promise.reject(stale);
    act(() => draft.current.edit(renamed(base, "hello", "mine")));
    await pass(700);
    answer = (held, revision) => Promise.resolve({ id: "f", name: "Main", draft: held, revision: revision + 1 });
    await pass(1_000);
    const together = draft.current.definition;
    expect([nameOf(together, "hello"), nameOf(together, "bye")]).toEqual(["mine", "theirs"]);
    expect(saves.at(-1)).toEqual({ draft: together, revision: 9 });
    act(() => draft.current.undo());
    expect(nameOf(draft.current.definition, "bye")).toBe("");
  });

  it("asks where both changed one stop, and saves nothing until that is answered", async () => {
    const draft = await opened();
    const theirs = { id: "f", name: "Main", draft: renamed(base, "hello", "theirs"), revision: 9 };
    const stale = new Problem({ status: 409, code: "stale", detail: "", fields: {}, by: "Deepa", current: theirs });
    answer = () => Promise.reject(stale);
    act(() => draft.current.edit(renamed(base, "hello", "mine")));
    await pass(700);
    expect(draft.current.conflict?.by).toBe("Deepa");
    await pass(10_000);
    expect(saves).toHaveLength(1);
  });

  it("takes a fix that fits, and says so of one that does not any more", async () => {
    const draft = await opened();
    const finding = (path: string) =>
      ({ fix: { label: "", goto: "", patch: [{ op: "replace", path, value: "Welcome" }] } }) as never;
    act(() => draft.current.applyFix(finding("/steps/0/name")));
    expect(nameOf(draft.current.definition, "hello")).toBe("Welcome");
    act(() => draft.current.applyFix(finding("/steps/7/name")));
    expect(nameOf(draft.current.definition, "hello")).toBe("Welcome");
    expect(document.body.textContent).toContain("The flow has changed meanwhile");
  });
});

describe("copied stops", () => {
  function clipboard(definition: Definition, selected: string | null) {
    const edit = vi.fn<(definition: Definition) => void>();
    const select = vi.fn();
    const board = renderHook(() => useClipboard({ edit } as never, definition, selected, select), { wrapper: Around });
    return { board: board.result.current, edit, select };
  }

  it("are pasted into another flow under names of their own, and chosen", () => {
    clipboard(base, "hello").board.copy(["hello"], false);
    const other = flow([say("hello", "bye"), end("bye")]);
    const { board, edit, select } = clipboard(other, "hello");
    expect(board.full()).toBe(true);
    board.paste();
    const grown = edit.mock.calls[0]?.[0] as Definition;
    expect(grown.steps).toHaveLength(3);
    expect(new Set(grown.steps.map((step) => step.id)).size).toBe(3);
    const made = select.mock.calls[0]?.[0] as string;
    expect(["hello", "bye"]).not.toContain(made);
    expect(stepOf(grown, made)?.kind).toBe("say");
  });

  it("come with what follows them where that is asked for", () => {
    const { definition } = addAfter(base, "hello", "say");
    clipboard(definition, "hello").board.copy(["hello"], true);
    expect(keptCopy()?.steps).toHaveLength(3);
    clipboard(definition, "hello").board.copy(["hello"], false);
    expect(keptCopy()?.steps).toHaveLength(1);
  });

  it("are none where nothing, or nonsense, was kept", () => {
    const { board, edit } = clipboard(base, null);
    board.paste();
    localStorage.setItem("hazeridge-copied-stops", "{");
    board.paste();
    keepCopy({ steps: [] } as never);
    board.paste();
    expect(board.full()).toBe(false);
    expect(edit).not.toHaveBeenCalled();
  });
});
