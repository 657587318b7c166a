import { type Comment, useReview } from "../session/review";
import type { View } from "./view";

/** Comments, pinned where they are said, by their number in the table. */
export function CommentLayer({ view }: { view: View }) {
  const { comments, picked, pick } = useReview();
  const heads = comments.filter((c) => c.answers === null);
  return (
    <g className="pins said">
      {heads.map((c: Comment, k) =>
        c.x === null || c.y === null ? null : (
          <g
            key={c.id}
            className={`${c.settled_by ? "settled" : ""} ${picked === c.id ? "picked" : ""}`}
            transform={`translate(${view.x + view.k * c.x} ${view.y - view.k * c.y})`}
            role="button"
            tabIndex={0}
            aria-label={`Comment ${k + 1} of ${c.author}`}
            onClick={(e) => {
              e.stopPropagation();
              pick(c.id);
            }}
            onKeyDown={(e) => {
              if (e.key === "Enter") pick(c.id);
            }}
          >
            <path d="M0 0L-8 -14A9 9 0 1 1 8 -14Z" />
            <text y={-15}>{k + 1}</text>
            <title>{`${c.author}: ${c.text}`}</title>
          </g>
        ),
      )}
    </g>
  );
}
