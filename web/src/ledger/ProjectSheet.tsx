import { useState } from "react";
import { plural } from "../kinds";
import { propertiesOfKind } from "../kinds/properties";
import type { FloorDocument, Labelled } from "../model/floor";
import { type GridSet, labelsFrom, type ProjectDocument, spacingsOf, spacingsText, withShared } from "../model/project";
import { type Property, withValue } from "../model/property";
import { usePicked, useSession } from "../session";
import { useUnits } from "../units/quantities";
import { type CellChange, Sheet } from "./Sheet";

export type ProjectList =
  | "levels"
  | "grid_sets"
  | "concretes"
  | "rebars"
  | "load_materials"
  | "build_ups"
  | "partitions"
  | "occupancies";

const figure = (
  path: string,
  name: string,
  quantity: Property["quantity"],
  more: Partial<Property> = {},
): Property => ({
  path,
  name,
  type: "number",
  quantity,
  ...more,
});

const LEVELS: Property[] = [
  { path: "id", name: "Level", type: "text", required: true },
  figure("height_m", "Height from below", "length", { required: true }),
  // Elevations follow from the heights; floors choose their level themselves.
  figure("elevation_m", "Elevation", "length", { fixed: true }),
  { path: "floors", name: "Floors", type: "text", fixed: true },
];
const parallel = (item: Labelled) => item.kind === "parallel";
const GRID: Property[] = [
  { path: "id", name: "Set", type: "text" },
  { path: "labels", name: "Labels", type: "text", when: parallel },
  { path: "spacings", name: "Spacings", type: "text", wide: true, when: parallel, fallback: "", required: true },
  figure("angle_deg", "At", "angle", { fallback: 0, when: parallel }),
  figure("origin.0", "First line x", "length", { when: parallel }),
  figure("origin.1", "y", "length", { when: parallel }),
  figure("start_m", "From", "length", { when: parallel }),
  figure("end_m", "To", "length", { when: parallel }),
  { path: "line", name: "Line", type: "points", when: (i) => i.kind === "single" },
];

/** A grid set as its row shows it: spacings and labels as text. */
function shownSet(set: GridSet, system: "SI" | "US"): Labelled {
  if (set.kind === "single") return set;
  return {
    ...set,
    origin: set.origin ?? [0, 0],
    labels: set.labels.join(" "),
    spacings: spacingsText(set.spacings_m, system),
  };
}

function changedSet(set: GridSet, path: string, value: unknown, system: "SI" | "US"): GridSet | string {
  if (set.kind === "single" || !["labels", "spacings"].includes(path)) {
    const whole = set.kind === "parallel" ? { ...set, origin: set.origin ?? [0, 0] } : set;
    return withValue(whole, path, value) as GridSet;
  }
  const text = String(value ?? "").trim();
  if (path === "labels") {
    const labels = text.split(/[\s,;]+/).filter(Boolean);
    // One label is enough: the others count on from it.
    return {
      ...set,
      labels: labels.length === 1 ? labelsFrom(labels[0] as string, set.spacings_m.length + 1) : labels,
    };
  }
  const spacings = spacingsOf(text, system);
  if (!spacings) return `“${text}” is not a list of spacings; write them like 3@7.2, 6.6`;
  const first = set.labels[0] ?? "A";
  const count = spacings.length + 1;
  const labels =
    set.labels.length >= count
      ? set.labels.slice(0, count)
      : [
          ...set.labels,
          ...labelsFrom(set.labels[set.labels.length - 1] ?? first, count - set.labels.length + 1).slice(1),
        ];
  return { ...set, spacings_m: spacings, labels };
}

/** A set of parallel lines from a new row: as many labels as lines, as long as its own breadth where no ends are given. */
function madeSet(values: Record<string, unknown>, project: ProjectDocument, system: "SI" | "US"): GridSet | string {
  const gaps = spacingsOf(String(values.spacings ?? ""), system);
  if (!gaps?.length) return `“${values.spacings}” is not a list of spacings; write them like 3@7.2, 6.6`;
  const first = (project.grid_sets ?? []).length ? "1" : "A";
  const labels = labelsFrom(first, gaps.length + 1);
  const breadth = gaps.reduce((a, b) => a + b, 0);
  let made: GridSet | string = {
    id: String(values.id ?? `${labels[0]}–${labels[labels.length - 1]}`),
    kind: "parallel",
    angle_deg: 0,
    origin: [0, 0],
    spacings_m: gaps,
    labels,
    start_m: -1.5,
    end_m: Number((breadth + 1.5).toFixed(6)),
  };
  for (const [path, value] of Object.entries(values))
    if (path !== "id" && path !== "spacings" && typeof made !== "string") made = changedSet(made, path, value, system);
  return made;
}

