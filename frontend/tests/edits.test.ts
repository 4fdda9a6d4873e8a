import { describe, expect, it } from "vitest";
import type { Definition, Step } from "../src/api/client";
import {
  accepting,
  addAfter,
  addArm,
  freeId,
  leadingTo,
  mended,
  type Menu,
  removeStep,
  setTarget,
  stepOf,
  targetOf,
} from "../src/areas/flows/edits";
import { merge } from "../src/areas/flows/merge";
import { marksOf, together, toldBy } from "../src/areas/flows/inspected";
import { end, flow, inspection, menu, say, stop } from "./flows";

const base = flow([say("hello", "menu"), menu("menu", { 1: "more", 2: "bye" }, "bye"), say("more", "bye"), end("bye")]);
const to = (definition: Definition, id: string, exit: string) => targetOf(stepOf(definition, id) as Step, exit);

describe("edits", () => {
  it("puts a new stop between two", () => {
    const { definition, made } = addAfter(base, "hello", "say");
    expect(to(definition, "hello", "next")).toBe(made);
    expect(to(definition, made, "next")).toBe("menu");
  });

  it("makes the first stop of an empty flow its beginning", () => {
    const { definition, made } = addAfter(flow([]), null, "say");
    expect(definition.start).toBe(made);
  });

  it("heals the trail where a stop is taken out", () => {
    const without = removeStep(base, "more");
    expect(to(without, "menu", "key:1")).toBe("bye");
    expect(removeStep(base, "hello").start).toBe("menu");
    expect(base.steps).toHaveLength(4);
  });

  it("leads nowhere where what is taken out led to itself", () => {
    const round = setTarget(base, "more", "next", "more");
    expect(to(removeStep(round, "more"), "menu", "key:1")).toBeNull();
  });

  it("gives a menu the next free key, and none where all are taken", () => {
    const grown = addArm(base, stepOf(base, "menu") as Menu);
    expect((stepOf(grown, "menu") as Menu).arms.map((arm) => arm.key)).toEqual(["1", "2", "3"]);
    const full = menu("menu", Object.fromEntries([..."1234567890*#"].map((key) => [key, null])));
    expect(addArm(flow([full]), full as unknown as Menu)).toEqual(flow([full]));
  });

  it("takes a fix, and leaves the draft as it is where the fix does not fit any more", () => {
    const leads = { op: "replace" as const, path: "/steps/1/arms/0/next", value: "hello" };
    const fixed = mended(base, { label: "", goto: "", patch: [leads] });
    expect(fixed && to(fixed, "menu", "key:1")).toBe("hello");
    const gone = { op: "remove" as const, path: "/steps/9" };
    expect(mended(base, { label: "", goto: "", patch: [leads, gone] })).toBeNull();
    expect(to(base, "menu", "key:1")).toBe("more");
  });

  it("finds an id that is free, and who leads to a stop", () => {
    expect(freeId(flow([say("say-1", null), say("say-3", null)]), "say")).toBe("say-2");
    expect(leadingTo(base, "more")).toBe("menu");
    expect(leadingTo(base, "hello")).toBeNull();
  });

  it("accepts a warning with a reason, and takes that back", () => {
    const finding = { code: "long", step: "hello", exit: "" };
    const accepted = accepting(base, finding, "It is meant.");
    expect(accepted.accepted).toEqual([{ ...finding, reason: "It is meant." }]);
    expect(accepting(accepted, finding, "").accepted).toEqual([]);
    expect(removeStep(accepted, "hello").accepted).toEqual([]);
  });
});

describe("merging", () => {
  const mine = setTarget(base, "hello", "next", "more");
  const theirs = setTarget(base, "more", "next", "hello");

  it("takes from each what only that one changed", () => {
    const { definition, clashes } = merge(base, mine, theirs);
    expect(clashes).toEqual([]);
    expect([to(definition, "hello", "next"), to(definition, "more", "next")]).toEqual(["more", "hello"]);
  });

  it("asks about what both changed differently, and takes whose counts", () => {
    const other = setTarget(base, "hello", "next", "bye");
    const { clashes } = merge(base, mine, other);
    expect(clashes).toEqual([{ step: "hello", part: "next" }]);
    expect(to(merge(base, mine, other, { "hello next": "theirs" }).definition, "hello", "next")).toBe("bye");
    expect(to(merge(base, mine, other, { "hello next": "mine" }).definition, "hello", "next")).toBe("more");
  });

  it("brings keys together one by one", () => {
    const ours = setTarget(base, "menu", "key:1", "bye"),
      others = setTarget(base, "menu", "key:2", "more");
    const { definition, clashes } = merge(base, ours, others);
    expect(clashes).toEqual([]);
    expect([to(definition, "menu", "key:1"), to(definition, "menu", "key:2")]).toEqual(["bye", "more"]);
  });

  it("asks about a stop that one took out and the other changed", () => {
    expect(merge(base, removeStep(base, "more"), theirs).clashes).toContainEqual({ step: "more", part: "" });
  });
});

describe("an inspection that tells what changed", () => {
  const marked = (id: string, mark: string) => ({ ...stop(id, "say", { next: null }), mark });
  const first = { ...inspection([marked("a", "1"), marked("b", "1"), marked("c", "1")]), order: ["a", "b", "c"] };

  it("is the whole with what was told before, in the order of now", () => {
    const told = toldBy(first);
    expect(marksOf(told)).toEqual({ a: "1", b: "1", c: "1" });
    const news = { ...inspection([marked("b", "2"), marked("d", "1")]), order: ["c", "d", "b"] };
    const whole = together(news, told);
    expect(whole.stops.map((one) => [one.id, one.mark])).toEqual([
      ["c", "1"],
      ["d", "1"],
      ["b", "2"],
    ]);
    expect(whole.stops[0], "what stays is the same, and is not drawn again").toBe(first.stops[2]);
  });

  it("is whole by itself where nothing was told before", () => {
    expect(together(first, new Map())).toEqual(first);
  });
});
