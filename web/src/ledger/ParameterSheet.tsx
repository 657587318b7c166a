import { useEffect, useMemo, useState } from "react";
import { api } from "../api/client";
import type { components } from "../api/generated";
import { useSession } from "../app/session";
import type { FloorDocument, Labelled } from "../model/floor";
import type { Property } from "../model/schema";
import { Sheet } from "./Sheet";

const PROPERTIES: Property[] = [
  { path: "symbol", name: "Value", type: "text", fixed: true },
  { path: "meaning", name: "Of", type: "text", wide: true, fixed: true },
  { path: "value", name: "Recommended", type: "number", dimension: "none", fixed: true },
  { path: "own", name: "Own", type: "number", dimension: "none", empty: true },
  { path: "source", name: "Source", type: "text", wide: true, fixed: true },
];

/** The standard's values that may be chosen nationally; the project's own ones replace them. */
export function ParameterSheet(props: { document: FloorDocument }) {
  const { project, editProject } = useSession();
  const [known, setKnown] = useState<components["schemas"]["ParameterState"][]>([]);
  const [picked, setPicked] = useState<string[]>([]);
  const id = project?.id;
  const revision = project?.revision;
  // biome-ignore lint/correctness/useExhaustiveDependencies: another revision may have other values
  useEffect(() => {
    if (id)
      void api
        .GET("/api/projects/{project_id}/parameters", { params: { path: { project_id: id } } })
        .then(({ data }) => data && setKnown(data));
  }, [id, revision]);
  const rows = useMemo<Labelled[]>(
    () => known.map((k) => ({ ...k, id: k.key, own: k.own ?? undefined })) as Labelled[],
    [known],
  );
  return (
    <Sheet
      list="parameters"
      title="Values of the standard"
      rows={rows}
      properties={PROPERTIES}
      document={props.document}
      chosen={picked}
      choose={setPicked}
      set={(changes) => {
        const told = changes
          .map((c) => `${known.find((k) => k.key === c.id)?.symbol} ${c.value ?? "as recommended"}`)
          .join(", ");
        return editProject({
          line: `Own values: ${told}`,
          change: (p) => {
            const own = { ...((p.parameters as Record<string, number> | undefined) ?? {}) };
            for (const c of changes)
              if (c.value === undefined) delete own[c.id];
              else own[c.id] = c.value as number;
            return { ...p, parameters: own };
          },
        });
      }}
      empty="Reading the standard's values."
    />
  );
}
