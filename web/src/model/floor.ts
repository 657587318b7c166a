import type { components } from "../api/generated";

type Schemas = components["schemas"];

/** The floor file, typed by the server's model. */
export type FloorDocument = Schemas["Floor"];
export type Vertex = number[];
export type Labelled = { id: string; [key: string]: unknown };
export type Slab = Schemas["Slab"];
export type Column = Schemas["Column"];
export type Wall = Schemas["Wall"];
export type Load = Partial<Omit<Schemas["AreaLoad"], "kind">> &
  Partial<Omit<Schemas["LineLoad"], "kind">> &
  Partial<Omit<Schemas["PointLoad"], "kind">> &
  Partial<Omit<Schemas["JointLoad"], "kind">> & { id: string; case: string; kind: "area" | "line" | "point" | "joint" };
export type Varies = Schemas["ThreePoints"] | Schemas["Directed"];
export type BuildUp = Schemas["BuildUp"];
export type Occupancy = Schemas["Occupancy"];
export type LoadCase = Schemas["LoadCase"];
export type Slice = Schemas["Slice"];
export type Combination = Schemas["Combination"];
export type Mat = Schemas["Mat"];
export type GridLine = Schemas["GridLine"];

/** The lists of the floor file that hold labelled objects. */
export type Kind = {
  [K in keyof FloorDocument]-?: NonNullable<FloorDocument[K]> extends { id: string }[] ? K : never;
}[keyof FloorDocument];

/** An object of the floor by its kind and id. */
export type Ref = { kind: Kind; id: string };

/** The loads of a floor, of whatever kind. */
export const loadsOf = (document: FloorDocument) => (document.loads ?? []) as unknown as Load[];

export function itemsOf(document: FloorDocument, kind: Kind): Labelled[] {
  return (document[kind] as unknown as Labelled[] | undefined) ?? [];
}

export function itemOf(document: FloorDocument, ref: Ref): Labelled | undefined {
  return itemsOf(document, ref.kind).find((i) => i.id === ref.id);
}
