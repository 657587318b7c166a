import { memo, useMemo } from "react";
import type { Fields } from "../api/fields";

/** The elements of the newest run. */
export const MeshLayer = memo(function MeshLayer({ fields }: { fields: Fields }) {
  const d = useMemo(() => {
    const { xy, edges } = fields;
    const parts: string[] = [];
    for (let k = 0; k < edges.length; k += 2) {
      const [i, j] = [edges[k] as number, edges[k + 1] as number];
      parts.push(
        `M${(xy[2 * i] as number).toFixed(3)} ${(xy[2 * i + 1] as number).toFixed(3)}L${(xy[2 * j] as number).toFixed(3)} ${(xy[2 * j + 1] as number).toFixed(3)}`,
      );
    }
    return parts.join("");
  }, [fields]);
  return <path d={d} className="mesh-lines" data-testid="mesh" />;
});
