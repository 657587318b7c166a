import { useEffect, useMemo, useState } from "react";
import { fetchOwn } from "../api/entry";
import type { Fields } from "../api/fields";
import type { Chosen } from "../readings/readings";
import { useSession } from "../session";

/** Quantities that have a direction of their own. */
export const DIRECTED = ["m1", "m2", "v"];

/** Crosses along principal moments, or arrows along the shear, one to each stretch of `cell` m. */
export function DirectionLayer(props: { fields: Fields; quantity: string; chosen: Chosen; cell: number }) {
  const { fields, quantity, chosen, cell } = props;
  const run = useSession((s) => s.shownRun);
  const [angles, setAngles] = useState<Float32Array | null>(null);
  const { of, kind, arrangement } = chosen;
  useEffect(() => {
    let alive = true;
    const query = new URLSearchParams({ quantity, of, kind, ...(arrangement ? { arrangement } : {}) });
    void fetchOwn(`/api/runs/${run}/directions?${query}`)
      .then((r) => (r.ok ? r.arrayBuffer() : null))
      .then((b) => alive && setAngles(b && new Float32Array(b)));
    return () => {
      alive = false;
    };
  }, [run, quantity, of, kind, arrangement]);
  const path = useMemo(() => {
    const { xy } = fields;
    if (!angles || angles.length !== xy.length / 2) return "";
    // One place to each cell, the one nearest to its middle: so they stand evenly whatever the mesh is like.
    const nearest = new Map<string, [number, number]>();
    for (let i = 0; i < angles.length; i++) {
      const [u, v] = [(xy[2 * i] as number) / cell, (xy[2 * i + 1] as number) / cell];
      const [p, q] = [Math.round(u), Math.round(v)];
      const far = Math.hypot(u - p, v - q);
      const held = nearest.get(`${p} ${q}`);
      if (!held || far < held[1]) nearest.set(`${p} ${q}`, [i, far]);
    }
    const parts: string[] = [];
    for (const [i] of nearest.values()) {
      const [x, y, a] = [xy[2 * i] as number, xy[2 * i + 1] as number, angles[i] as number];
      const [c, s] = [0.36 * cell * Math.cos(a), 0.36 * cell * Math.sin(a)];
      const at = (u: number, v: number) => `${(x + u * c - v * s).toFixed(3)} ${(y + u * s + v * c).toFixed(3)}`;
      parts.push(`M${at(-1, 0)}L${at(1, 0)}`);
      // The shorter arm of a cross is the lesser principal moment; an arrow's head is where the load goes, against the
      // shear: that is positive where the moment grows, so away from a support.
      parts.push(
        quantity === "v" ? `M${at(-0.5, 0.35)}L${at(-1, 0)}L${at(-0.5, -0.35)}` : `M${at(0, -0.45)}L${at(0, 0.45)}`,
      );
    }
    return parts.join("");
  }, [angles, fields, cell, quantity]);
  return <path d={path} className="directions" data-testid="directions" />;
}
