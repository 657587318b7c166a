import { describe, expect, it } from "vitest";
import { type Difference, differenceText } from "../src/kinds/differences";
import { told, toldLines } from "../src/kinds/refusals";
import type { FloorDocument } from "../src/model/floor";

const document = {
  slabs: [
    {
      id: "S1",
      outline: [
        [0, 0],
        [6, 0],
        [6, 6],
      ],
      thickness_m: 0.25,
    },
  ],
  columns: [{ id: "C8" }, { id: "C9", shape: { kind: "rectangle", b_m: 25, d_m: 0.4 }, below: { height_m: 3 } }],
  loads: [{ id: "L1", kind: "area", case: "Q", q_kPa: 3 }],
  levels: [{ id: "Roof", height_m: -1 }],
} as unknown as FloorDocument;
const at = (path: string, sentence: string, system: "SI" | "US" = "SI") => told({ path, sentence }, document, system);

describe("what is refused", () => {
  it("is told by the field's name, the object's label and the unit that is shown", () => {
    const most = "must be at most 20, not 25";
    expect(at("columns[1].shape.b_m", most)).toBe("Width b of column C9 must be at most 20,000 mm, not 25,000 mm");
    expect(at("columns[1].shape.b_m", most, "US")).toBe(
      "Width b of column C9 must be at most 787.40 in, not 984.25 in",
    );
    expect(at("slabs[0].thickness_m", "must be greater than 0, not -0.2")).toBe(
      "Thickness of slab S1 must be greater than 0 mm, not −200 mm",
    );
    // What stands behind a decimal sign is one figure.
    expect(at("loads[0].q_kPa", "must be at most 1000, not 1000.12345")).toBe(
      "Load of load L1 must be at most 1,000.00 kPa, not 1,000.12345 kPa",
    );
    expect(at("loads[0].q_kPa", "must be a number, not 'x'")).toBe("Load of load L1 must be a number, not 'x'");
  });
  it("is told of corners, whole objects, the floor's own values and the project's lists", () => {
    expect(at("slabs[0].outline[2]", "repeats the corner before; remove it")).toBe(
      "Corner 3 of slab S1 repeats the corner before; remove it",
    );
    expect(at("columns[0]", "stands on another")).toBe("Column C8 stands on another");
    expect(at("mesh.size_m", "must be at least 0.05, not 0.01")).toBe(
      "Mesh size must be at least 0.050 m, not 0.010 m",
    );
    expect(at("levels[0].height_m", "must be greater than 0, not -1")).toBe(
      "Height of level Roof must be greater than 0.000 m, not −1.000 m",
    );
    expect(at("the project", "must be a JSON object")).toBe("the project must be a JSON object");
  });
  it("keeps labels and other numbers as they are", () => {
    expect(at("loads[0].case", "is 'Q2', which is no load case; choose one of G, D")).toBe(
      "Case of load L1 is 'Q2', which is no load case; choose one of G, D",
    );
    expect(toldLines("slabs[0].thickness_m: must be at most 5, not 6\nthe mesh: cannot be made", document, "SI")).toBe(
      "Thickness of slab S1 must be at most 5,000 mm, not 6,000 mm; the mesh cannot be made",
    );
  });
});

describe("what two people changed", () => {
  const document = {
    columns: [{ id: "C9", at: [0, 0], shape: { kind: "rectangle", b_m: 0.5, d_m: 0.4 }, concrete: "C30" }],
    slabs: [],
  } as unknown as FloorDocument;
  const d = (more: object) =>
    ({ list: "columns", id: "C9", kind: "changed", path: "", before: null, after: null, ...more }) as Difference;
  const text = (more: object, system: "SI" | "US" = "SI") => differenceText(d(more), document, system);
  it("is told by the field's name, what it is of and the project's unit", () => {
    expect(text({ path: "shape.b_m", before: 0.4, after: 0.5 })).toBe("Width b of column C9: 400 mm to 500 mm");
    expect(text({ path: "shape.b_m", before: 0.4064, after: 0.508 }, "US")).toBe(
      "Width b of column C9: 16.00 in to 20.00 in",
    );
    expect(text({ path: "at.0", before: 1, after: null })).toBe("x of column C9: 1.000 m to none");
    expect(text({ kind: "added" })).toBe("Column C9 added");
    expect(text({ list: "mesh", id: "", path: "size_m", before: 0.5, after: 0.4 })).toBe(
      "Mesh size: 0.500 m to 0.400 m",
    );
    expect(text({ list: "slabs", id: "S1", path: "outline.2.0", before: 0, after: 1 })).toBe(
      "Corner 3 of slab S1 moved",
    );
    expect(text({ list: "design_bars", id: "", before: false, after: true })).toBe("Design bars: no to yes");
  });
});
