import { useQuery } from "@tanstack/react-query";
import { useMemo, useState } from "react";
import { api } from "../api/client";
import type { components } from "../api/generated";
import { symbolText } from "../inspector/formulaText";
import type { FloorDocument, Labelled } from "../model/floor";
import type { Property } from "../model/property";
import { usePicked } from "../session";
import { Sheet } from "./Sheet";

const NONE: components["schemas"]["ParameterState"][] = [];

const COLUMNS: Property[] = [
  { path: "symbol", name: "Value", type: "text", fixed: true },
  { path: "meaning", name: "Of", type: "text", wide: true, fixed: true },
  { path: "value", name: "Recommended", type: "number", quantity: "none", fixed: true },
  { path: "own", name: "Own", type: "number", quantity: "none", empty: true },
  { path: "source", name: "Source", type: "text", wide: true, fixed: true },
];

/** The standard's values that may be chosen nationally; the project's own ones replace them. */
export function ParameterSheet(props: { document: FloorDocument }) {
  const { project, editProject } = usePicked("project", "editProject");
  const [picked, setPicked] = useState<string[]>([]);
  const id = project?.id;
  const { data: known = NONE } = useQuery({
    // Another revision may have other values.
    queryKey: ["parameters", id, project?.revision],
    enabled: id !== undefined,
    queryFn: async () =>
      (await api.GET("/api/projects/{project_id}/parameters", { params: { path: { project_id: id ?? 0 } } })).data ??
      [],
    placeholderData: (before) => before,
  });
  const rows = useMemo<Labelled[]>(
    () => known.map((k) => ({ ...k, id: k.key, symbol: symbolText(k.symbol), own: k.own ?? undefined })) as Labelled[],
    [known],
  );
  return (
    <Sheet
      list="parameters"
      title="Values of the standard"
      rows={rows}
      properties={COLUMNS}
      document={props.document}
      chosen={picked}
      choose={setPicked}
      save={(changes) => {
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
