import type { Card } from "./overview";

const WIDE = 264;
const TALL = 118;
const EDGE = 5;

/** A small plan of a floor, on the scale and place that all floors of the building share, with the place that is worst if it fails. */
export function FloorPicture(props: {
  card: Card;
  box: [number, number, number, number];
  mark: readonly number[] | null;
}) {
  const { card, box, mark } = props;
  const { picture } = card;
  const [left, low, w, h] = box;
  const scale = Math.min((WIDE - 2 * EDGE) / w, (TALL - 2 * EDGE) / h);
  const x = (v: number) => (WIDE - w * scale) / 2 + (v - left) * scale;
  const y = (v: number) => (TALL + h * scale) / 2 - (v - low) * scale;
  const path = (points: number[][], closed: boolean) =>
    `M${points.map(([px = 0, py = 0]) => `${x(px).toFixed(1)} ${y(py).toFixed(1)}`).join("L")}${closed ? "Z" : ""}`;
  const all = (rings: number[][][], closed = true) => rings.map((r) => path(r, closed)).join("");
  return (
    <svg className="floor-picture" viewBox={`0 0 ${WIDE} ${TALL}`} aria-hidden="true">
      <path className={card.tendons ? "slab stressed" : "slab"} d={all(picture.slabs)} />
      <path className="thick" d={all(picture.thickenings)} />
      <path className="hole" d={all(picture.openings)} />
      <path className="beam" d={all(picture.beams, false)} />
      <path className="wall upper" d={all(picture.upper_walls, false)} />
      <path className="wall" d={all(picture.walls, false)} />
      {picture.upper_columns.map(([px = 0, py = 0]) => (
        <rect key={`${px} ${py}`} className="column upper" x={x(px) - 1.6} y={y(py) - 1.6} width="3.2" height="3.2" />
      ))}
      {picture.columns.map(([px = 0, py = 0]) => (
        <rect key={`${px} ${py}`} className="column" x={x(px) - 1.8} y={y(py) - 1.8} width="3.6" height="3.6" />
      ))}
      {mark && <circle className="worst" cx={x(mark[0] ?? 0)} cy={y(mark[1] ?? 0)} r="7" />}
    </svg>
  );
}
