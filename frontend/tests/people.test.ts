import { describe, expect, it } from "vitest";
import { chosenOf } from "../src/areas/shared/chosen";
import {
  byHours,
  byQuarters,
  changedOf,
  onWorkingDays,
  QUARTERS,
  withDay,
  withHour,
} from "../src/areas/standins/people";

const day = (rate: number) => Array<number>(QUARTERS).fill(rate);

describe("when stand-ins call", () => {
  it("tells a day by hours, and changes one of them", () => {
    const rising = day(0).map((_, quarter) => quarter);
    expect(byHours(rising).slice(0, 3)).toEqual([1.5, 5.5, 9.5]);
    const changed = withHour(rising, 1, 40);
    expect(changed.slice(3, 9)).toEqual([3, 40, 40, 40, 40, 8]);
    expect(byHours(changed)[1]).toBe(40);
    expect(rising[4]).toBe(4);
  });

  it("takes one day for every working day, and leaves the weekend", () => {
    const week = [0, 1, 2, 3, 4, 5, 6].map(day);
    expect(onWorkingDays(week, 2).map((one) => one[0])).toEqual([2, 2, 2, 2, 2, 5, 6]);
    expect(withDay(week, 6, day(9)).map((one) => one[0])).toEqual([0, 1, 2, 3, 4, 5, 9]);
  });

  it("counts the moments of a day by quarter-hours, the 25th hour with the last", () => {
    const minute = 60_000;
    const counts = byQuarters([0, 14.99 * minute, 15 * minute, 24 * 60 * minute - 1, 24.5 * 60 * minute]);
    expect([counts.length, counts[0], counts[1], counts[QUARTERS - 1]]).toEqual([96, 2, 1, 2]);
    expect(counts.reduce((sum, count) => sum + count, 0)).toBe(5);
  });

  it("says only what was changed", () => {
    const before = { held: 0.1, moments: [1, 2] };
    expect(changedOf(before, { ...before, held: 0.2 })).toEqual({ held: 0.2 });
    expect(changedOf(before, { ...before })).toEqual({});
    expect(changedOf(before, { ...before, moments: [] })).toEqual({ moments: [] });
  });
});

describe("what was chosen", () => {
  it("is a list, however it comes", () => {
    expect([chosenOf(["a", "b"]), chosenOf(""), chosenOf(undefined)]).toEqual([["a", "b"], [], []]);
  });
});
