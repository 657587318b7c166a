import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api, problemsOf } from "../api/client";
import type { components } from "../api/generated";
import { plural, singular } from "../kinds";
import { type FloorDocument, itemsOf, type Kind } from "../model/floor";
import { usePicked } from "../session";
import { useDialogs } from "../session/dialogs";
import { useReplacing } from "../session/replacing";
import { type System, unitOf, useUnits, written } from "../units/quantities";

type FloorChange = components["schemas"]["FloorChange"];
type Replaced = components["schemas"]["Replacing"]["kind"];

/** What changes, in a few words: how many objects of each kind, and what loads come to. */
export function changeText(change: FloorChange, document: FloorDocument, system: System): string {
  const lists = [...new Set(change.objects.map((o) => o.list))];
  const parts = lists.map((list) => {
    const count = change.objects.filter((o) => o.list === list).length;
    return `${count} ${(count === 1 ? singular(list as Kind) : plural(list as Kind)).toLowerCase()}`;
  });
  const worth = change.objects.filter((o) => o.before != null && o.after != null);
  const values = new Set(
    worth.map((o) => {
      const line = document.loads?.find((l) => l.id === o.id)?.kind === "line";
      const quantity = line ? "lineload" : "pressure";
      const [a, b] = [o.before, o.after].map((v) => written(v ?? 0, quantity, system));
      return `${a} → ${b} ${unitOf(quantity, system).unit}`;
    }),
  );
  const told = [...values].slice(0, 3).join(", ") + (values.size > 3 ? " …" : "");
  return parts.join(", ") + (told ? `: ${told}` : "");
}

/** One material, build-up, partition or occupancy in the place of another, on chosen floors, with what changes told first. */
export function Replace() {
  const { document, project, reload, say } = usePicked("document", "project", "reload", "say");
  const { kind, old } = useReplacing();
  const close = useDialogs((d) => d.close);
  const system = useUnits((u) => u.system);
  const others = document ? itemsOf(document, kind).filter((i) => i.id !== old) : [];
  const [chosen, setChosen] = useState("");
  const fresh = chosen || others[0]?.id || "";
  const [left, setLeft] = useState<(number | null)[]>([]);
  const [problem, setProblem] = useState("");
  const asked = { kind: kind as Replaced, old, new: fresh };
  const { data: changes } = useQuery({
    queryKey: ["replace", project?.id, project?.revision, kind, old, fresh],
    enabled: Boolean(project && fresh),
    queryFn: async () => {
      const { data, error } = await api.POST("/api/projects/{project_id}/replace/preview", {
        params: { path: { project_id: project?.id ?? 0 } },
        body: asked,
      });
      if (!data) throw new Error(problemsOf(error)[0]?.sentence ?? "");
      return data.changes;
    },
  });
  if (!document || !project) return null;
  const meant = (changes ?? []).filter((c) => !left.includes(c.floor));
  const count = meant.reduce((n, c) => n + c.objects.length, 0);
  const replace = async () => {
    const { data, error } = await api.POST("/api/projects/{project_id}/replace", {
      params: { path: { project_id: project.id } },
      body: {
        ...asked,
        floors: meant.flatMap((c) => (c.floor == null ? [] : [c.floor])),
        project: meant.some((c) => c.floor == null),
      },
    });
    if (!data) {
      setProblem(problemsOf(error)[0]?.sentence ?? "It could not be replaced.");
      return;
    }
    say(`${old} replaced by ${fresh} in ${data.objects} objects`);
    await reload();
    close();
  };
  return (
    <>
      <label>
        {singular(kind)} {old} by{" "}
        <select value={fresh} onChange={(e) => setChosen(e.target.value)}>
          {others.map((o) => (
            <option key={o.id}>{o.id}</option>
          ))}
        </select>
      </label>
      {!others.length && <p className="empty">There is no other one in the project; add one first.</p>}
      {changes && !changes.length && <p className="empty">Nothing in the project names {old}.</p>}
      {changes && changes.length > 0 && (
        <fieldset>
          <legend>What changes</legend>
          {changes.map((c) => (
            <label key={c.floor ?? "project"}>
              <input
                type="checkbox"
                checked={!left.includes(c.floor)}
                onChange={(e) => setLeft(e.target.checked ? left.filter((f) => f !== c.floor) : [...left, c.floor])}
              />{" "}
              {c.floor == null ? "The project itself" : c.name}{" "}
              <span className="quiet">{changeText(c, document, system)}</span>
            </label>
          ))}
        </fieldset>
      )}
      {problem && (
        <p className="error" role="alert">
          {problem}
        </p>
      )}
      <div className="buttons">
        <button type="button" onClick={close}>
          Cancel
        </button>
        <button type="button" className="accent" disabled={!count} onClick={() => void replace()}>
          Replace in {count} {count === 1 ? "object" : "objects"}
        </button>
      </div>
    </>
  );
}
