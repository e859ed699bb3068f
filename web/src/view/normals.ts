import * as THREE from "three";
import type { Field } from "./field";

function writeNormals(out: Uint16Array, f: Field, r0: number, c0: number, r1: number, c1: number) {
  const { nx, ny, values: v, spacing } = f;
  const half = THREE.DataUtils.toHalfFloat;
  for (let r = Math.max(0, r0); r < Math.min(ny, r1); r++) {
    const rn = Math.max(r - 1, 0) * nx;
    const rs = Math.min(r + 1, ny - 1) * nx;
    const dy = ((rs - rn) / nx) * spacing;
    for (let c = Math.max(0, c0); c < Math.min(nx, c1); c++) {
      const cw = Math.max(c - 1, 0);
      const ce = Math.min(c + 1, nx - 1);
      const gx = (v[r * nx + ce] - v[r * nx + cw]) / ((ce - cw) * spacing);
      const gy = (v[rn + c] - v[rs + c]) / dy;
      const s = 1 / Math.sqrt(1 + gx * gx + gy * gy);
      const i = (r * nx + c) * 2;
      out[i] = half(-gx * s);
      out[i + 1] = half(-gy * s);
    }
  }
}

/** East and north parts of the unit normal as half floats. */
export function normalTexture(f: Field): THREE.DataTexture {
  const out = new Uint16Array(f.nx * f.ny * 2);
  writeNormals(out, f, 0, 0, f.ny, f.nx);
  const t = new THREE.DataTexture(out, f.nx, f.ny, THREE.RGFormat, THREE.HalfFloatType);
  t.minFilter = t.magFilter = THREE.LinearFilter;
  t.needsUpdate = true;
  return t;
}

/** The normals of a rectangle of posts, anew. */
export function patchNormals(
  t: THREE.DataTexture,
  f: Field,
  r0: number,
  c0: number,
  r1: number,
  c1: number,
) {
  writeNormals(t.image.data as unknown as Uint16Array, f, r0, c0, r1, c1);
  t.needsUpdate = true;
}
