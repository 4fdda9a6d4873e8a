// @vitest-environment jsdom
import { afterEach, describe, expect, it, type Mock, vi } from "vitest";
import { stepOf } from "../src/areas/flows/edits";
import { editorKeys, without } from "../src/areas/flows/editorKeys";
import { knownValues, valueName } from "../src/areas/flows/flowValues";
import { end, flow, menu, say } from "./flows";

const base = flow([say("hello", "menu"), menu("menu", { 1: "more", 2: "bye" }, "bye"), say("more", "bye"), end("bye")]);

/** The editor's keys with some stops chosen, and all that they may do. */
function keysOf(chosen: string[], mayChange = true, full = true) {
  const draft = { definition: base, edit: vi.fn(), undo: vi.fn(), redo: vi.fn() };
  const clipboard = { full: () => full, copy: vi.fn(), paste: vi.fn() };
  const names = ["enter", "select", "call", "about", "find", "help", "add", "block", "fold"] as const;
  const act = Object.fromEntries(names.map((name) => [name, vi.fn<() => void>()])) as Record<
    (typeof names)[number],
    Mock<() => void>
  >;
  const press = editorKeys(draft as never, chosen, mayChange, clipboard as never, act);
  const key = (name: string, how: { ctrlKey?: boolean; shiftKey?: boolean } = {}) => {
    const event = {
      key: name,
      ctrlKey: false,
      metaKey: false,
      shiftKey: false,
      ...how,
      preventDefault: vi.fn(),
      stopPropagation: vi.fn(),
    };
    press(event as never);
    return event.preventDefault.mock.calls.length > 0;
  };
  return { draft, clipboard, act, key };
}

afterEach(() => {
  vi.restoreAllMocks();
});

describe("the keys of the editor", () => {
  it("do what the help says, and leave all others to the browser", () => {
    const { act, clipboard, key } = keysOf(["hello"]);
    for (const [name, done] of [
      ["Enter", act.enter],
      ["t", act.call],
      ["I", act.about],
      ["/", act.find],
      ["?", act.help],
      ["-", act.fold],
      ["a", act.add],
      ["b", act.block],
      ["v", clipboard.paste],
    ] as const) {
      expect(key(name), name).toBe(true);
      expect(done, name).toHaveBeenCalledOnce();
    }
    expect(["q", "1", "F5", "Tab"].map((name) => key(name))).toEqual([false, false, false, false]);
    expect(key("Escape")).toBe(true);
    expect(act.select).toHaveBeenCalledWith(null);
  });

  it("want a stop where they are about one", () => {
    const { act, clipboard, draft, key } = keysOf([]);
    expect(["Enter", "-", "b", "c", "f", "Delete"].map((name) => key(name))).toEqual(Array(6).fill(false));
    for (const one of [act.enter, act.fold, act.block, clipboard.copy, draft.edit]) expect(one).not.toHaveBeenCalled();
    expect(key("a")).toBe(true);
  });

  it("change nothing for who may only look", () => {
    const { act, clipboard, draft, key } = keysOf(["hello"], false);
    for (const name of ["a", "b", "c", "v", "f", "Delete"]) expect(key(name), name).toBe(false);
    for (const name of ["c", "v"]) expect(key(name, { ctrlKey: true }), name).toBe(false);
    for (const one of [act.add, act.block, clipboard.copy, clipboard.paste, draft.edit])
      expect(one).not.toHaveBeenCalled();
    expect([key("Enter"), key("/")]).toEqual([true, true]);
  });

  it("copy one stop with what follows, or the chosen ones by themselves", () => {
    const { clipboard, key } = keysOf(["hello", "more"]);
    key("c");
    expect(clipboard.copy).toHaveBeenLastCalledWith(["hello", "more"], true);
    key("c", { ctrlKey: true });
    expect(clipboard.copy).toHaveBeenLastCalledWith(["hello", "more"], false);
    vi.spyOn(window, "getSelection").mockReturnValue({ toString: () => "words" } as never);
    expect(key("c", { ctrlKey: true }), "marked words are the browser's to copy").toBe(false);
    const nothing = keysOf(["hello"], true, false);
    expect([nothing.key("v"), nothing.key("v", { ctrlKey: true })]).toEqual([false, false]);
  });

  it("take back and do again", () => {
    const { draft, key } = keysOf(["hello"]);
    key("z", { ctrlKey: true });
    expect([draft.undo.mock.calls.length, draft.redo.mock.calls.length]).toEqual([1, 0]);
    key("Z", { ctrlKey: true, shiftKey: true });
    key("y", { ctrlKey: true });
    expect([draft.undo.mock.calls.length, draft.redo.mock.calls.length]).toEqual([1, 2]);
    expect(key("s", { ctrlKey: true })).toBe(false);
  });

  it("take out what is chosen, and choose what led there", () => {
    const { act, draft, key } = keysOf(["more"]);
    expect(key("Delete")).toBe(true);
    const left = draft.edit.mock.calls[0]?.[0] as typeof base;
    expect(stepOf(left, "more")).toBeUndefined();
    expect(act.select).toHaveBeenCalledWith("menu");
    expect(without(base, ["hello", "more"]).steps.map((step) => step.id)).toEqual(["menu", "bye"]);
  });

  it("give a menu one more key, and nothing else one", () => {
    const at = keysOf(["menu"]);
    expect(at.key("f")).toBe(true);
    const grown = at.draft.edit.mock.calls[0]?.[0] as typeof base;
    const kept = stepOf(grown, "menu");
    expect(kept?.kind === "menu" && kept.arms).toHaveLength(3);
    expect(keysOf(["hello"]).key("f")).toBe(false);
  });
});

describe("values of a flow", () => {
  it("are those that are given, that stops set, and that every caller brings", () => {
    const digits = { kind: "digits", id: "d", into: "booking" };
    const lookup = {
      kind: "lookup",
      id: "l",
      take: [
        { column: "name", into: "guest" },
        { column: "x", into: "booking" },
      ],
    };
    const inputs = [{ name: "queue" }] as never;
    expect(knownValues(flow([digits, lookup], { inputs }))).toEqual([
      "booking",
      "caller",
      "dialled",
      "guest",
      "message",
      "queue",
    ]);
  });

  it("have names that can be written anywhere", () => {
    expect(["Booking number", "9 lives", "Âge", "x".repeat(40)].map(valueName)).toEqual([
      "booking_number",
      "lives",
      "ge",
      "x".repeat(30),
    ]);
  });
});
