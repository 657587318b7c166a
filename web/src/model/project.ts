import type { Labelled, Vertex } from "./floor";

/** What a project's floors share. The server's model is the source of truth. */
export type GridSet = Labelled &
  (
    | {
        kind: "parallel";
        origin?: Vertex;
        angle_deg?: number;
        spacings_m: number[];
        labels: string[];
        start_m: number;
        end_m: number;
      }
    | { kind: "single"; line: Vertex[] }
  );

export type ProjectDocument = {
  name: string;
  units?: "SI" | "US";
  standard?: string;
  concretes: Labelled[];
  rebars: Labelled[];
  base_m?: number;
  levels?: (Labelled & { height_m: number })[];
  grid_sets?: GridSet[];
  [key: string]: unknown;
};
