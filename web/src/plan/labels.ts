export type Wanted = {
  x: number;
  y: number;
  text: string;
  tone?: string;
  priority: number;
  /** A callout stands off its point, with a leader. */
  callout?: boolean;
};
export type Placed = Wanted & { left: number; top: number; width: number; height: number; leader: boolean };

const CHAR = 6.7;
const HEIGHT = 17;

/**
 * What tells placed labels apart: where they stand, for no two stand in one place. Text and point do not: the least and
 * the greatest of a slice may be one value at one point, and what React cannot tell apart it leaves behind.
 */
export function keyOf(label: Placed): string {
  return `${label.left},${label.top}`;
}

/** Places labels so that none lies on another: the important ones first, each at the first free spot around its point. */
export function place(wanted: Wanted[], width: number, height: number, taken: DOMRect[] = []): Placed[] {
  const done: Placed[] = [];
  const busy = taken.map((r) => ({ left: r.left, top: r.top, width: r.width, height: r.height }));
  for (const label of [...wanted].sort((a, b) => b.priority - a.priority)) {
    if (label.x < -20 || label.y < -20 || label.x > width + 20 || label.y > height + 20) continue;
    const w = label.text.length * CHAR + (label.callout ? 14 : 6);
    const h = label.callout ? HEIGHT + 4 : HEIGHT;
    const near = label.callout
      ? [
          [18, -38],
          [18, 20],
          [-18 - w, -38],
          [-18 - w, 20],
          [40, -64],
          [40, 46],
          [-40 - w, -64],
          [-40 - w, 46],
        ]
      : [
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
    for (const [dx = 0, dy = 0] of near) {
      const box = { left: label.x + dx, top: label.y + dy, width: w, height: h };
      if (box.left < 2 || box.top < 2 || box.left + w > width - 2 || box.top + h > height - 2) continue;
      const hit = busy.some(
        (b) =>
          box.left < b.left + b.width + 2 &&
          b.left < box.left + w + 2 &&
          box.top < b.top + b.height + 2 &&
          b.top < box.top + h + 2,
      );
      if (hit) continue;
      busy.push(box);
      done.push({ ...label, ...box, leader: Boolean(label.callout) });
      break;
    }
  }
  return done;
}
