import type { Finding } from "../api/client";
import type { Kind } from "../model/floor";
import { useSession } from "../session";
import { spoken, useUnits } from "../units/quantities";
import type { View } from "./view";

/** The audit's findings, pinned where they are. */
export function PinLayer(props: { findings: Finding[]; view: View }) {
  const { findings, view } = props;
  const select = useSession((s) => s.select);
  const system = useUnits((u) => u.system);
  const told = (f: Finding) => spoken(f.said, system).split("\n");
  return (
    <g className="pins">
      {findings.map((f) =>
        f.at ? (
          <g
            key={`${f.rule}${f.list}${f.id}${f.what}`}
            transform={`translate(${view.x + view.k * (f.at[0] ?? 0)} ${view.y - view.k * (f.at[1] ?? 0)})`}
            role="button"
            tabIndex={0}
            aria-label={`Finding: ${f.id} ${told(f)[0]}`}
            data-finding={f.rule}
            onClick={(e) => {
              e.stopPropagation();
              select({ type: "object", kind: f.list as Kind, id: f.id });
            }}
            onKeyDown={(e) => {
              if (e.key === "Enter") select({ type: "object", kind: f.list as Kind, id: f.id });
            }}
          >
            <path d="M0 0L-7 -13A8 8 0 1 1 7 -13Z" />
            <text y={-14}>!</text>
            <title>{`${f.id} ${told(f).join(". ")}`}</title>
          </g>
        ) : null,
      )}
    </g>
  );
}
