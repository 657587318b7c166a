import { describe, expect, it } from "vitest";
import type { FloorDocument, Labelled } from "../src/model/floor";
import { atLevel } from "../src/model/levels";
import { BASE, levelInserted } from "../src/model/project";
import { withValue } from "../src/model/property";

describe("heights by the level", () => {
  const column = (below: object) => ({ id: "C1", at: [0, 0], below, above: null });
  const level = { id: "L2", below_m: 3.4, above_m: null };
  const of = (below: object) => ({ level, columns: [column(below)] }) as unknown as FloorDocument;
  it("are those of the level where they follow it, and stay where they were typed", () => {
    expect(atLevel(of({ height_m: 3, by_level: true })).columns?.[0]?.below?.height_m).toBe(3.4);
    const typed = of({ height_m: 3, by_level: false });
    expect(atLevel(typed)).toBe(typed);
    const there = of({ height_m: 3.4, by_level: true });
    expect(atLevel(there)).toBe(there);
  });
  it("become heights of their own when they are typed", () => {
    const item = column({ height_m: 3.4, by_level: true }) as unknown as Labelled;
    expect(withValue(item, "below.height_m", 4).below).toMatchObject({ height_m: 4, by_level: false });
  });
});

describe("a new level", () => {
  const levels = [
    { id: "1", height_m: 4 },
    { id: "2", height_m: 3 },
  ];
  const ids = (above: string | null) => levelInserted(levels, { id: "new", height_m: 2.5 }, above).map((l) => l.id);
  it("stands on top, above another one, or on the base", () => {
    expect(ids(null)).toEqual(["1", "2", "new"]);
    expect(ids("1")).toEqual(["1", "new", "2"]);
    expect(ids(BASE)).toEqual(["new", "1", "2"]);
  });
});
