import { DRAWING, nameOf, singular } from "../../kinds";
import { added, align, copied, mapped, mirror, moved, shift, turn } from "../../kinds/edits";
import type { Tool } from "../../kinds/kind";
import type { FloorDocument, Kind, Labelled, Ref, Vertex } from "../../model/floor";
import { type Point, vertex, withCantilever } from "../../model/outlines";
import { profileOver, STRAND, spreadOver, withStrand } from "../../model/tendons";
import type { Edit } from "../../session";
import { useSpreading } from "./spreading";

export type Shape = "corners" | "rectangle" | "circle" | "bay";

/** Tools that draw objects, then those that change and measure. */
export const TOOLS: Tool[] = [
  ...DRAWING,
  {
    key: "cantilever",
    name: "Cantilever",
    letter: "L",
    form: "three",
    group: "change",
    asks: ["where the stretch of edge begins", "where it ends", "how far it stands out"],
  },
  { key: "move", name: "Move", letter: "M", form: "two", group: "change", selected: true, asks: ["from", "to"] },
  { key: "copy", name: "Copy", letter: "K", form: "two", group: "change", selected: true, asks: ["from", "to"] },
  {
    key: "array",
    name: "Array",
    letter: "A",
    form: "two",
    group: "change",
    selected: true,
    asks: ["from", "to the next one", "to the next one across"],
  },
  {
    key: "rotate",
    name: "Turn",
    letter: "R",
    form: "three",
    group: "change",
    selected: true,
    asks: ["centre", "from direction", "to direction"],
  },
  {
    key: "mirror",
    name: "Mirror",
    letter: "X",
    form: "two",
    group: "change",
    selected: true,
    asks: ["one point of the axis", "another one"],
  },
  {
    key: "align",
    name: "Align",
    letter: "N",
    form: "four",
    group: "change",
    selected: true,
    asks: ["a point of it", "where that goes", "a second point of it", "the direction to that"],
  },
  {
    key: "cut",
    name: "Cut",
    letter: "T",
    form: "two",
    group: "change",
    selected: true,
    asks: ["one point of the cut", "another one"],
  },
  { key: "measure", name: "Measure", letter: "Z", form: "two", group: "measure", asks: ["from", "to"] },
  { key: "comment", name: "Comment", letter: "", form: "point", group: "review", asks: ["where it is said"] },
  { key: "section", name: "Section", letter: "V", form: "two", group: "measure", asks: ["from", "to"] },
];

export const toolOf = (key: string): Tool | undefined => TOOLS.find((t) => t.key === key);

/** How many points a tool takes; null: as many as one likes. An array with copies across has a second direction. */
export function pointsOf(tool: Tool, shape: Shape, across = 0): number | null {
  if (tool.key === "array" && across > 0) return 3;
  if (tool.form === "outline") return shape === "corners" ? null : shape === "bay" ? 1 : 2;
  return { path: null, point: 1, two: 2, three: 3, four: 4 }[tool.form];
}

/** A tendon over the supports that its line passes, with a strand of its own where the floor has none. */
function drawnTendon(rest: Omit<Labelled, "id">, points: Vertex[], document: FloorDocument): Omit<Labelled, "id"> {
  const strand = (document.strands ?? []).find((s) => s.id === rest.strand) ?? STRAND;
  return {
    ...rest,
    strand: strand.id,
    line: points,
    profile: profileOver(document, points, strand.duct_mm ?? 16),
  };
}

