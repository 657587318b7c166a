import { useCallback, useMemo } from "react";
import { useDisplay } from "../display/display";
import type { Slice } from "../model/floor";
import type { Bar, Results, Strip, Zone } from "../model/results";
import type { Diagram, ReactionTable } from "../readings/readings";
import { usePicked } from "../session";
import { markOf, SIGN, shown, use } from "../units/format";
import { useUnits } from "../units/quantities";
import { digitsOf } from "../units/results";
import { barLabels } from "./BarLayer";
import { CORNERS } from "./extent";
import { frameLabels } from "./FrameLayer";
import type { Shown } from "./field";
import { type Placed, place, type Wanted } from "./labels";
import { modelLabels, solidOf } from "./planLabels";
import { reactionLabels } from "./reactionLabels";
import { sliceLabels } from "./SliceLayer";
import { stripLabels } from "./StripLayer";
import { tributaryLabels } from "./TributaryLayer";
import type { View } from "./view";
import { ribbonLabels } from "./ZoneLayer";

/** Everything that the plan labels, placed so that no label lies on another. */
export function usePlanLabels(of: {
  field: Shown;
  zones: Zone[];
  zoneChosen: string | null;
  /** The zone whose row is open. */
  zoneOpen: Zone | null;
  strips: Strip[];
  bars: Bar[];
  barChosen: string | null;
  frames: Results["frames"];
  tributary: Results["tributary"][number] | null;
  slices: Slice[];
  diagrams: Record<string, Diagram | string | undefined>;
  reactions: ReactionTable | null;
  settled: View;
  size: { width: number; height: number };
  editing: boolean;
}): Placed[] {
  const {
    field,
    zones,
    zoneChosen,
    zoneOpen,
    strips,
    bars,
    barChosen,
    frames,
    tributary,
    slices,
    diagrams,
    reactions,
    settled,
    size,
    editing,
  } = of;
  const { extremes, unit } = field;
  const band = field.scale?.step;
  const { document, results, step } = usePicked("document", "results", "step");
  const system = useUnits((u) => u.system);
  const display = useDisplay();
  const toScreen = useCallback(
    (x: number, y: number) => ({ x: settled.x + settled.k * x, y: settled.y - settled.k * y }),
    [settled],
  );
  return useMemo(() => {
    const wanted: Wanted[] = [];
    if (extremes.length && display.quantity !== "none")
      for (const e of extremes)
        wanted.push({
          ...toScreen(e.x, e.y),
          text: `${shown(e.v, "", digitsOf(unit, band))} ${unit}`,
          priority: 50,
          callout: true,
        });
    if (display.zones)
      for (const z of zones) {
        const mark = markOf(z.utilisation);
        wanted.push({
          ...toScreen(...z.at),
          text: `${z.id} ${use(z.utilisation)} ${SIGN[mark]}`,
          tone: mark,
          priority: 10 + z.utilisation,
          callout: mark === "fail" || zoneChosen === z.id,
        });
      }
    if (display.zones && zoneOpen) wanted.push(...ribbonLabels(zoneOpen, toScreen, system));
    if (display.strips !== "off") wanted.push(...stripLabels(strips, settled, system));
    if (bars.length) wanted.push(...barLabels(bars, barChosen, settled, system));
    wanted.push(...frameLabels(frames, settled, system));
    wanted.push(...tributaryLabels(tributary, settled, system));
    if (slices.length) wanted.push(...sliceLabels(slices, diagrams, toScreen, system));
    if (reactions && results) wanted.push(...reactionLabels(reactions, results, toScreen, system));
    if (display.labels && document)
      wanted.push(...modelLabels(document, results, step, display, settled.k, toScreen, system));
    const solid = solidOf(document, display.hidden, settled.k, toScreen);
    return place(wanted, size.width, size.height, CORNERS(size.width, size.height, editing), solid);
  }, [
    extremes,
    band,
    display,
    zones,
    zoneChosen,
    zoneOpen,
    strips,
    bars,
    barChosen,
    frames,
    tributary,
    settled,
    document,
    results,
    step,
    system,
    size,
    toScreen,
    unit,
    editing,
    slices,
    diagrams,
    reactions,
  ]);
}
