import type { Field } from "../view/field";

interface Isoline {
  level: number;
  index: boolean;
  path: Path2D;
  marks: [number, number, number][];
}

const lines = new WeakMap<Float32Array, Map<string, Isoline[]>>();

/** Isolines of a field in posts, cut square by square, kept for as long as the field is. */
export function isolines(
  values: Float32Array,
  f: Field,
  low: number,
  high: number,
  step: number,
  posts: number,
): Isoline[] {
  let of = lines.get(values);
  if (!of) lines.set(values, (of = new Map()));
  const key = `${step} ${posts} ${low} ${high}`;
  const found = of.get(key);
  if (found) return found;
  const out: Isoline[] = [];
  const n = posts;
  for (let k = Math.ceil(low / step); k * step < high; k++) {
    const level = k * step;
    const path = new Path2D();
    const marks: [number, number, number][] = [];
    let seen = 0;
    for (let r = 0; r + n < f.ny; r += n)
      for (let c = 0; c + n < f.nx; c += n) {
        const i = r * f.nx + c;
        const a = values[i] - level;
        const b = values[i + n] - level;
        const d = values[i + n * f.nx] - level;
        const e = values[i + n * f.nx + n] - level;
        if (a < 0 === b < 0 && a < 0 === d < 0 && a < 0 === e < 0) continue;
        const cuts: number[] = [];
        if (a < 0 !== b < 0) cuts.push(c + (n * a) / (a - b), r);
        if (b < 0 !== e < 0) cuts.push(c + n, r + (n * b) / (b - e));
        if (d < 0 !== e < 0) cuts.push(c + (n * d) / (d - e), r + n);
        if (a < 0 !== d < 0) cuts.push(c, r + (n * a) / (a - d));
        for (let q = 0; q + 3 < cuts.length; q += 4) {
          path.moveTo(cuts[q], cuts[q + 1]);
          path.lineTo(cuts[q + 2], cuts[q + 3]);
          if (seen++ % 260 === 60)
            marks.push([
              cuts[q],
              cuts[q + 1],
              Math.atan2(cuts[q + 3] - cuts[q + 1], cuts[q + 2] - cuts[q]),
            ]);
        }
      }
    out.push({ level, index: k % 5 === 0, path, marks });
  }
  of.set(key, out);
  return out;
}
