import { useQuery } from "@tanstack/react-query";
import { useState } from "react";
import { api } from "../api/client";
import { useSession } from "../session";
import { StepLine } from "./TraceView";

/** The springs that a column's or wall's size, height, material and fixity give, with their formulas. */
export function Springs(props: { kind: "columns" | "walls"; id: string }) {
  const { kind, id } = props;
  const floor = useSession((s) => s.floor);
  const saving = useSession((s) => s.saving);
  const [open, setOpen] = useState(false);
  const { data: steps } = useQuery({
    queryKey: ["springs", floor?.id, floor?.revision, kind, id],
    enabled: open && floor !== null && !saving,
    queryFn: async () => {
      const params = { path: { floor_id: floor?.id ?? 0 }, query: { kind, label: id } };
      return (await api.GET("/api/floors/{floor_id}/springs", { params })).data ?? null;
    },
  });
  return (
    <details className="trace springs" open={open} onToggle={(e) => setOpen(e.currentTarget.open)}>
      <summary>How it holds the floor</summary>
      {steps && (
        <ol>
          {steps.map((s, i) => (
            // biome-ignore lint/suspicious/noArrayIndexKey: steps of both storeys may be alike, and never move
            <StepLine key={i} step={s} />
          ))}
        </ol>
      )}
      {open && steps === null && <p className="empty">The server did not answer; open it again.</p>}
    </details>
  );
}
