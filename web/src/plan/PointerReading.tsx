import { create } from "zustand";
import { shown } from "../units/format";
import { measured, useUnits } from "../units/quantities";
import { digitsOf } from "../units/results";
import type { Lookup } from "./lookup";
import type { View } from "./view";

/** Where the pointer is on the plan's sheet, px. Kept apart, so that the plan is not drawn anew when it moves. */
export const usePointer = create<{ at: { x: number; y: number } | null }>(() => ({ at: null }));

/** What the pointer can tell: whole millimetres. */
const millimetres = (metres: number) => Math.round(metres * 1000) / 1000;

/** The place under the pointer while building, and the value of the field under it. */
export function PointerReading(props: {
  view: View;
  width: number;
  places: boolean;
  lookup: Lookup | null;
  values: Float32Array | null;
  unit: string;
  /** Width of the legend's bands. */
  step: number | undefined;
}) {
  const { view, width, places, lookup, values, unit, step } = props;
  const at = usePointer((p) => p.at);
  const system = useUnits((u) => u.system);
  if (!at) return null;
  const [x, y] = [(at.x - view.x) / view.k, (view.y - at.y) / view.k];
  const under = lookup && values ? lookup.at(values, x, y) : null;
  return (
    <>
      {places && (
        <output className="place-reading mono">
          {measured(millimetres(x), "length", system)}, {measured(millimetres(y), "length", system)}
        </output>
      )}
      {under !== null && (
        <output className="reading" style={{ left: Math.min(at.x + 14, width - 150), top: at.y + 16 }}>
          {shown(under, "", digitsOf(unit, step))} {unit}
        </output>
      )}
    </>
  );
}
