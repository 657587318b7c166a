import type { components } from "../api/generated";

type Schemas = components["schemas"];
type Pair = [number, number];
/** A model of the schema with some keys told more narrowly: pairs of numbers, where the schema's generator knows lists. */
type With<T, N> = Omit<T, keyof N> & N;

export type Row = With<Schemas["CheckRow"], { at: Pair | null }>;
export type Trace = Schemas["TraceState"];
export type TraceStep = Schemas["TraceStep"];
export type TraceValue = Schemas["TraceValue"];
export type Zone = With<Schemas["ZoneState"], { at: Pair; segments: [Pair, Pair][]; loaded: Pair[] }>;
export type Strip = With<
  Schemas["StripState"],
  { axis: Pair[]; outline: Pair[][]; ends: [Pair, Pair][]; M_kNm: [number[], number[]] }
>;
export type Bar = With<Schemas["BarState"], { outline: Pair[] }>;
export type BeamSpan = With<Schemas["BeamState"], { at: Pair[]; M_kNm: [number[], number[]] }>;
export type Sag = With<Schemas["SagState"], { ends: [Pair, Pair]; at: Pair; band_mm: Pair | null }>;
export type Uncovered = With<Schemas["UncoveredState"], { outline: Pair[] | null }>;
export type Told = With<Schemas["MessageState"], { at: Pair | null }>;
export type LoadedPanel = Schemas["LoadedPanel"];

/** The results document, typed by the server's model. */
export type Results = With<
  Schemas["ResultsDocument"],
  {
    verdict: Row[];
    rows: Row[];
    zones: Zone[];
    strips: Strip[];
    bars: Bar[];
    beams: BeamSpan[];
    sags: Sag[];
    uncovered: Uncovered[];
    messages: Told[];
    supports: { id: string; at: Pair }[];
    panels: { id: string; outline: Pair[] }[];
  }
>;

/** Labels of the panels that are loaded. */
export const panelsOf = (panels: LoadedPanel[]) => new Set(panels.map((p) => p.panel ?? "all"));

/** The row of a key, wherever a run has it. */
export const rowOf = (results: Results | null, key: string): Row | undefined =>
  results?.rows.find((r) => r.id.key === key) ?? results?.verdict.find((r) => r.id.key === key);
