import { describe, expect, it } from "vitest";
import { pathOf, strandsOf, thickness } from "../src/areas/flows/trail/strands";
import { nudged, painted, read, words } from "../src/areas/hours/spans";
import { figure, momentWithin, rowName } from "../src/areas/reports/figures";
import { fitting } from "../src/areas/shared/columns";
import { clock, dateIn, dayOf, daysBetween, moment, percent, wallClock, zonedIso } from "../src/frame/format";
import { applied } from "../src/frame/live";

const LONDON = "Europe/London";

describe("times and numbers", () => {
  it("writes them as everywhere", () => {
    expect([clock(252_400), clock(3_852_000), clock(-5)]).toEqual(["4:12", "1:04:12", "0:00"]);
    expect([percent(0.8125), percent(0.8, 0), percent(null)]).toEqual(["81.3 %", "80 %", "–"]);
    expect([dayOf("2026-07-14"), dayOf("2026-07-14", true)]).toEqual(["Tue 14 Jul", "Tue 14 Jul 2026"]);
    expect(moment("2026-07-14T08:52:00Z", LONDON)).toBe("Tue 14 Jul, 09:52");
    expect([figure(null, "count"), figure(1234, "count"), figure(61_400, "ms")]).toEqual(["–", "1,234", "1:01"]);
  });

  it("goes by a zone's clock, also over its changes", () => {
    expect(dateIn("2026-07-14T23:30:00Z", LONDON)).toBe("2026-07-15");
    for (const local of ["2026-03-29T00:30", "2026-03-29T03:30", "2026-10-25T00:30", "2026-10-25T03:30"])
      expect(wallClock(zonedIso(local, LONDON), LONDON)).toBe(local);
  });

  it("names rows by their length", () => {
    const begin = Date.parse("2026-11-30T09:00:00Z"),
      hour = 3_600_000;
    expect(rowName(begin, begin + hour, "60", LONDON, true)).toBe("09:00");
    expect(rowName(begin, begin + 24 * hour, "day", LONDON)).toBe("Mon 30 Nov");
    expect(rowName(begin, begin + 7 * 24 * hour, "week", LONDON)).toBe("30 Nov – 7 Dec");
    expect(daysBetween(begin, begin + hour, LONDON)).toBe("Mon 30 Nov 2026");
    expect(momentWithin(begin, begin, begin + 48 * hour, LONDON)).toBe("Mon 30 Nov, 09:00");
  });
});

describe("spans of a day", () => {
  it("are read as they are written, over midnight too", () => {
    const text = "08:00–13:00, 22:00–01:00";
    expect(words(read(text) ?? [])).toBe(text);
    expect(read("22:00-01:00")).toEqual([{ start: 1320, end: 1500 }]);
    expect([read(""), read("soon"), read("8-10")]).toEqual([[], null, null]);
  });

  it("become one where they touch", () => {
    expect(
      painted(
        [
          { start: 0, end: 60 },
          { start: 120, end: 180 },
        ],
        { start: 60, end: 120 },
      ),
    ).toEqual([{ start: 0, end: 180 }]);
    expect(painted([{ start: 0, end: 60 }], { start: 90, end: 120 })).toHaveLength(2);
  });

  it("keep a step at least and a day at the most", () => {
    expect(nudged({ start: 0, end: 60 }, "both", -1)).toEqual({ start: 0, end: 60 });
    expect(nudged({ start: 0, end: 15 }, "end", -1)).toEqual({ start: 0, end: 15 });
    expect(nudged({ start: 600, end: 660 }, "start", 1)).toEqual({ start: 615, end: 660 });
  });
});

describe("a bundle of strands", () => {
  it("is as wide as callers take it, and none is too thin to be seen", () => {
    const many = strandsOf({ person: 0.9, ended: 0.1 }, 1),
      few = strandsOf({ person: 0.9, ended: 0.1 }, 0.01);
    expect(thickness(many)).toBeGreaterThan(thickness(few));
    expect(Math.min(...few.map((strand) => strand.width))).toBeGreaterThanOrEqual(2.2);
    expect(many.map((strand) => strand.fate)).toEqual(["ended", "person"]);
    const [upper, lower] = many;
    expect((lower?.offset ?? 0) - (upper?.offset ?? 0)).toBeCloseTo(
      ((upper?.width ?? 0) + (lower?.width ?? 0)) / 2 + 1,
    );
  });

  it("bends where its way does", () => {
    expect(
      pathOf(
        [
          { x: 0, y: 0 },
          { x: 100, y: 0 },
        ],
        2,
      ),
    ).toBe("M0 2 L100 2");
    expect(
      pathOf(
        [
          { x: 0, y: 0 },
          { x: 50, y: 0 },
          { x: 50, y: 80 },
          { x: 100, y: 80 },
        ],
        0,
      ).match(/Q/g),
    ).toHaveLength(2);
  });
});

describe("columns", () => {
  it("stand side by side as far as there is room, the first in any case", () => {
    const columns = [{ minWidth: 100 }, { width: 80 }, { width: 300 }, { width: 50 }];
    expect(fitting(columns, 1000)).toEqual(columns);
    expect(fitting(columns, 240)).toEqual([{ minWidth: 100 }, { width: 80 }, { width: 50 }]);
    expect(fitting(columns, 10)).toEqual([{ minWidth: 100 }]);
  });
});

describe("live changes", () => {
  it("touch what they name and leave the rest the same objects", () => {
    const before = { queues: { a: 1, b: 2 }, agents: { x: {} } };
    const after = applied(before, { queues: { b: 3, c: 4 } }, { queues: ["a"] });
    expect(after).toEqual({ queues: { b: 3, c: 4 }, agents: { x: {} } });
    expect(after.agents).toBe(before.agents);
    expect(before.queues).toEqual({ a: 1, b: 2 });
  });
});
