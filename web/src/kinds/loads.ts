import type { FloorDocument, Labelled } from "../model/floor";
import { loadPlace, loadText } from "../model/loads";
import { columnOutline, disc, path } from "../model/shapes";
import { ENDS, type KindFile, labelsOf, OUTLINE } from "./kind";

const even = (i: Labelled) => (i.kind === "area" && !i.varies) || i.kind === "line";
const joints = (d: FloorDocument) => [...labelsOf(d.columns), ...labelsOf(d.walls)];

export const loads: KindFile = {
  kind: "loads",
  singular: "Load",
  plural: "Loads",
  prefix: "L",
  layer: 8,
  drawn: "loads",
  copied: true,
  table: { step: "load" },
  names: {
    id: "Name",
    kind: "Kind",
    case: "Case",
    worth: "Value from",
    q_kPa: "Load",
    "varies.q_kPa.0": "at 1",
    "varies.q_kPa.1": "at 2",
    "varies.q_kPa.2": "at 3",
    "varies.points": "Points",
    "varies.line": "Varies along",
    "q_kN_m.0": "At the start",
    "q_kN_m.1": "At the end",
    F_kN: "Force",
    Mx_kNm: "Moment about x",
    My_kNm: "Moment about y",
    "patch.b_m": "Spread over",
    "patch.d_m": "by",
    "patch.angle_deg": "turned by",
    support: "At",
    slabs: "On slabs",
    "at.0": "x",
    "at.1": "y",
    line: "Line",
    outline: "Corners",
  },
  more: {
    kind: { fixed: true },
    case: { type: "choice", choices: (d) => labelsOf(d.load_cases) },
    // Of a load that takes its value from elsewhere these are empty: what is typed makes it one of its own.
    q_kPa: { when: (i) => i.kind === "area" && !i.varies },
    "q_kN_m.0": { when: (i) => i.kind === "line" },
    "q_kN_m.1": { when: (i) => i.kind === "line" },
    "patch.b_m": { empty: true, when: (i) => i.kind === "point" },
    support: { type: "choice", choices: joints },
    slabs: { type: "text" },
  },
  own: [
    {
      path: "worth",
      name: "Value from",
      type: "choice",
      covers: ["build_up", "occupancy", "partition", "varies.kind"],
      choicesFor: (d, i) => [
        "own",
        ...(i.kind === "area" ? [...labelsOf(d.build_ups), ...labelsOf(d.occupancies)] : labelsOf(d.partitions)),
      ],
      when: even,
    },
  ],
  tools: [
    { key: "area", name: "Area load", letter: "1", form: "outline", group: "load", asks: OUTLINE },
    { key: "line", name: "Line load", letter: "2", form: "two", group: "load", asks: ENDS },
    { key: "point", name: "Point load", letter: "3", form: "point", group: "load", asks: ["where it stands"] },
  ],
  // A load of the active case, or of the first one that its kind is usual in.
  start: ({ tool, document, activeCase }) => {
    const cases = document.load_cases ?? [];
    const wanted = tool === "area" ? "live" : "dead";
    const fit = cases.find((c) => c.id === activeCase) ?? cases.find((c) => c.nature === wanted) ?? cases[0];
    const common = { case: fit?.id ?? "" };
    if (tool === "area") return { ...common, kind: "area", q_kPa: 1 };
    if (tool === "line") return { ...common, kind: "line", q_kN_m: [1, 1] };
    return { ...common, kind: "point", F_kN: 10 };
  },
  // A line load is even where one end alone is given.
  typed: (i, typed) => {
    const [start, end] = [typed["q_kN_m.0"], typed["q_kN_m.1"]];
    const any = start ?? end;
    // A moment alone comes with no force, and a load at a joint with nothing of what lies on areas.
    if (i.kind === "point" && !("F_kN" in typed)) return { ...i, F_kN: 0 };
    if (i.kind === "joint") {
      const { q_kPa: _q, ...rest } = i;
      return { ...rest, F_kN: typed.F_kN ?? 0 };
    }
    return i.kind === "line" && any !== undefined ? { ...i, q_kN_m: [start ?? any, end ?? any] } : i;
  },
  // How great it is, is never made up.
  needs: (i, typed) => {
    const given = (path: string) => path in typed || "worth" in typed;
    if (i.kind === "line") return ["q_kN_m.0", "q_kN_m.1"].some(given) ? [] : ["q_kN_m.0"];
    const value = i.kind === "area" ? "q_kPa" : "F_kN";
    return given(value) || "Mx_kNm" in typed || "My_kNm" in typed ? [] : [value];
  },
  look: (i) => `${i.kind}-load`,
  shape: (i, document) => {
    if (i.patch)
      return path(
        columnOutline({
          ...i,
          shape: { kind: "rectangle", ...i.patch },
          angle_deg: (i.patch as { angle_deg?: number }).angle_deg,
        } as never),
      );
    if (i.kind !== "point" && i.kind !== "joint") return null;
    const at = loadPlace(i as never, document);
    return at ? path(disc(at, 0.3)) : null;
  },
  caption: (i, { document, step, loadsOf, system }) => {
    if (step !== "load" || (loadsOf && i.case !== loadsOf)) return null;
    const at = loadPlace(i as never, document);
    const text = loadText(i as never, document, system);
    return at && { at, text: loadsOf ? text : `${i.case} ${text}`, rank: 4, tone: "load" };
  },
};
