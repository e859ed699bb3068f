import type * as THREE from "three";
import type { Field } from "./field";

/**
 * For each post the height above which the sun is seen: a sweep away from the sun over the heights.
 */
export function sunLine(f: Field, sun: THREE.Vector3, out: Float32Array): Float32Array {
  const { nx, ny, values: v, spacing } = f;
  const flat = Math.hypot(sun.x, sun.y);
  if (flat < 1e-3) return out.fill(-1e6);
  // one step along the larger part of the sun's bearing, towards it
  const major = Math.max(Math.abs(sun.x), Math.abs(sun.y));
  const dx = sun.x / major;
  const dy = -sun.y / major;
  const fall = (sun.z / major) * spacing;
  const columns = Math.abs(dx) >= Math.abs(dy);
  const na = columns ? nx : ny;
  const nb = columns ? ny : nx;
  const sa = columns ? Math.sign(dx) : Math.sign(dy);
  const slip = columns ? dy : dx;
  for (let k = 0; k < na; k++) {
    const a = sa > 0 ? na - 1 - k : k;
    const prev = a + sa;
    for (let b = 0; b < nb; b++) {
      const i = columns ? b * nx + a : a * nx + b;
      if (prev < 0 || prev >= na) {
        out[i] = -1e6;
        continue;
      }
      const pb = b + slip;
      const j0 = Math.floor(pb);
      const t = pb - j0;
      const at = (j: number) => {
        const q = columns
          ? Math.min(Math.max(j, 0), ny - 1) * nx + prev
          : prev * nx + Math.min(Math.max(j, 0), nx - 1);
        return Math.max(out[q], v[q]);
      };
      out[i] = at(j0) * (1 - t) + at(j0 + 1) * t - fall;
    }
  }
  return out;
}
