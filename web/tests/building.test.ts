import { describe, expect, it, vi } from "vitest";
import { does, shifted, travel, useDeeds } from "../src/building/actions";
import {
  ago,
  boxOf,
  byLevel,
  type Card,
  kindOf,
  type Overview,
  stateOf,
  works,
  worstFirst,
} from "../src/building/overview";
import { verdictTable } from "../src/building/VerdictTable";

const row = (check: string, utilisation: number | null, status = "pass") =>
  ({ check, utilisation, status, where: "A1", combination: "U1", reason: "", said: "", at: [1, 2] }) as never;

const card = (more: object = {}): Card =>
  ({
    id: 1,
    name: "One",
    level: "Level 1",
    revision: 3,
    known: 3,
    run: { state: "fresh" },
    verdict: [],
    tendons: 0,
    ground: false,
    thicknesses_m: [0.26],
    picture: {
      slabs: [
        [
          [0, 0],
          [6, 0],
          [6, 4],
        ],
      ],
      thickenings: [],
      openings: [],
      walls: [],
      beams: [],
      columns: [],
    },
    ...more,
  }) as unknown as Card;

describe("a floor of the building", () => {
  it("works only if every check of its newest revision passes", () => {
    const verdict = [row("flexure", 0.9), row("punching", 0.99)];
    expect(works(card({ verdict }))).toBe("works");
    expect(works(card({ verdict, known: 2 }))).toBe("open");
    expect(works(card())).toBe("open");
    expect(works(card({ verdict: [...verdict, row("shear", 0.4, "uncovered")] }))).toBe("open");
    expect(works(card({ verdict: [...verdict, row("shear", 0.4, "uncovered"), row("fire", 1.2, "fail")] }))).toBe(
      "fails",
    );
  });
  it("tells first what fails, then what is not checked or covered, then by use", () => {
    const rows = [
      row("a", 0.9),
      row("b", null, "unchecked"),
      row("c", 1.1, "fail"),
      row("d", 0.2, "uncovered"),
      row("e", 3.0, "fail"),
      row("f", 0.95),
    ];
    expect(worstFirst(rows).map((r) => r.check)).toEqual(["e", "c", "b", "d", "f", "a"]);
  });
  it("says how it stands, by what is heard before what is kept", () => {
    const told = (state: string, share = 0) => ({ state, stage: "", share, revision: 3 });
    expect(stateOf(card(), undefined)).toBe("up to date");
    expect(stateOf(card({ known: 2 }), undefined)).toBe("out of date");
    expect(stateOf(card({ known: null, run: null }), undefined)).toBe("no results");
    expect(stateOf(card({ known: 2, run: { state: "cancelled" } }), undefined)).toBe("cancelled");
    expect(stateOf(card(), told("running", 0.624))).toBe("running 62 %");
    expect(stateOf(card({ run: { state: "queued" } }), undefined)).toBe("waits for its turn");
    expect(stateOf(card({ run: { state: "queued" } }), told("fresh", 1))).toBe("up to date");
    expect(stateOf(card({ picture: { slabs: [] }, known: null, run: null }), undefined)).toBe("empty");
  });
  it("is named by what it is and its thicknesses, in the units of the project", () => {
    expect(kindOf(card(), "SI")).toBe("flat, 260 mm");
    expect(kindOf(card({ thicknesses_m: [0.15, 0.26], tendons: 4 }), "SI")).toBe("post-tensioned, 150 mm to 260 mm");
    expect(kindOf(card({ thicknesses_m: [0.254], ground: true }), "US")).toBe("slab on the ground, 10.00 in");
  });
});

