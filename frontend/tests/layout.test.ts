import { describe, expect, it } from "vitest";
import { layOut, type Trail } from "../src/areas/flows/trail/layout";
import { fold } from "../src/areas/flows/trail/collapse";
import { wayOf } from "../src/areas/flows/trail/TrailArm";
import { anyFlow, inspection, stop } from "./flows";

const line = inspection([
  stop("hello", "say", { next: "menu" }),
  stop("menu", "menu", { "key:1": "desk", "key:2": "bye", no_key: "menu" }),
  stop("desk", "queue", { answered: "!", waited: "bye" }, "person"),
  stop("bye", "end", {}, "ended"),
]);

const arm = (trail: Trail, key: string) => {
  const found = trail.arms.find((one) => one.key === key);
  if (!found) throw new Error(`no arm ${key}`);
  return found;
};

describe("the map", () => {
  it("places a stop right of whatever leads to it, and endings on one line", () => {
    const { stops, finish, flags } = layOut(line, "hello");
    const x = (id: string) => stops.get(id)?.x ?? NaN;
    expect(x("hello")).toBeLessThan(x("menu"));
    expect(x("menu")).toBeLessThan(x("desk"));
    expect(x("desk")).toBeLessThan(x("bye"));
    expect(finish).toBeGreaterThan(x("bye"));
    expect(flags.map((flag) => flag.from)).toEqual(["desk", "bye"]);
  });

  it("draws a way back as a stub, and a second way to a stop as a join", () => {
    const trail = layOut(line, "hello");
    expect(arm(trail, "menu no_key").kind).toBe("return");
    expect([arm(trail, "desk waited").kind, arm(trail, "menu key:2").kind].toSorted()).toEqual(["join", "own"]);
  });

  it("is tight only where it would not fit, and never wider for it", () => {
    const roomy = layOut(line, "hello"),
      tight = layOut(line, "hello", 10);
    expect(layOut(line, "hello", roomy.width).spacing).toBe(roomy.spacing);
    expect(tight.spacing).not.toBe(roomy.spacing);
    expect(tight.width).toBeLessThanOrEqual(roomy.width);
    expect(tight.height).toBeLessThan(roomy.height);
  });

  it("places every stop once, on lanes of its own, whatever the flow", () => {
    for (let seed = 1; seed <= 60; seed += 1) {
      const flow = anyFlow(seed, 12);
      for (const room of [Infinity, 600]) {
        const trail = layOut(flow, "s0", room);
        expect(trail.stops.size).toBe(12);
        expect(trail.arms.length).toBe(flow.stops.reduce((sum, one) => sum + one.exits.length, 0));
        const spots = [...trail.stops.values()].map(({ x, y }) => `${Math.round(x)} ${Math.round(y)}`);
        expect(new Set(spots).size, `seed ${seed}`).toBe(12);
        expect(
          [...trail.stops.values()].every(({ x, y }) => x > 0 && y > 0 && x < trail.width && y < trail.height),
        ).toBe(true);
        expect(layOut(flow, "s0", room)).toEqual(trail);
      }
    }
  });

  it("leads every arm along horizontals and verticals from its stop to where it ends", () => {
    for (let seed = 1; seed <= 30; seed += 1) {
      const trail = layOut(anyFlow(seed, 10), "s0");
      for (const one of trail.arms) {
        const from = trail.stops.get(one.from);
        if (!from) throw new Error("an arm of no stop");
        const way = wayOf(one, from);
        expect(way.at(-1)).toEqual({ x: one.x1, y: one.y1 });
        for (const [n, at] of way.entries()) {
          const before = way[n - 1];
          if (before) expect(Math.min(Math.abs(before.x - at.x), Math.abs(before.y - at.y))).toBeLessThan(0.51);
        }
      }
    }
  });
});

describe("folding", () => {
  it("hides what callers come to only through a stop, and says how many that are", () => {
    const { inspection: shown, counts } = fold(line, "hello", new Set(["menu"]));
    expect(shown.stops.map((one) => one.id)).toEqual(["hello", "menu"]);
    expect(counts.get("menu")).toBe(2);
    expect(layOut(shown, "hello").flags.map((flag) => flag.fate)).toEqual(["folded"]);
  });

  it("leaves what others lead to as well", () => {
    expect(fold(line, "hello", new Set(["desk"])).inspection.stops).toHaveLength(4);
  });
});
