/** The parts of the floor file that the interface reads. The server's model is the source of truth. */
export type Vertex = number[];
export type Labelled = { id: string; [key: string]: unknown };
export type Slab = Labelled & { outline: Vertex[]; thickness_m: number; top_offset_m?: number };
export type Storey = { height_m: number; far_end?: string } | null;
export type Column = Labelled & {
  at: Vertex;
  shape: { kind: "rectangle"; b_m: number; d_m: number } | { kind: "circle"; diameter_m: number };
  angle_deg?: number;
  below?: Storey;
  above?: Storey;
};
export type Wall = Labelled & { line: Vertex[]; thickness_m: number };
export type Support = Labelled & { kind: "line" | "point" | "area"; line?: Vertex[]; at?: Vertex; outline?: Vertex[] };
export type Load = Labelled & {
  case: string;
  kind: "area" | "line" | "point";
  outline?: Vertex[] | null;
  line?: Vertex[];
  at?: Vertex;
  q_kPa?: number;
  q_kN_m?: number[];
  F_kN?: number;
};
export type Combination = Labelled & { limit_state: string; factors: Record<string, number> };
export type Mat = Labelled & {
  face: string;
  direction: string;
  bar_mm: number;
  spacing_mm: number;
  outline?: Vertex[] | null;
};

export type FloorDocument = {
  name: string;
  standard: string;
  concretes: Labelled[];
  rebars: Labelled[];
  slabs: Slab[];
  openings?: (Labelled & { outline: Vertex[] })[];
  thickenings?: (Labelled & { outline: Vertex[]; thickness_m: number })[];
  columns?: Column[];
  walls?: Wall[];
  supports?: Support[];
  load_cases?: (Labelled & { nature: string; pattern?: boolean })[];
  loads?: Load[];
  combinations?: Combination[];
  mats?: Mat[];
  grid?: (Labelled & { line: Vertex[] })[];
  probes?: (Labelled & { at: Vertex })[];
  [key: string]: unknown;
};

export type Kind =
  | "concretes"
  | "rebars"
  | "slabs"
  | "openings"
  | "thickenings"
  | "columns"
  | "walls"
  | "supports"
  | "loads"
  | "combinations"
  | "mats"
  | "grid"
  | "probes"
  | "load_cases";

export const SINGULAR: Record<Kind, string> = {
  concretes: "Concrete",
  rebars: "Steel",
  slabs: "Slab",
  openings: "Opening",
  thickenings: "Thickening",
  columns: "Column",
  walls: "Wall",
  supports: "Support",
  loads: "Load",
  combinations: "Combination",
  mats: "Mat",
  grid: "Grid line",
  probes: "Probe",
  load_cases: "Load case",
};

export function itemsOf(document: FloorDocument, kind: Kind): Labelled[] {
  return (document[kind] as Labelled[] | undefined) ?? [];
}

/** A copy of the floor with one value of one object set; the path is dotted, numbers index lists. */
export function withValue(
  document: FloorDocument,
  kind: Kind,
  id: string,
  path: string,
  value: unknown,
): FloorDocument {
  const items = itemsOf(document, kind).map((item) => {
    if (item.id !== id) return item;
    const copy = structuredClone(item);
    const keys = path.split(".");
    const last = keys.pop() as string;
    let here: Record<string, unknown> = copy;
    for (const key of keys) here = here[key] as Record<string, unknown>;
    here[last] = value;
    return copy;
  });
  return { ...document, [kind]: items };
}
