import type { FloorDocument, Kind, Labelled } from "../model/floor";

/** A number of an object that the inspector edits: where it is, how it is called, and its unit as shown. */
export type Field = {
  path: string;
  name: string;
  unit: string;
  /** Shown value over stored value. */
  factor: number;
  digits: number;
};

const metre = (path: string, name: string, digits = 3): Field => ({ path, name, unit: "m", factor: 1, digits });
const milli = (path: string, name: string): Field => ({ path, name, unit: "mm", factor: 1000, digits: 0 });
const plain = (path: string, name: string, unit: string, digits: number): Field => ({
  path,
  name,
  unit,
  factor: 1,
  digits,
});

/** The editable numbers of an object. */
export function fieldsOf(kind: Kind, item: Labelled, document: FloorDocument): Field[] {
  switch (kind) {
    case "slabs":
      return [
        milli("thickness_m", "Thickness"),
        ...("top_offset_m" in item ? [milli("top_offset_m", "Top offset")] : []),
        plain("cover_top_mm", "Cover, top", "mm", 0),
        plain("cover_bottom_mm", "Cover, bottom", "mm", 0),
      ].filter((f) => f.path in item);
    case "thickenings":
      return [
        milli("thickness_m", "Thickness"),
        ...("top_offset_m" in item ? [milli("top_offset_m", "Top offset")] : []),
      ];
    case "columns": {
      const shape = item.shape as { kind: string };
      const size =
        shape.kind === "circle"
          ? [milli("shape.diameter_m", "Diameter")]
          : [milli("shape.b_m", "Width b"), milli("shape.d_m", "Depth d")];
      return [
        ...size,
        metre("at.0", "x"),
        metre("at.1", "y"),
        ...(item.below ? [metre("below.height_m", "Height below", 2)] : []),
        ...(item.above ? [metre("above.height_m", "Height above", 2)] : []),
        ...("angle_deg" in item ? [plain("angle_deg", "Turned by", "°", 1)] : []),
      ];
    }
    case "walls":
      return [milli("thickness_m", "Thickness"), ...(item.below ? [metre("below.height_m", "Height below", 2)] : [])];
    case "supports":
      return item.kind === "area" ? [plain("modulus_kN_m3", "Bedding modulus", "kN/m³", 0)] : [];
    case "loads":
      if (item.kind === "area") return [plain("q_kPa", "Load", "kPa", 2)];
      if (item.kind === "line")
        return [plain("q_kN_m.0", "At the start", "kN/m", 2), plain("q_kN_m.1", "At the end", "kN/m", 2)];
      return [
        plain("F_kN", "Force", "kN", 1),
        ...("Mx_kNm" in item ? [plain("Mx_kNm", "Moment about x", "kNm", 1)] : []),
        ...("My_kNm" in item ? [plain("My_kNm", "Moment about y", "kNm", 1)] : []),
      ];
    case "mats":
      return [plain("bar_mm", "Bar", "mm", 0), plain("spacing_mm", "Spacing", "mm", 0)];
    case "combinations":
      return (document.load_cases ?? [])
        .filter((c) => c.id in (item.factors as Record<string, number>) && !c.id.includes("."))
        .map((c) => plain(`factors.${c.id}`, `Factor of ${c.id}, ${c.nature.replace("_", " ")}`, "", 2));
    case "concretes":
      return [
        plain("strength_MPa", "Strength", "MPa", 0),
        ...("unit_weight_kN_m3" in item ? [plain("unit_weight_kN_m3", "Unit weight", "kN/m³", 1)] : []),
        ...("creep_coefficient" in item ? [plain("creep_coefficient", "Creep coefficient φ", "", 2)] : []),
      ];
    case "rebars":
      return [plain("yield_MPa", "Yield strength", "MPa", 0)];
    default:
      return [];
  }
}

export function valueAt(item: Labelled, path: string): unknown {
  return path.split(".").reduce<unknown>((here, key) => (here as Record<string, unknown> | undefined)?.[key], item);
}
