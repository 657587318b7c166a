import { useMemo } from "react";
import { useShallow } from "zustand/react/shallow";
import { chosenReading, useDisplay } from "../display/display";
import type { Chosen } from "../display/reading";
import { useReadings } from "./readings";

/** What of the run is read: the reader's choice, or what is most telling. */
export function useChosen(): Chosen | null {
  const catalogue = useReadings((r) => r.catalogue);
  const asked = useDisplay(
    useShallow((d) => ({ quantity: d.quantity, of: d.of, kind: d.kind, arrangement: d.arrangement })),
  );
  return useMemo(() => chosenReading(catalogue, asked), [catalogue, asked]);
}
