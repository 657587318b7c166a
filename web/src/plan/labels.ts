export type Wanted = {
  x: number;
  y: number;
  text: string;
  tone?: string;
  priority: number;
  /** A callout stands off its point, with a leader. */
  callout?: boolean;
  /** Half the size of what it names, px: the label stands clear of it. */
  clear?: number;
  /** Stands further off rather than not at all. */
  must?: boolean;
};

/** A stretch of concrete that labels keep off: a line with half its width, px. */
export type Stretch = { a: Point; b: Point; half: number };
type Point = { x: number; y: number };
type Box = { left: number; top: number; width: number; height: number };

export type Placed = Wanted & { left: number; top: number; width: number; height: number; leader: boolean };

const CHAR = 6.7;
const HEIGHT = 17;
/** How far off its thing a label that must be there may stand, in heights of a line. */
const FURTHEST = 6;

/** Whether a stretch reaches into a box: what of its middle line lies between the box's sides, those moved out by half its width. */
export function cuts({ a, b, half }: Stretch, box: Box): boolean {
  let [from, to] = [0, 1];
  const sides = [
    [a.x, b.x - a.x, box.left - half, box.left + box.width + half],
    [a.y, b.y - a.y, box.top - half, box.top + box.height + half],
  ] as const;
  for (const [start, way, low, high] of sides) {
    if (Math.abs(way) < 1e-9) {
      if (start <= low || start >= high) return false;
      continue;
    }
    const [p, q] = [(low - start) / way, (high - start) / way];
    from = Math.max(from, Math.min(p, q));
    to = Math.min(to, Math.max(p, q));
    if (from >= to) return false;
  }
  return true;
}

/**
 * What tells placed labels apart: where they stand, for no two stand in one place. Text and point do not: the least and
 * the greatest of a slice may be one value at one point, and what React cannot tell apart it leaves behind.
 */
export function keyOf(label: Placed): string {
  return `${label.left},${label.top}`;
}

/** Where a label of w by h may stand about its point, the best first. */
function spots(label: Wanted, w: number, h: number): [number, number][] {
  const g = label.clear ?? 0;
  if (label.callout)
    return [
      [18, -38],
      [18, 20],
      [-18 - w, -38],
      [-18 - w, 20],
      [40, -64],
      [40, 46],
      [-40 - w, -64],
      [-40 - w, 46],
    ];
  const near: [number, number][] = [
    [9, -h - 3],
    [9, 4],
    [-9 - w, -h - 3],
    [-9 - w, 4],
    // Where all four corners are taken, above, below and beside, then a line further off.
    [-w / 2, -h - 9],
    [-w / 2, 9],
    [12, -h / 2],
    [-12 - w, -h / 2],
    [9, -2 * h - 6],
    [9, h + 8],
    [-9 - w, -2 * h - 6],
    [-9 - w, h + 8],
  ];
  const out = near.map(([x, y]): [number, number] => [
    x + (x > 0 ? Math.max(0, g - 5) : x < -w / 2 ? -Math.max(0, g - 5) : 0),
    y + (y > 0 ? g : y + h <= 0 ? -g : 0),
  ]);
  const [row, column] = [h + 3, w + 4];
  if (label.must)
    for (let k = 1; k <= FURTHEST; k++)
      for (const x of [g + 9, -g - 9 - w, -w / 2, g + 9 + column, -g - 9 - w - column])
        out.push([x, -g - 3 - h - k * row], [x, g + 4 + k * row]);
  return out;
}

/**
 * Places labels so that none lies on another: the important ones first, each at the first free spot around its point. None covers the
 * concrete of `solid`, unless there is no other place for it and it need not be there.
 */
export function place(
  wanted: Wanted[],
  width: number,
  height: number,
  taken: DOMRect[] = [],
  solid: Stretch[] = [],
): Placed[] {
  const done: Placed[] = [];
  const busy: Box[] = taken.map((r) => ({ left: r.left, top: r.top, width: r.width, height: r.height }));
  for (const label of [...wanted].sort((a, b) => b.priority - a.priority)) {
    if (label.x < -20 || label.y < -20 || label.x > width + 20 || label.y > height + 20) continue;
    const w = label.text.length * CHAR + (label.callout ? 14 : 6);
    const h = label.callout ? HEIGHT + 4 : HEIGHT;
    const near = solid.filter((s) => cuts(s, around(label, (FURTHEST + 2) * HEIGHT + (label.clear ?? 0) + 2 * w)));
    let box: Box | undefined;
    for (const [dx, dy] of spots(label, w, h)) {
      const spot = { left: label.x + dx, top: label.y + dy, width: w, height: h };
      if (spot.left < 2 || spot.top < 2 || spot.left + w > width - 2 || spot.top + h > height - 2) continue;
      if (busy.some((b) => meet(b, spot))) continue;
      const clear = !near.some((s) => cuts(s, spot));
      // The first free place does where none is clear of the concrete.
      if (clear || (!box && !label.must)) box = spot;
      if (clear) break;
    }
    if (!box) continue;
    busy.push(box);
    done.push({ ...label, ...box, leader: Boolean(label.callout) });
  }
  return done;
}

/** Whether two boxes come nearer to each other than 2 px. */
const meet = (a: Box, b: Box) =>
  b.left < a.left + a.width + 2 &&
  a.left < b.left + b.width + 2 &&
  b.top < a.top + a.height + 2 &&
  a.top < b.top + b.height + 2;

const around = (p: Point, by: number): Box => ({ left: p.x - by, top: p.y - by, width: 2 * by, height: 2 * by });
