export type FieldHead = {
  quantity: string;
  of: string;
  kind:
    | "case"
    | "combination"
    | "least"
    | "greatest"
    | "with creep"
    | "loaded"
    | "history"
    | "bottom"
    | "top"
    | "required"
    | "shortfall";
  limit_state: string | null;
  least: number;
  greatest: number;
};

export type Fields = {
  xy: Float32Array;
  triangles: Uint32Array;
  /** Sides of the elements, two places each. */
  edges: Uint32Array;
  heads: FieldHead[];
  units: Record<string, string>;
  values: Float32Array[];
};

/** Reads the binary fields of a run: a JSON header, then little-endian float32 arrays. */
export function readFields(buffer: ArrayBuffer): Fields {
  const length = new DataView(buffer).getUint32(0, true);
  const header = JSON.parse(new TextDecoder().decode(new Uint8Array(buffer, 4, length)));
  let at = 4 + length;
  const floats = (count: number) => {
    const part = new Float32Array(buffer, at, count);
    at += 4 * count;
    return part;
  };
  const xy = floats(2 * header.places);
  const triangles = new Uint32Array(buffer, at, 3 * header.triangles);
  at += 12 * header.triangles;
  const sides = header.edges ?? 0;
  const edges = new Uint32Array(buffer, at, 2 * sides);
  at += 8 * sides;
  const values = header.fields.map(() => floats(header.places));
  return { xy, triangles, edges, heads: header.fields, units: header.units, values };
}
