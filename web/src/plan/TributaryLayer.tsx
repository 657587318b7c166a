import type { Results } from "../model/results";
import type { System } from "../units/quantities";
import { resultOf } from "../units/results";
import type { Wanted } from "./labels";
import type { View } from "./view";

type Part = Results["tributary"][number];

/** What of the floor is nearer to the picked column, wall or support than to any other. */
export function TributaryLayer(props: { part: Part }) {
  const rings = props.part.outlines.map((ring) => `M${ring.map((p) => p.join(" ")).join("L")}Z`);
  return <path className="tributary" d={rings.join("")} pointerEvents="none" />;
}

export function tributaryLabels(part: Part | null, view: View, system: System): Wanted[] {
  const ring = part?.outlines[0];
  if (!part || !ring) return [];
  // At its lowest corner, beside what it belongs to.
  const [x, y] = (ring as [number, number][]).reduce((a, b) => (b[1] < a[1] ? b : a));
  return [
    {
      x: view.x + view.k * x,
      y: view.y - view.k * y - 8,
      text: [
        `${resultOf(part.area_m2, "m²", system)} tributary`,
        ...Object.entries(part.loads_kN ?? {})
          .filter(([, force]) => Math.abs(force) >= 0.05)
          .map(([name, force]) => `${name} ${resultOf(force, "kN", system)}`),
      ].join(", "),
      priority: 56,
      callout: true,
    },
  ];
}