describe("a building", () => {
  const floors = [
    card({ id: 1, level: "L2", picture: { ...card().picture, slabs: [] } }),
    card({ id: 2, level: "L2" }),
    card({ id: 3, level: "L2" }),
    card({ id: 4, level: null }),
  ];
  const levels = [
    { id: "L1", elevation_m: 3 },
    { id: "L2", elevation_m: 6 },
  ];
  it("counts the first floor with a slab at each level", () => {
    const found = byLevel({ levels, floors } as unknown as Overview);
    expect(found.map((f) => [f.level, f.card?.id ?? null])).toEqual([
      ["L1", null],
      ["L2", 2],
    ]);
  });
  it("shows all floors on one scale", () => {
    const far = card({ picture: { ...card().picture, slabs: [], columns: [[-2, 9]] } });
    expect(boxOf([card(), far])).toEqual([-2, 0, 8, 9]);
    expect(boxOf([])).toEqual([0, 0, 1, 1]);
  });
  it("has one table of all verdicts, by status and check; rows of an earlier revision say so", () => {
    const overview = {
      floors: [
        card({ verdict: [row("flexure", 0.9), row("shear", 1.3, "fail")] }),
        card({ id: 2, name: "Two", known: 1, verdict: [row("shear", 0.4, "uncovered")] }),
      ],
    } as unknown as Overview;
    const opened: unknown[] = [];
    const lines = (asked: "all" | "open" | "fail", check = "") =>
      verdictTable(overview, asked, check, "SI", (c, r) => opened.push([c.id, r.check])).lines;
    expect(lines("all").map((l) => l.key)).toEqual(["1-shear", "1-flexure", "2-shear"]);
    expect(lines("open").map((l) => l.key)).toEqual(["1-shear", "2-shear"]);
    expect(lines("fail").map((l) => l.key)).toEqual(["1-shear"]);
    expect(lines("all", "flexure").map((l) => l.key)).toEqual(["1-flexure"]);
    expect(
      lines("all")[2]
        ?.cells.map((c) => c.text)
        .slice(3, 5),
    ).toEqual(["0.40 ", "out of date (not all covered)"]);
    lines("all")[0]?.does?.();
    expect(opened).toEqual([[1, "shear"]]);
  });
  it("tells the age of a revision", () => {
    const now = Date.parse("2026-03-01T12:00:00Z");
    expect(ago("2026-03-01T11:59:30", now)).toBe("just now");
    expect(ago("2026-03-01T11:01:00", now)).toBe("59 min ago");
    expect(ago("2026-02-28T13:00:00Z", now)).toBe("23 h ago");
    expect(ago("2026-02-26T12:00:00+00:00", now)).toBe("3 d ago");
  });
});

describe("what is done to floors", () => {
  it("is taken back and done again in order, and stays where that is refused", async () => {
    const log: string[] = [];
    const deed = (name: string, refusal = "") => ({
      line: name,
      undone: `not ${name}`,
      again: async () => {
        log.push(name);
        return "";
      },
      back: async () => {
        log.push(`-${name}`);
        return refusal;
      },
    });
    expect(await does(deed("a", "no"))).toBe("");
    await does(deed("b"));
    await travel(true);
    await travel(false);
    await travel(true);
    await travel(true);
    expect(log).toEqual(["a", "b", "-b", "b", "-b", "-a"]);
    // Its way back was refused: it still stands.
    expect(useDeeds.getState().done.map((d) => d.line)).toEqual(["a"]);
    expect(await does({ ...deed("c"), again: vi.fn(async () => "taken") })).toBe("taken");
    expect(useDeeds.getState().done.map((d) => d.line)).toEqual(["a"]);
    expect(useDeeds.getState().undone.map((d) => d.line)).toEqual(["b"]);
  });
  it("shifts a floor within its project", () => {
    const ids = [1, 2, 3];
    expect(shifted(ids, 1, 1)).toEqual([2, 1, 3]);
    expect(shifted(ids, 3, -2)).toEqual([3, 1, 2]);
    expect(shifted(ids, 3, 1)).toBe(ids);
    expect(shifted(ids, 9, 1)).toBe(ids);
  });
});
