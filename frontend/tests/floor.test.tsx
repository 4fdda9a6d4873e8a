// @vitest-environment jsdom
import { cleanup, renderHook, act } from "@testing-library/react";
import type { ReactNode } from "react";
import { MemoryRouter, useLocation } from "react-router-dom";
import { afterEach, describe, expect, it, vi } from "vitest";
import { needsNow } from "../src/areas/floor/needs";
import { useSheet } from "../src/areas/floor/useSheet";
import { type Behind, verdict } from "../src/areas/floor/verdict";
import { wish, wishes } from "../src/frame/alertWishes";
import { usePageTitle, useTabTitle } from "../src/frame/title";

const NOW = 1_000_000;

afterEach(() => {
  cleanup();
  localStorage.clear();
  vi.unstubAllGlobals();
});

describe("the sentence above the floor", () => {
  const queue = (name: string, waited: number[], more: Partial<Behind> = {}): Behind => ({
    name,
    threshold_s: 80,
    available: 0,
    signed_in: 2,
    waiting: waited.map((s) => ({ late_from_ms: NOW - (s - 80) * 1000 + 1 })),
    ...more,
  });
  const centre = { signed_in: 4, waiting: 0 };
  const said = (queues: Behind[], more: Partial<typeof centre> = {}, inNeed: string[] = []) =>
    verdict(queues, { ...centre, ...more }, NOW, inNeed).text;

  it("tells of an emergency before anything else", () => {
    const told = verdict([queue("Sales", [500])], centre, NOW, ["Nerys Vaughan", "Kofi Mensah"]);
    expect(told).toEqual({ bad: true, text: "Emergency: Nerys Vaughan, Kofi Mensah" });
  });

  it("names the queue in which most have waited too long, and who could help", () => {
    const late = [queue("Sales", [81, 20]), queue("Freight", [90, 100, 10])];
    expect(said(late)).toBe("Freight is behind: 2 of 3 have waited longer than 1:20, nobody is available");
    expect(said([queue("Sales", [81], { available: 2 })])).toContain("2 available");
    expect(said([queue("Sales", [81], { signed_in: 0 })])).toContain("nobody is signed in");
    expect(said([queue("Sales", [80])], { waiting: 1 })).toBe("1 waiting, all within their threshold");
  });

  it("tells of a queue that nobody serves, and of a centre that nobody is in", () => {
    const alone = verdict([queue("Sales", [3], { signed_in: 0 })], { signed_in: 2, waiting: 1 }, NOW, []);
    expect(alone).toEqual({ bad: true, text: "Sales: 1 waiting, nobody is signed in" });
    expect(verdict([], { signed_in: 0, waiting: 0 }, NOW, [])).toEqual({ bad: false, text: "Nobody is signed in" });
    expect(said([queue("Sales", [])])).toBe("Nobody waits");
  });
});

describe("who needs a look", () => {
  const agent = (...needs: object[]) => ({ needs }) as never;

  it("is said once it has come to that, each reason in words", () => {
    const talk = { why: "long_talk", from_ms: NOW, limit: 600 };
    expect(needsNow(agent(talk), NOW - 1)).toEqual([]);
    expect(needsNow(agent(talk, { why: "missed", from_ms: 5, limit: 3 }), NOW)).toEqual([
      "long talk, over 10:00",
      "missed 3 of the last 5 rings",
    ]);
    const rest = ["long_wrap", "long_away", "desk_closed", "help", "wrote"].map((why) => ({
      why,
      from_ms: 0,
      limit: 60,
    }));
    expect(needsNow(agent(...rest), NOW)).toEqual([
      "wrap-up over 1:00",
      "away longer than 1:00",
      "the desk is closed",
      "asks for help",
      "wrote to you",
    ]);
  });
});

describe("what is open beside the floor", () => {
  function sheet(address: string) {
    const around = ({ children }: { children: ReactNode }) => (
      <MemoryRouter initialEntries={[address]}>{children}</MemoryRouter>
    );
    const used = renderHook(() => ({ ...useSheet(), search: useLocation().search }), { wrapper: around });
    return used.result;
  }

  it("stands in the address: one thing at a time, and how the floor is looked at stays", () => {
    const seen = sheet("/learn/floor?team=t1&person=a1");
    expect(seen.current.opened).toMatchObject({ team: "t1", person: "a1", queue: "", view: "" });
    act(() => seen.current.open({ queue: "q1" }));
    expect(seen.current.search).toBe("?team=t1&queue=q1");
    act(() => seen.current.open({ view: "waiting", team: "" }));
    expect(seen.current.search).toBe("?queue=q1&view=waiting");
    act(() => seen.current.close());
    expect(seen.current.search).toBe("?view=waiting");
  });
});

describe("how a browser tells of alerts", () => {
  it("is kept, and is by the banner only where what was kept is nonsense", async () => {
    expect(wishes()).toEqual({ sound: false, notification: false });
    expect(await wish("sound", true)).toBe(true);
    expect(wishes()).toEqual({ sound: true, notification: false });
    for (const kept of ["{", "[]", '{"sound": "yes"}']) {
      localStorage.setItem("hazeridge-alerts", kept);
      expect(wishes().sound).toBe(false);
    }
  });

  it("asks the system's permission for notifications, and takes a no", async () => {
    expect(await wish("notification", true), "there are none").toBe(false);
    for (const [allowed, kept] of [
      ["denied", false],
      ["granted", true],
    ] as const) {
      vi.stubGlobal("Notification", { requestPermission: () => Promise.resolve(allowed) });
      expect([await wish("notification", true), wishes().notification]).toEqual([kept, kept]);
    }
    expect([await wish("notification", false), wishes().notification]).toEqual([true, false]);
  });
});

describe("the browser's tab", () => {
  it("is called as the page is, else as its tab is", () => {
    renderHook(() => useTabTitle("Queues"));
    expect(document.title).toBe("Queues · Hazeridge");
    const page = renderHook(({ name }: { name?: string }) => usePageTitle(name), {
      initialProps: { name: "Bookings" } as { name?: string },
    });
    expect(document.title).toBe("Bookings · Hazeridge");
    page.rerender({ name: undefined });
    expect(document.title).toBe("Queues · Hazeridge");
  });
});
