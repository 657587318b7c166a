import type { FloorDocument, Kind, Labelled, Ref } from "../model/floor";
import type { StepName } from "../model/step";
import { beams } from "./beams";
import { build_ups } from "./build_ups";
import { columns } from "./columns";
import { combinations } from "./combinations";
import { concretes } from "./concretes";
import { designed_bars } from "./designed_bars";
import { grid } from "./grid";
import type { KindFile, Tool } from "./kind";
import { load_cases } from "./load_cases";
import { load_materials } from "./load_materials";
import { loads } from "./loads";
import { mats } from "./mats";
import { notes } from "./notes";
import { occupancies } from "./occupancies";
import { one_way_areas } from "./one_way_areas";
import { openings } from "./openings";
import { panels } from "./panels";
import { partitions } from "./partitions";
import { probes } from "./probes";
import { rebars } from "./rebars";
import { slabs } from "./slabs";
import { slices } from "./slices";
import { stiffness_areas } from "./stiffness_areas";
import { strands } from "./strands";
import { strip_axes } from "./strip_axes";
import { strip_boundaries } from "./strip_boundaries";
import { strip_stations } from "./strip_stations";
import { supports } from "./supports";
import { tendons } from "./tendons";
import { thickenings } from "./thickenings";
import { walls } from "./walls";

/** Every kind of object, in the order of the drawing tools. */
export const KINDS = {
  slabs,
  openings,
  thickenings,
  beams,
  columns,
  walls,
  supports,
  one_way_areas,
  stiffness_areas,
  mats,
  designed_bars,
  strip_axes,
  strip_boundaries,
  strip_stations,
  tendons,
  strands,
  loads,
  slices,
  panels,
  probes,
  notes,
  grid,
  load_cases,
  combinations,
  concretes,
  rebars,
  build_ups,
  partitions,
  occupancies,
  load_materials,
} satisfies Record<Kind, KindFile>;

export const kindOf = (kind: Kind): KindFile => KINDS[kind];
export const isKind = (list: string): list is Kind => list in KINDS;
export const singular = (kind: Kind) => kindOf(kind).singular;
export const plural = (kind: Kind) => kindOf(kind).plural;

const ALL = Object.values(KINDS) as KindFile[];

/** Kinds that stand on the plan, from the lowest to the topmost. */
export const ON_PLAN: Kind[] = ALL.filter((k) => k.layer !== undefined)
  .sort((a, b) => (a.layer ?? 0) - (b.layer ?? 0))
  .map((k) => k.kind);

/** Kinds on which a click asks for the value at that place where results are read. */
export const SURFACES: Kind[] = ALL.filter((k) => k.surface).map((k) => k.kind);

/** Kinds whose objects can be copied to other floors. */
export const COPIED: Kind[] = ALL.filter((k) => k.copied).map((k) => k.kind);

/** Tables of objects at a step: list and name. */
export const tablesAt = (step: StepName): [Kind, string][] =>
  ALL.flatMap((k) => (k.table?.step === step ? [[k.kind, k.table.name ?? k.plural] as [Kind, string]] : []));

/** Kinds that belong to the project. */
export const SHARED: Kind[] = ALL.filter((k) => k.shared).map((k) => k.kind);

/** Tools that draw objects. */
export const DRAWING: Tool[] = ALL.flatMap((k) => (k.tools ?? []).map((t) => ({ ...t, kind: k.kind })));

/** What a list of objects is called: `Slab S1`, `3 columns`, `2 columns, 1 wall`. */
export function nameOf(refs: Ref[]): string {
  const [first] = refs;
  if (!first) return "nothing";
  if (refs.length === 1) return `${singular(first.kind)} ${first.id}`;
  const counts = new Map<Kind, number>();
  for (const r of refs) counts.set(r.kind, (counts.get(r.kind) ?? 0) + 1);
  return [...counts].map(([k, n]) => `${n} ${(n > 1 ? plural : singular)(k).toLowerCase()}`).join(", ");
}

/** What a new object of a tool begins with, without a label. */
export function startOf(kind: Kind, given: Parameters<NonNullable<KindFile["start"]>>[0]): Labelled {
  return { id: "", ...kindOf(kind).start?.(given) };
}

/** Kinds of which a floor has any. */
export const present = (document: FloorDocument): Kind[] => ALL.map((k) => k.kind).filter((k) => document[k]?.length);
