import { measured, type System } from "../units/quantities";
import { byLevel, type Card, type Overview, works } from "./overview";

const WIDE = 262;
const LEFT = 70;
const RIGHT = 26;

/** A section through the building, seen along y: what counts at each level on what carries it. */
export function Levels(props: { overview: Overview; system: System; open: (card: Card) => void }) {
  const { overview, system, open } = props;
  const levels = byLevel(overview);
  const drawn = levels.filter((l) => l.card);
  if (!levels.length) return <p className="quiet">This project has no levels yet. They are set at step Set out.</p>;
  const spans = drawn.map(({ card }) => {
    const x = (card as Card).picture.slabs.flat().map(([v = 0]) => v);
    return [
      x.reduce((a, b) => Math.min(a, b), Number.POSITIVE_INFINITY),
      x.reduce((a, b) => Math.max(a, b), Number.NEGATIVE_INFINITY),
    ];
  });
  const left = Math.min(...spans.map((s) => s[0] as number), 0);
  const wide = Math.max(...spans.map((s) => s[1] as number), 1) - left;
  const foot = overview.base_m;
  const top = (levels.at(-1) as (typeof levels)[number]).elevation;
  const tall = Math.max(120, Math.min(330, 62 * levels.length));
  const x = (v: number) => LEFT + ((v - left) / wide) * (WIDE - LEFT - RIGHT);
  const y = (z: number) => 14 + ((top - z) / Math.max(top - foot, 1e-3)) * (tall - 28);
  return (
    <svg className="levels" viewBox={`0 0 ${WIDE} ${tall}`} role="img" aria-label="Section through the levels">
      <line className="ground" x1={LEFT - 8} x2={WIDE - RIGHT + 8} y1={y(foot)} y2={y(foot)} />
      {levels.map(({ level, elevation, card }, k) => {
        const below = k ? (levels[k - 1] as (typeof levels)[number]).elevation : foot;
        const span = card ? spans[drawn.findIndex((d) => d.card === card)] : undefined;
        const places = card ? [...new Set(card.picture.columns.map(([v]) => Math.round((v ?? 0) * 5) / 5))] : [];
        const walls = card ? card.picture.walls.map((w) => w.map(([v = 0]) => v)) : [];
        return (
          <g key={level}>
            {!card?.ground &&
              places.map((v) => <line key={v} className="stem" x1={x(v)} x2={x(v)} y1={y(elevation)} y2={y(below)} />)}
            {!card?.ground &&
              walls.map((w, i) => (
                <rect
                  // biome-ignore lint/suspicious/noArrayIndexKey: walls keep their order
                  key={i}
                  className="pier"
                  x={x(Math.min(...w)) - 1}
                  width={Math.max(2, x(Math.max(...w)) - x(Math.min(...w)) + 2)}
                  y={y(elevation)}
                  height={Math.max(0, y(below) - y(elevation))}
                />
              ))}
            <text className="height" x={LEFT - 10} y={y(elevation) + 4}>
              {measured(elevation, "length", system)}
            </text>
            {card && span ? (
              <g
                className={`plate ${works(card)}`}
                role="button"
                tabIndex={0}
                aria-label={`Open ${card.name}, ${level}`}
                onClick={() => open(card)}
                onKeyDown={(e) => e.key === "Enter" && open(card)}
              >
                <title>{`${level}: ${card.name}`}</title>
                <rect
                  x={x(span[0] as number)}
                  width={x(span[1] as number) - x(span[0] as number)}
                  y={y(elevation) - 3.5}
                  height="7"
                />
              </g>
            ) : (
              <line className="lone" x1={LEFT} x2={WIDE - RIGHT} y1={y(elevation)} y2={y(elevation)} />
            )}
          </g>
        );
      })}
    </svg>
  );
}
