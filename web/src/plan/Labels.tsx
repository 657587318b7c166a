import { memo } from "react";
import { keyOf, type Placed } from "./labels";

/** Labels of the plan, with leaders where they stand aside. */
export const Labels = memo(function Labels({ labels }: { labels: Placed[] }) {
  return labels.map((l) => (
    <g key={keyOf(l)} className={`label ${l.tone ?? ""} ${l.leader ? "callout" : ""}`}>
      {l.leader && (
        <line
          x1={l.x}
          y1={l.y}
          x2={l.left + (l.left > l.x ? 0 : l.width)}
          y2={l.top + l.height / 2}
          className="leader"
        />
      )}
      <rect x={l.left} y={l.top} width={l.width} height={l.height} rx={3} />
      <text x={l.left + l.width / 2} y={l.top + l.height / 2 + 4}>
        {l.text}
      </text>
    </g>
  ));
});
