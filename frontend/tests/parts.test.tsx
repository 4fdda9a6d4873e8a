// @vitest-environment jsdom
import { act, cleanup, fireEvent, render, renderHook, screen, waitFor } from "@testing-library/react";
import userEvent from "@testing-library/user-event";
import { useState } from "react";
import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";
import { lookups } from "../src/api/resources";
import { useDesk } from "../src/areas/desk/useDesk";
import { useRowValues } from "../src/areas/flows/sheet/useRowValues";
import { OrderedList } from "../src/areas/shared/OrderedList";
import { line, type TopicState } from "../src/frame/live";
import { useHeartbeat } from "../src/frame/useLive";
import { Around } from "./around";
import { flow } from "./flows";

afterEach(() => {
  cleanup();
  vi.restoreAllMocks();
  vi.useRealTimers();
});

/** Let the live line show a view of a topic. */
function shows(topics: Record<string, object>) {
  const states = Object.fromEntries(
    Object.entries(topics).map(([name, view]) => [name, { view, epoch: "e", version: 1, refused: "" }]),
  );
  const nothing = { view: null, epoch: "", version: 0, refused: "" };
  vi.spyOn(line, "watch").mockReturnValue(() => undefined);
  vi.spyOn(line, "topic").mockImplementation((name) => (states[name] ?? nothing) as TopicState);
}

describe("a list in an order", () => {
  function shown(names: string[], more: { disabled?: boolean; remove?: (id: string) => void } = {}) {
    const orders: string[] = [];
    function List() {
      const [ids, set] = useState(names);
      const change = (next: string[]) => {
        orders.push(next.join(" "));
        set(next);
      };
      const items = ids.map((id) => ({ id, name: id }));
      return <OrderedList items={items} change={change} disabled={more.disabled ?? false} remove={more.remove} />;
    }
    render(<List />);
    return orders;
  }

  it("is moved a place at a time, and not beyond its ends", async () => {
    const orders = shown(["ann", "bea", "cai"]);
    const user = userEvent.setup();
    const button = (name: string) => screen.getByRole<HTMLButtonElement>("button", { name });
    expect([button("ann: earlier").disabled, button("cai: later").disabled]).toEqual([true, true]);
    await user.click(button("ann: later"));
    await user.click(button("cai: earlier"));
    expect(orders).toEqual(["bea ann cai", "bea cai ann"]);
  });

  it("takes a place that is typed, and says where there is none", async () => {
    const orders = shown(["ann", "bea", "cai", "dov"]);
    const user = userEvent.setup();
    const place = () => screen.getByRole("textbox", { name: "dov: place" });
    await user.clear(place());
    await user.type(place(), "9{Enter}");
    expect(place().getAttribute("title")).toBe("A place from 1 to 4 is needed.");
    await user.clear(place());
    await user.type(place(), "2{Enter}");
    expect(orders).toEqual(["ann dov bea cai"]);
    expect(place().getAttribute("value")).toBe("2");
  });

  it("is dragged", () => {
    const orders = shown(["ann", "bea", "cai"]);
    const item = (at: number) => screen.getAllByRole("listitem")[at] as HTMLElement;
    fireEvent.dragStart(item(0));
    fireEvent.drop(item(2));
    expect(orders).toEqual(["bea cai ann"]);
    fireEvent.drop(item(1));
    expect(orders, "nothing is dragged any more").toHaveLength(1);
  });

  it("gives something out of it to whoever asks, where that is wanted", async () => {
    const remove = vi.fn();
    shown(["ann", "bea"], { remove });
    await userEvent.setup().click(screen.getByRole("button", { name: "bea: take out" }));
    expect(remove).toHaveBeenCalledWith("bea");
    cleanup();
    shown(["ann", "bea"], { disabled: true });
    expect(screen.queryByRole("button", { name: "bea: take out" })).toBeNull();
    expect(screen.getAllByRole<HTMLButtonElement>("button").every((one) => one.disabled)).toBe(true);
  });
});

describe("what an agent has", () => {
  it("begins with the contact in hand, then the others as they came", () => {
    const contacts = { c1: { id: "c1" }, c2: { id: "c2" }, c3: { id: "c3" } };
    shows({ "desk.a1": { agent: { contact: "c2" }, contacts, notices: {}, codes: {}, chat: {} } });
    const desk = renderHook(() => useDesk("a1"), { wrapper: Around }).result.current;
    expect(desk.contacts).toEqual([{ id: "c2" }, { id: "c1" }, { id: "c3" }]);
    shows({ "desk.a1": { agent: { contact: "" }, contacts } });
    const free = renderHook(() => useDesk("a1"), { wrapper: Around }).result.current;
    expect(free.contacts.map((one) => (one as { id: string }).id)).toEqual(["c1", "c2", "c3"]);
  });

  it("is nothing until the exchange has told", () => {
    shows({});
    const desk = renderHook(() => useDesk("a1"), { wrapper: Around }).result.current;
    expect([desk.agent, desk.contacts, desk.codes, desk.chat]).toEqual([undefined, [], [], {}]);
  });
});

describe("the exchange's sign of life", () => {
  beforeEach(() => {
    vi.useFakeTimers();
  });

  it("is lost after four seconds of silence, and back with the next one", () => {
    shows({ heartbeat: { heartbeat: { revision: 7 } } });
    line.lastBeatMs = Date.now();
    const beat = renderHook(() => useHeartbeat());
    expect(beat.result.current).toMatchObject({ state: "running", revision: 7, ageS: 0, apart: false });
    act(() => {
      vi.advanceTimersByTime(3_000);
    });
    expect(beat.result.current.state).toBe("running");
    act(() => {
      vi.advanceTimersByTime(1_000);
    });
    expect(beat.result.current).toMatchObject({ state: "lost", ageS: 4 });
    line.lastBeatMs = Date.now();
    act(() => {
      vi.advanceTimersByTime(1_000);
    });
    expect(beat.result.current.state).toBe("running");
  });

  it("is not known where none came yet", () => {
    shows({});
    expect(renderHook(() => useHeartbeat()).result.current).toMatchObject({ state: "unknown", revision: null });
  });
});

describe("values of looked-up rows", () => {
  it("are those that stops take, with what their columns hold", async () => {
    const columns = [
      { name: "guest", type: "text" },
      { name: "seats", type: "number" },
    ];
    const list = vi.spyOn(lookups, "list").mockResolvedValue({ count: 1, results: [{ id: "t1", columns }] } as never);
    const take = [
      { column: "seats", into: "places" },
      { column: "gone", into: "other" },
    ];
    const steps = [
      { kind: "lookup", id: "l", table: "table:t1", take },
      { kind: "lookup", id: "m", table: null, take: [] },
    ];
    const held = renderHook(() => useRowValues(flow(steps)), { wrapper: Around });
    await waitFor(() =>
      expect(held.result.current).toEqual([
        { name: "places", label: "places, from seats", row: true, type: "number" },
        { name: "other", label: "other, from gone", row: true, type: "text" },
      ]),
    );
    expect(list).toHaveBeenCalledWith({ ids: "t1", page_size: 500 });
  });
});