/** Levels, grid sets and materials of the project as tables. */
export function ProjectSheet(props: { list: ProjectList; document: FloorDocument }) {
  const { list, document } = props;
  const { project, projects, editProject, chosen, choose } = usePicked(
    "project",
    "projects",
    "editProject",
    "chosen",
    "choose",
  );
  const system = useUnits((u) => u.system);
  // Levels and grid sets stand on no plan: their selection is the table's own.
  const [own, setOwn] = useState<string[]>([]);
  if (!project) return null;
  const shared = project.document as unknown as ProjectDocument;
  const floors = projects.find((p) => p.id === project.id)?.floors ?? [];
  const material = list !== "levels" && list !== "grid_sets";
  const rows: Labelled[] =
    list === "levels"
      ? (shared.levels ?? []).map((l) => ({
          ...l,
          elevation_m: project.storeys.find((s) => s.id === l.id)?.elevation_m,
          floors: floors
            .filter((f) => f.level === l.id)
            .map((f) => f.name)
            .join(", "),
        }))
      : list === "grid_sets"
        ? (shared.grid_sets ?? []).map((s) => shownSet(s, system))
        : ((shared[list] as Labelled[] | undefined) ?? []);
  const properties = list === "levels" ? LEVELS : list === "grid_sets" ? GRID : propertiesOfKind(list);

  const fresh = (values: Record<string, unknown>): { item: Labelled; missing: Property[] } => {
    let item: Labelled = list === "grid_sets" ? { id: "", kind: "parallel", origin: [0, 0], angle_deg: 0 } : { id: "" };
    for (const [path, value] of Object.entries(values)) item = withValue(item, path, value);
    return { item, missing: properties.filter((p) => p.required && !item[p.path]) };
  };
  const save = async (changes: CellChange[], made: Record<string, unknown>[], line: string): Promise<boolean> => {
    let problem = "";
    const done = await editProject({
      line,
      change: (p) => {
        let out = p;
        for (const c of [...changes.filter((x) => x.path !== "id"), ...changes.filter((x) => x.path === "id")]) {
          if (material) out = withShared(out, list, [{ kind: list, id: c.id }], c.path, c.value);
          else if (list === "levels")
            out = {
              ...out,
              levels: (out.levels ?? []).map((l) => (l.id === c.id ? { ...l, [c.path]: c.value as never } : l)),
            };
          else
            out = {
              ...out,
              grid_sets: (out.grid_sets ?? []).map((s) => {
                if (s.id !== c.id) return s;
                const next = changedSet(s, c.path, c.value, system);
                if (typeof next !== "string") return next;
                problem = next;
                return s;
              }),
            };
        }
        for (const values of made) {
          const item = list === "grid_sets" ? madeSet(values, out, system) : fresh(values).item;
          if (typeof item === "string") problem = item;
          else out = { ...out, [list]: [...((out[list] as Labelled[] | undefined) ?? []), item] };
        }
        return out;
      },
    });
    if (problem) useSession.getState().say(problem, true);
    return done && !problem;
  };
  return (
    <Sheet
      key={list}
      list={list}
      title={list === "levels" ? "Levels" : list === "grid_sets" ? "Grid sets" : plural(list)}
      rows={rows}
      properties={properties}
      document={document}
      chosen={material ? chosen.filter((r) => r.kind === list).map((r) => r.id) : own}
      choose={(ids) => (material ? choose(ids.map((id) => ({ kind: list, id }))) : setOwn(ids))}
      save={save}
      fresh={fresh}
      remove={(ids) =>
        void editProject({
          line: `${ids.join(", ")} deleted`,
          change: (p) => ({ ...p, [list]: ((p[list] as Labelled[]) ?? []).filter((i) => !ids.includes(i.id)) }),
        })
      }
      empty={
        list === "levels"
          ? "No levels yet. Add one in the inspector."
          : list === "grid_sets"
            ? "No grid yet. Add a set of parallel lines in the inspector, or draw single lines on the plan (G)."
            : `No ${list === "occupancies" ? "occupancies" : plural(list).toLowerCase()} yet. Add one in the inspector.`
      }
    />
  );
}
