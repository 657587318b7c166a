import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { api, problemsOf } from "../api/client";
import { usePicked } from "../session";
import { useDialogs } from "../session/dialogs";
import { useUnits } from "../units/quantities";
import { type Carried, carriedTable, choices, type Shown } from "./carriedTable";
import { ReadTable } from "./ReadTable";

/** Loads of the whole building carried down to the ground; what stands on a floor can be put on it as loads. */
export function CarriedView() {
  const { floor, project, run, say, reload } = usePicked("floor", "project", "run", "say", "reload");
  const system = useUnits((u) => u.system);
  const openDialog = useDialogs((d) => d.open);
  const [without, setWithout] = useState<number[]>([]);
  const [shown, setShown] = useState<Shown>("cases");
  const { data, error, refetch } = useQuery({
    placeholderData: (last: Carried | undefined) => last,
    queryKey: ["carried", without, project?.id, project?.revision, floor?.id, run?.run, run?.state],
    enabled: Boolean(project),
    queryFn: async () => {
      const answer = await api.GET("/api/projects/{project_id}/carried-down", {
        params: { path: { project_id: project?.id ?? 0 }, query: { without } },
      });
      if (!answer.data) throw new Error(problemsOf(answer.error)[0]?.sentence ?? "");
      return answer.data;
    },
  });
  const table = useMemo(
    () => (data ? carriedTable(data, floor?.id, system, shown) : null),
    [data, floor?.id, system, shown],
  );
  if (error) return <p className="error">{error.message}</p>;
  if (!data || !table) return <p className="empty">Carrying loads down.</p>;
  const open = data.planted.filter((p) => !p.there);
  const floors = [...new Map(open.map((p) => [p.on, p.on_name]))];
  const standing = (on: number) => {
    const mine = open.filter((p) => p.on === on);
    return `${mine.map((p) => p.id).join(", ")} of ${[...new Set(mine.map((p) => p.floor_name))].join(", ")}`;
  };
  const toggled = (id: number) => setWithout((w) => (w.includes(id) ? w.filter((k) => k !== id) : [...w, id]));
  const plant = async (on: number, name: string) => {
    const answer = await api.POST("/api/floors/{floor_id}/planted", {
      params: { path: { floor_id: on } },
      body: { without },
    });
    if (!answer.data) {
      say(problemsOf(answer.error)[0]?.sentence ?? "", true);
      return;
    }
    say(`What stands on ${name} is a load of it now; its next results carry it down`);
    if (on === floor?.id) await reload();
    await refetch();
  };
  return (
    <>
      <div className="button-row carried-told">
        <label
          className="forces"
          title="In combinations all live load is there, reduced as the standard allows; with EN 1991-1-1 live load that only accompanies another action is not reduced"
        >
          Forces
          <select value={shown} onChange={(e) => setShown(e.target.value as Shown)}>
            {choices(data).map(([value, name]) => (
              <option key={value} value={value}>
                {name}
              </option>
            ))}
          </select>
        </label>
        <button type="button" className="small" onClick={() => openDialog("lateral")}>
          Forces from a table
        </button>
        <span className="quiet">From the top:</span>
        {data.floors
          .filter((f) => f.counts || without.includes(f.id) || f.told.includes("counts for"))
          .map((f) => (
            <label key={f.id} title={f.told}>
              <input
                type="checkbox"
                checked={!without.includes(f.id) && (f.counts || f.told === "")}
                disabled={!f.counts && f.told !== ""}
                onChange={() => toggled(f.id)}
              />
              {f.name}
            </label>
          ))}
      </div>
      {floors.length > 0 && (
        <div className="button-row carried-told">
          <span className="quiet">Columns and walls stand on slabs whose loads they are not yet:</span>
          {floors.map(([on, name]) => (
            <button key={on} type="button" className="small" title={standing(on)} onClick={() => void plant(on, name)}>
              Put {open.filter((p) => p.on === on).length} on {name}
            </button>
          ))}
        </div>
      )}
      <ReadTable table={table} name="carried" />
    </>
  );
}
