/** A point or direction in space. */
export type Three = readonly [number, number, number];

const dot = (a: Three, b: Three) => a[0] * b[0] + a[1] * b[1] + a[2] * b[2];
const cross = (a: Three, b: Three): Three => [
  a[1] * b[2] - a[2] * b[1],
  a[2] * b[0] - a[0] * b[2],
  a[0] * b[1] - a[1] * b[0],
];
const unit = (a: Three): Three => {
  const l = Math.hypot(...a) || 1;
  return [a[0] / l, a[1] / l, a[2] / l];
};

/** Share of the picture that is left free at its borders. */
export const MARGIN = 0.06;

/**
 * How far from the middle of a box a camera that looks at it from a direction has to be, so that all eight corners are in the picture. `fov` is its
 * whole angle upwards in degrees, `aspect` width over height; z is up.
 */
export function distanceFor(least: Three, most: Three, from: Three, fov: number, aspect: number): number {
  const towards = unit(from);
  const right = unit(cross([0, 0, 1], towards));
  const up = cross(towards, right);
  const tall = Math.tan((fov * Math.PI) / 360) * (1 - MARGIN);
  const wide = tall * aspect;
  const half: Three = [(most[0] - least[0]) / 2, (most[1] - least[1]) / 2, (most[2] - least[2]) / 2];
  let distance = 0;
  for (const x of [-1, 1])
    for (const y of [-1, 1])
      for (const z of [-1, 1]) {
        const corner: Three = [x * half[0], y * half[1], z * half[2]];
        const near = dot(corner, towards);
        distance = Math.max(
          distance,
          near + Math.abs(dot(corner, right)) / wide,
          near + Math.abs(dot(corner, up)) / tall,
        );
      }
  return distance;
}
