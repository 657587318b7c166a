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
export type Beam = Labelled & { line: Vertex[]; width_m: number; depth_m: number; top_offset_m?: number };
export type Region = Labelled & { outline: Vertex[]; angle_deg?: number };
export type Support = Labelled & { kind: "line" | "point" | "area"; line?: Vertex[]; at?: Vertex; outline?: Vertex[] };
export type Load = Labelled & {
  case: string;
  kind: "area" | "line" | "point" | "joint";
  outline?: Vertex[] | null;
  slabs?: string[] | null;
  line?: Vertex[];
  at?: Vertex;
  support?: string;
  q_kPa?: number | null;
  varies?: Varies | null;
  build_up?: string | null;
  occupancy?: string | null;
  partition?: string | null;
  q_kN_m?: number[] | null;
  F_kN?: number;
  patch?: { b_m: number; d_m: number; angle_deg?: number } | null;
};
export type Varies =
  | { kind: "three_points"; points: Vertex[]; q_kPa: number[] }
  | { kind: "direction"; line: Vertex[]; q_kPa: number[] };
export type BuildUp = Labelled & { layers?: { material: string; thickness_mm: number }[]; extra_kPa?: number };
export type Occupancy = Labelled & {
  category?: string | null;
  q_kPa: number;
  partitions_kPa?: number;
  source?: string;
};
export type LoadCase = Labelled & {
  nature: string;
  pattern?: boolean;
  category?: string | null;
  reversible?: boolean;
  direction?: string | null;
  group?: string | null;
};
export type Slice = Labelled & { line: Vertex[]; quantity?: string; width_m?: number };
export type Combination = Labelled & {
  limit_state: string;
  factors: Record<string, number>;
  rule?: string | null;
  edited?: boolean;
};
export type Mat = Labelled & {
  face: string;
  direction: string;
  bar_mm: number;
  spacing_mm: number;
  outline?: Vertex[] | null;
};
export type GridLine = Labelled & { line: Vertex[] };

export type FloorDocument = {
  name: string;
  standard: string;
  concretes: Labelled[];
  rebars: Labelled[];
  slabs: Slab[];
  openings?: (Labelled & { outline: Vertex[] })[];
  thickenings?: (Labelled & { outline: Vertex[]; thickness_m: number; top_offset_m?: number })[];
  beams?: Beam[];
  one_way_areas?: Region[];
  stiffness_areas?: Region[];
  columns?: Column[];
  walls?: Wall[];
  supports?: Support[];
  load_cases?: LoadCase[];
  load_materials?: (Labelled & { unit_weight_kN_m3: number })[];
  build_ups?: BuildUp[];
  partitions?: (Labelled & { build_up: string; height_m: number })[];
  occupancies?: Occupancy[];
  panels?: (Labelled & { outline: Vertex[] })[];
  slices?: Slice[];
  arrangements?: "exact" | "standard";
  loads?: Load[];
  combinations?: Combination[];
  mats?: Mat[];
  grid?: GridLine[];
  probes?: (Labelled & { at: Vertex })[];
  mesh?: { size_m?: number | null; refinements?: { at: Vertex; size_m: number; radius_m: number }[] };
  [key: string]: unknown;
};

export type Kind =
  | "concretes"
  | "rebars"
  | "slabs"
  | "openings"
  | "thickenings"
  | "beams"
  | "one_way_areas"
  | "stiffness_areas"
  | "columns"
  | "walls"
  | "supports"
  | "loads"
  | "combinations"
  | "mats"
  | "panels"
  | "grid"
  | "probes"
  | "load_cases"
  | "slices"
  | "load_materials"
  | "build_ups"
  | "partitions"
  | "occupancies";

/** An object of the floor by its kind and id. */
export type Ref = { kind: Kind; id: string };

export const SINGULAR: Record<Kind, string> = {
  concretes: "Concrete",
  rebars: "Steel",
  slabs: "Slab",
  openings: "Opening",
  thickenings: "Thickening",
  beams: "Beam",
  one_way_areas: "One-way area",
  stiffness_areas: "Stiffness area",
  columns: "Column",
  walls: "Wall",
  supports: "Support",
  loads: "Load",
  combinations: "Combination",
  mats: "Mat",
  panels: "Panel",
  grid: "Grid line",
  probes: "Probe",
  load_cases: "Load case",
  slices: "Slice",
  load_materials: "Material of layers",
  build_ups: "Build-up",
  partitions: "Partition",
  occupancies: "Occupancy",
};

export const PLURAL: Record<Kind, string> = {
  concretes: "Concretes",
  rebars: "Steels",
  slabs: "Slabs",
  openings: "Openings",
  thickenings: "Thickenings",
  beams: "Beams",
  one_way_areas: "One-way areas",
  stiffness_areas: "Stiffness areas",
  columns: "Columns",
  walls: "Walls",
  supports: "Supports",
  loads: "Loads",
  combinations: "Combinations",
  mats: "Mats",
  panels: "Panels",
  grid: "Grid lines",
  probes: "Probes",
  load_cases: "Load cases",
  slices: "Slices",
  load_materials: "Materials of layers",
  build_ups: "Build-ups",
  partitions: "Partitions",
  occupancies: "Occupancies",
};

/** Kinds that stand on the plan, from the lowest to the topmost. */
export const ON_PLAN: Kind[] = [
  "slabs",
  "one_way_areas",
  "stiffness_areas",
  "thickenings",
  "mats",
  "openings",
  "beams",
  "supports",
  "loads",
  "walls",
  "columns",
  "panels",
  "slices",
  "probes",
];

export function itemsOf(document: FloorDocument, kind: Kind): Labelled[] {
  return (document[kind] as Labelled[] | undefined) ?? [];
}

export function itemOf(document: FloorDocument, ref: Ref): Labelled | undefined {
  return itemsOf(document, ref.kind).find((i) => i.id === ref.id);
}

/** What a list of objects is called: `Slab S1`, `3 columns`, `2 columns, 1 wall`. */
export function nameOf(refs: Ref[]): string {
  const [first] = refs;
  if (!first) return "nothing";
  if (refs.length === 1) return `${SINGULAR[first.kind]} ${first.id}`;
  const counts = new Map<Kind, number>();
  for (const r of refs) counts.set(r.kind, (counts.get(r.kind) ?? 0) + 1);
  return [...counts].map(([k, n]) => `${n} ${(n > 1 ? PLURAL : SINGULAR)[k].toLowerCase()}`).join(", ");
}
