import type { FloorDocument, Kind, Labelled } from "../model/floor";
import type { Property } from "../model/property";
import type { StepName } from "../model/step";
import type { System } from "../units/quantities";

/** Heights of the storeys below and above the floor, m. */
export type Storeys = { below: number; above: number | null; level: boolean };

export type Form = "outline" | "path" | "point" | "two" | "three" | "four";

/** One way of pointing something out on the plan. */
export type Tool = {
  key: string;
  name: string;
  letter: string;
  form: Form;
  kind?: Kind;
  group: "draw" | "tendons" | "change" | "measure" | "load" | "read" | "arrange" | "review";
  /** What to point at next, by the number of points so far. */
  asks: string[];
  /** Needs something selected. */
  selected?: boolean;
};

/** What a new object of a kind begins with. */
export type Start = { tool: string; document: FloorDocument; storeys: Storeys; activeCase: string | null };

/** What the plan shows where a caption is to stand. */
export type Seen = {
  document: FloorDocument;
  step: StepName;
  /** Pixels per metre. */
  scale: number;
  zones: boolean;
  /** The load case that is shown alone. */
  loadsOf: string | null;
  system: System;
};

/**
 * What is written on the plan for an object: at its middle unless a place is given; the higher rank stays where two would meet, and
 * what must be there stands further off instead.
 */
export type Caption = {
  text: string;
  rank: number;
  at?: [number, number] | null;
  tone?: "id" | "load";
  must?: boolean;
};

/** Everything that the interface knows of one kind of object. */
export type KindFile = {
  kind: Kind;
  singular: string;
  plural: string;
  /** Labels of new objects are this and a number. */
  prefix: string;
  /** Names of values, in the order of the ledger's columns; the schema's other values follow under names of their keys. */
  names: Record<string, string>;
  /** What the schema does not say of a value: choices among other objects, when it is there, how wide it is. */
  more?: Record<string, Partial<Property>>;
  /** Values that are edited in a form of their own, each with the schema's paths that it stands for. */
  own?: (Property & { covers: string[] })[];
  /** Height in the plan's stack, where it stands on the plan. */
  layer?: number;
  /** Drawn only while the plan shows this (loads, mats and panels of their own), not at all (`none`), or always. */
  drawn?: "loads" | "mats" | "panels" | "tendons" | "none";
  /** Part of the floor's surface: a click on it reads the results there. */
  surface?: boolean;
  /** The step whose tables hold it, and what the tab says if not its plural. */
  table?: { step: StepName; name?: string };
  /** Goes along when objects are copied to other floors. */
  copied?: boolean;
  /** Belongs to the project and is shared by its floors. */
  shared?: boolean;
  /** Lists that name objects of this kind, with the key by which they do. */
  namedBy?: [Kind, string][];
  tools?: Omit<Tool, "kind">[];
  start?: (given: Start) => Record<string, unknown>;
  /** What a row typed into its table must be given beyond what the schema asks for: the tool's own value would be made up. */
  needs?: (item: Labelled, typed: Record<string, unknown>) => string[];
  /** The row as it is where values that go together were typed in part. */
  typed?: (item: Labelled, typed: Record<string, unknown>, document: FloorDocument) => Labelled;
  /** Class of its shape on the plan. */
  look?: (item: Labelled) => string;
  /** Its shape on the plan, where that is not its outline, line or place. */
  shape?: (item: Labelled, document: FloorDocument) => string | null;
  /** What is drawn over its shape: a path and its class. */
  mark?: (item: Labelled) => { d: string; className: string };
  caption?: (item: Labelled, seen: Seen) => Caption | null;
};

/** Steps at which the plan names slabs and openings. */
export const NAMED_AT: StepName[] = ["setout", "build", "arrange", "load"];
/** Pixels per metre below which a bay is smaller than the label of its column. */
export const LEGIBLE = 4;
export const OUTLINE = ["first corner", "next corner"];
export const PATH = ["first point", "next point"];
export const ENDS = ["one end", "the other end"];

export const labelsOf = (list: Labelled[] | undefined) => (list ?? []).map((i) => i.id);
export const concretes = { type: "choice", choices: (d: FloorDocument) => labelsOf(d.concretes) } as const;
export const STOREYS: Record<string, string> = {
  "below.height_m": "Height below",
  "below.by_level": "Below by the level",
  "below.far_end": "Height below, far end",
  "above.height_m": "Height above",
  "above.by_level": "Above by the level",
  "above.far_end": "Height above, far end",
};
/** A storey is made by typing its height, and taken away by clearing it. */
export const storeyHeights: Record<string, Partial<Property>> = {
  "below.height_m": { empty: true, when: undefined },
  "above.height_m": { empty: true, when: undefined },
};
export const storeysOf = ({ storeys }: Start) => ({
  below: { height_m: storeys.below, far_end: "fixed", by_level: storeys.level },
  above: storeys.above ? { height_m: storeys.above, far_end: "fixed", by_level: storeys.level } : null,
});
