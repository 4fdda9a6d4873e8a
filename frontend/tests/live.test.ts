import { afterEach, beforeEach, describe, expect, it, vi } from "vitest";

/** A line that says what the test lets it say. */
class FakeSocket {
  static readonly OPEN = 1;
  static made: FakeSocket[] = [];
  readyState = 0;
  sent: unknown[] = [];
  closed = false;
  onopen: () => void = () => undefined;
  onmessage: (message: { data: string }) => void = () => undefined;
  onclose: (event: { code: number }) => void = () => undefined;

  constructor() {
    FakeSocket.made.push(this);
  }
  send(text: string) {
    this.sent.push(JSON.parse(text));
  }
  close() {
    this.closed = true;
  }
  opens() {
    this.readyState = FakeSocket.OPEN;
    this.onopen();
  }
  says(envelope: object) {
    this.onmessage({ data: JSON.stringify(envelope) });
  }
}

async function freshLine() {
  vi.resetModules();
  return (await import("../src/frame/live")).line;
}

const last = () => FakeSocket.made[FakeSocket.made.length - 1] as FakeSocket;
const SIGN = { topic: "line" };

describe("the live line", () => {
  beforeEach(() => {
    vi.useFakeTimers();
    FakeSocket.made = [];
    vi.stubGlobal("WebSocket", FakeSocket);
    vi.stubGlobal("window", Object.assign(globalThis, { location: { protocol: "http:", host: "here" } }));
  });
  afterEach(() => {
    vi.useRealTimers();
    vi.unstubAllGlobals();
  });

  it("is lost two seconds after its last word, and begins anew", async () => {
    const line = await freshLine();
    line.start();
    expect(line.lineState()).toBe("connecting");
    last().opens();
    for (let i = 0; i < 5; i += 1) {
      vi.advanceTimersByTime(1000);
      last().says(SIGN);
    }
    expect(line.lineState()).toBe("open");
    vi.advanceTimersByTime(1750);
    expect(line.lineState()).toBe("open");
    const silent = last();
    vi.advanceTimersByTime(750);
    expect(line.lineState()).toBe("lost");
    expect(silent.closed).toBe(true);
    vi.advanceTimersByTime(250);
    expect(FakeSocket.made).toHaveLength(2);
    last().opens();
    expect(line.lineState()).toBe("open");
    // What the old one says afterwards, or that it is closed at last, is nothing to the new one.
    silent.onclose({ code: 1006 });
    expect(line.lineState()).toBe("open");
    line.stop();
  });

  it("is tried again a little later each time", async () => {
    const line = await freshLine();
    line.start();
    const waits = [];
    for (let i = 0; i < 7; i += 1) {
      last().onclose({ code: 1006 });
      const before = FakeSocket.made.length;
      let waited = 0;
      while (FakeSocket.made.length === before) {
        vi.advanceTimersByTime(250);
        waited += 250;
      }
      waits.push(waited);
    }
    expect(waits).toEqual([250, 500, 1000, 2000, 4000, 5000, 5000]);
    line.stop();
    last().onclose({ code: 1006 });
    vi.advanceTimersByTime(60_000);
    expect(FakeSocket.made).toHaveLength(8);
  });

  it("asks for what is watched when it is there again, once for several watchers", async () => {
    const line = await freshLine();
    line.start();
    const leaveFirst = line.watch("floor"),
      leaveSecond = line.watch("floor");
    last().opens();
    expect(last().sent).toEqual([{ watch: "floor" }]);
    leaveFirst();
    expect(last().sent).toHaveLength(1);
    leaveSecond();
    expect(last().sent[1]).toEqual({ leave: "floor" });
    line.stop();
  });

  it("takes changes in their order, and asks for the whole where one is missing", async () => {
    const line = await freshLine();
    line.start();
    line.watch("floor");
    const told = vi.fn();
    line.subscribe(told);
    last().opens();
    last().says({ topic: "floor", epoch: "e", version: 3, data: { queues: { a: 1, b: 2 } } });
    last().says({ topic: "floor", epoch: "e", version: 4, set: { queues: { a: 5 } }, gone: { queues: ["b"] } });
    expect(line.topic("floor").view).toEqual({ queues: { a: 5 } });
    last().says({ topic: "floor", epoch: "e", version: 6, set: { queues: { a: 9 } } });
    expect(line.topic("floor").view).toEqual({ queues: { a: 5 } });
    expect(last().sent).toContainEqual({ snapshot: "floor" });
    last().says({ topic: "floor", epoch: "e", version: 2, set: { queues: { a: 0 } } });
    expect(line.topic("floor").version).toBe(4);
    last().says({ topic: "floor", refused: "Your role does not allow this." });
    expect(line.topic("floor")).toMatchObject({ view: null, refused: "Your role does not allow this." });
    const count = told.mock.calls.length;
    last().says(SIGN);
    expect(told.mock.calls.length).toBe(count);
    line.stop();
  });

  it("goes by the site's clock, which may run faster", async () => {
    const line = await freshLine();
    vi.setSystemTime(1_000_000);
    line.start();
    last().opens();
    last().says({
      topic: "heartbeat",
      epoch: "e",
      version: 1,
      sent_ms: 1_000_500,
      data: { heartbeat: { wall_ms: 1_000_000, at_ms: 50_000, speed: 60, revision: 1 } },
    });
    expect(line.siteTime(1_000_000)).toBe(50_000 + 500 * 60);
    expect(line.siteTime(1_001_000)).toBe(50_000 + 1_500 * 60);
    expect(line.lastBeatMs).toBe(999_500);
    line.stop();
  });
});
