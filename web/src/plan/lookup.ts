import type { Fields } from "../api/fields";

const CELL = 0.8;

/** Finds the triangle under a point: triangles sorted into square cells. */
export class Lookup {
  private cells = new Map<number, number[]>();

  constructor(private fields: Fields) {
    const { xy, triangles } = fields;
    for (let t = 0; t < triangles.length; t += 3) {
      const xs = [0, 1, 2].map((k) => xy[2 * (triangles[t + k] as number)] as number);
      const ys = [0, 1, 2].map((k) => xy[2 * (triangles[t + k] as number) + 1] as number);
      for (let i = Math.floor(Math.min(...xs) / CELL); i <= Math.floor(Math.max(...xs) / CELL); i++)
        for (let j = Math.floor(Math.min(...ys) / CELL); j <= Math.floor(Math.max(...ys) / CELL); j++) {
          const key = i * 100003 + j;
          const cell = this.cells.get(key);
          if (cell) cell.push(t);
          else this.cells.set(key, [t]);
        }
    }
  }

  /** The value of a field at a point, or null beside the floor. */
  at(values: Float32Array, x: number, y: number): number | null {
    const { xy, triangles } = this.fields;
    for (const t of this.cells.get(Math.floor(x / CELL) * 100003 + Math.floor(y / CELL)) ?? []) {
      const [i, j, k] = [triangles[t] as number, triangles[t + 1] as number, triangles[t + 2] as number];
      const [ax, ay] = [xy[2 * i] as number, xy[2 * i + 1] as number];
      const [bx, by] = [(xy[2 * j] as number) - ax, (xy[2 * j + 1] as number) - ay];
      const [cx, cy] = [(xy[2 * k] as number) - ax, (xy[2 * k + 1] as number) - ay];
      const det = bx * cy - by * cx;
      const p = ((x - ax) * cy - (y - ay) * cx) / det;
      const q = (bx * (y - ay) - by * (x - ax)) / det;
      if (p >= -1e-6 && q >= -1e-6 && p + q <= 1 + 1e-6)
        return (values[i] as number) * (1 - p - q) + (values[j] as number) * p + (values[k] as number) * q;
    }
    return null;
  }
}
