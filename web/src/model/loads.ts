import { measured, type System } from "../units/quantities";
import type { BuildUp, FloorDocument, Load, Ref, Vertex } from "./floor";

/** Weight of a build-up, kPa. */
export function weightOf(build: BuildUp, document: FloorDocument): number {
  const weight = (id: string) => document.load_materials?.find((m) => m.id === id)?.unit_weight_kN_m3 ?? 0;
  return (build.layers ?? []).reduce((t, l) => t + (weight(l.material) * l.thickness_mm) / 1000, build.extra_kPa ?? 0);
}

/** Layers of which one has moved to another place. */
export function movedLayer<L>(layers: readonly L[], from: number, to: number): L[] {
  const out = [...layers];
  const [moved] = out.splice(from, 1);
  if (moved !== undefined) out.splice(to, 0, moved);
  return out;
}

/** The even value of an area load (kPa) or line load (kN/m) that takes it from elsewhere; null for one of its own. */
export function worthOf(load: Load, document: FloorDocument): number | null {
  if (load.build_up) {
    const build = document.build_ups?.find((b) => b.id === load.build_up);
    return build ? weightOf(build, document) : null;
  }
  if (load.occupancy) {
    const use = document.occupancies?.find((o) => o.id === load.occupancy);
    return use ? use.q_kPa + (use.partitions_kPa ?? 0) : null;
  }
  if (load.partition) {
    const partition = document.partitions?.find((p) => p.id === load.partition);
    const build = document.build_ups?.find((b) => b.id === partition?.build_up);
    return partition && build ? partition.height_m * weightOf(build, document) : null;
  }
  return null;
}

/** The value of a load as the plan and tables tell it. */
export function loadText(load: Load, document: FloorDocument, system: System): string {
  const worth = worthOf(load, document);
  if (load.kind === "area") {
    if (load.varies) {
      const [least, most] = [Math.min(...load.varies.q_kPa), Math.max(...load.varies.q_kPa)];
      return `${measured(least, "pressure", system).replace(/ \S+$/, "")} to ${measured(most, "pressure", system)}`;
    }
    return measured(worth ?? load.q_kPa ?? 0, "pressure", system);
  }
  if (load.kind === "line") {
    const [a = 0, b = 0] = worth === null ? (load.q_kN_m ?? []) : [worth, worth];
    const end = measured(b, "lineload", system);
    return a === b ? end : `${measured(a, "lineload", system).replace(/ \S+$/, "")} to ${end}`;
  }
  const parts = [
    load.F_kN ? measured(load.F_kN, "force", system) : "",
    load.Mx_kNm ? `Mx ${measured(load.Mx_kNm as number, "moment", system)}` : "",
    load.My_kNm ? `My ${measured(load.My_kNm as number, "moment", system)}` : "",
  ].filter(Boolean);
  return parts.join(", ") || measured(0, "force", system);
}

/** Where a load stands on the plan: the middle of its outline or line, its point, its column or wall; null: everywhere. */
export function loadPlace(load: Load, document: FloorDocument): [number, number] | null {
  const middle = (list: Vertex[]): [number, number] => [
    list.reduce((t, p) => t + (p[0] ?? 0), 0) / list.length,
    list.reduce((t, p) => t + (p[1] ?? 0), 0) / list.length,
  ];
  if (load.at) return [load.at[0] ?? 0, load.at[1] ?? 0];
  if (load.line) return middle(load.line);
  if (load.outline) return middle(load.outline);
  if (load.kind === "joint") {
    const column = document.columns?.find((c) => c.id === load.support);
    if (column) return [column.at[0] ?? 0, column.at[1] ?? 0];
    const wall = document.walls?.find((w) => w.id === load.support);
    return wall ? middle(wall.line) : null;
  }
  const slab = load.slabs?.length === 1 ? document.slabs.find((s) => s.id === load.slabs?.[0]) : undefined;
  return slab ? middle(slab.outline) : null;
}

/** Where a load lies, apart from what it is worth. */
const groundOf = (l: Load) => {
  const { outline, line, at } = l as { outline?: unknown; line?: unknown; at?: unknown };
  const place = outline ?? line ?? at;
  return place ? JSON.stringify([l.kind, place]) : null;
};

/** Loads of other cases that lie on the same outline, line or point as some of the picked ones, and are not picked themselves. */
export function loadsAlong(document: FloorDocument, refs: Ref[]): Ref[] {
  const picked = new Set(refs.filter((r) => r.kind === "loads").map((r) => r.id));
  const loads = document.loads ?? [];
  const own = loads.filter((l) => picked.has(l.id));
  const places = new Set(own.map(groundOf).filter((p) => p !== null));
  return loads
    .filter((l) => !picked.has(l.id) && places.has(groundOf(l) ?? ""))
    .map((l) => ({ kind: "loads" as const, id: l.id }));
}
