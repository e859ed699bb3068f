import * as THREE from "three";

export const QUADS = 16;

/**
 * Patch of QUADS x QUADS squares cut from north-west to south-east, with a skirt (z = 1) around it.
 */
export function patchGeometry(): THREE.InstancedBufferGeometry {
  const n = QUADS + 1;
  const pos: number[] = [];
  const index: number[] = [];
  for (let r = 0; r < n; r++) for (let c = 0; c < n; c++) pos.push(c, r, 0);
  for (let r = 0; r < QUADS; r++)
    for (let c = 0; c < QUADS; c++) {
      const i = r * n + c;
      index.push(i, i + n, i + n + 1, i, i + n + 1, i + 1);
    }
  const rim: number[] = [];
  for (let c = 0; c < QUADS; c++) rim.push(c);
  for (let r = 0; r < QUADS; r++) rim.push(r * n + QUADS);
  for (let c = QUADS; c > 0; c--) rim.push(QUADS * n + c);
  for (let r = QUADS; r > 0; r--) rim.push(r * n);
  const base = pos.length / 3;
  rim.forEach((v) => pos.push(pos[v * 3], pos[v * 3 + 1], 1));
  rim.forEach((v, k) => {
    const next = (k + 1) % rim.length;
    index.push(v, rim[next], base + k, rim[next], base + next, base + k);
  });
  const g = new THREE.InstancedBufferGeometry();
  g.setAttribute("position", new THREE.Float32BufferAttribute(pos, 3));
  g.setIndex(index);
  return g;
}