/** The edit that draws an object of a tool's kind. */
export function drawn(tool: Tool, template: Labelled, points: Vertex[], document: FloorDocument): Edit | null {
  const kind = tool.kind as Kind;
  const { id: _id, ...rest } = template;
  let items: Omit<Labelled, "id">[];
  if (tool.key === "spread") items = spreadOver(withStrand(document), points, useSpreading.getState());
  else if (tool.form === "outline") items = [{ ...rest, outline: points }];
  else if (tool.form === "point") {
    const [x = 0, y = 0] = points[0] ?? [];
    items = [{ ...rest, at: vertex(x, y) }];
  } else if (kind === "walls")
    // Each stretch is a wall of its own, so that strips and reactions tell them apart.
    items = points.slice(1).map((p, i) => {
      const a = points[i] as Vertex;
      return { ...rest, line: [a, vertex(p[0] ?? 0, p[1] ?? 0)] };
    });
  else if (kind === "tendons") items = [drawnTendon(rest, points, document)];
  else items = [{ ...rest, line: points }];
  if (!items.length) return null;
  const { refs } = added(document, kind, items);
  return {
    line: `${nameOf(refs)} drawn`,
    change: (d) => added(kind === "tendons" ? withStrand(d) : d, kind, items).document,
    picks: refs,
  };
}

/** The ways of an array's copies: along the first step, and along the second one across it where there is one. */
export function steps(from: Point, to: Point, over: Point | undefined, counts: { times: number; across: number }) {
  const rows = over ? counts.across : 0;
  const [dx, dy] = [to[0] - from[0], to[1] - from[1]];
  const [ex, ey] = over ? [over[0] - from[0], over[1] - from[1]] : [0, 0];
  const out = [];
  for (let j = 0; j <= rows; j++)
    for (let i = 0; i <= counts.times; i++) if (i || j) out.push(shift(i * dx + j * ex, i * dy + j * ey));
  return out;
}

/** The edit of a tool that changes what is selected; a string says why there is none. */
export function changed(
  tool: Tool,
  refs: Ref[],
  p: Point[],
  counts: { times: number; across: number },
  document: FloorDocument,
): Edit | string {
  const [a, b, c, d] = p as [Point, Point, Point, Point];
  const name = nameOf(refs);
  switch (tool.key) {
    case "move": {
      const m = shift(b[0] - a[0], b[1] - a[1]);
      return { line: `${name} moved`, change: (doc) => mapped(doc, refs, (i) => moved(i, m)), picks: refs };
    }
    case "copy":
    case "array": {
      const motions = tool.key === "copy" ? [shift(b[0] - a[0], b[1] - a[1])] : steps(a, b, c, counts);
      const made = copied(document, refs, motions);
      const what = motions.length > 1 ? `copied ${motions.length} times` : "copied";
      return { line: `${name} ${what}`, change: (doc) => copied(doc, refs, motions).document, picks: made.refs };
    }
    case "rotate": {
      const angle = Math.atan2(c[1] - a[1], c[0] - a[0]) - Math.atan2(b[1] - a[1], b[0] - a[0]);
      const m = turn(a, angle);
      const degrees = Number(((angle * 180) / Math.PI).toFixed(3));
      return {
        line: `${name} turned by ${degrees}°`,
        change: (doc) => mapped(doc, refs, (i) => moved(i, m)),
        picks: refs,
      };
    }
    case "mirror": {
      const m = mirror(a, b);
      const made = copied(document, refs, [m]);
      return { line: `${name} mirrored`, change: (doc) => copied(doc, refs, [m]).document, picks: made.refs };
    }
    case "align": {
      const m = align(a, b, c, d);
      return { line: `${name} aligned`, change: (doc) => mapped(doc, refs, (i) => moved(i, m)), picks: refs };
    }
    case "cantilever": {
      const way = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
      const out = Math.abs(((c[0] - a[0]) * (b[1] - a[1]) - (c[1] - a[1]) * (b[0] - a[0])) / way);
      for (const slab of document.slabs) {
        const made = withCantilever(slab.outline, a, b, out);
        if (typeof made !== "string")
          return {
            line: `${singular("slabs")} ${slab.id}: cantilever of ${Number(out.toFixed(3))} m`,
            change: (doc) => mapped(doc, [{ kind: "slabs", id: slab.id }], (i) => ({ ...i, outline: made })),
            picks: [{ kind: "slabs", id: slab.id }],
          };
      }
      return "The two points do not lie on one straight edge of a slab.";
    }
    default:
      return "";
  }
}
