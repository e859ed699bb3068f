/** Four fields of value noise in four octaves, one in each channel, that repeat without a seam. */
import * as THREE from "three";

const SIDE = 256;
const OCTAVES = [8, 16, 32, 64]; // cells a side
const WHOLE = 1.03; // what the octaves' strengths come to

function hash(x: number, y: number, c: number): number {
  let h = Math.imul(x, 374761393) ^ Math.imul(y, 668265263) ^ Math.imul(c + 1, 2147483647 - 77);
  h = Math.imul(h ^ (h >>> 13), 1274126177);
  return ((h ^ (h >>> 16)) >>> 0) / 4294967295;
}

/** One octave, added to `out` with a strength: its corners are hashed once each. */
function addOctave(out: Float32Array, cells: number, strength: number, channel: number) {
  const corners = new Float32Array(cells * cells);
  for (let y = 0; y < cells; y++)
    for (let x = 0; x < cells; x++) corners[y * cells + x] = hash(x, y, channel * 7 + cells);
  const wide = SIDE / cells;
  const ease = Float32Array.from(
    { length: wide },
    (_, i) => (i / wide) ** 2 * (3 - (2 * i) / wide),
  );
  for (let y = 0; y < SIDE; y++) {
    const ty = ease[y % wide];
    const row = Math.floor(y / wide) * cells;
    const next = ((Math.floor(y / wide) + 1) % cells) * cells;
    for (let x = 0; x < SIDE; x++) {
      const tx = ease[x % wide];
      const i = Math.floor(x / wide);
      const j = (i + 1) % cells;
      const top = corners[row + i] + tx * (corners[row + j] - corners[row + i]);
      const low = corners[next + i] + tx * (corners[next + j] - corners[next + i]);
      out[y * SIDE + x] += strength * (top + ty * (low - top));
    }
  }
}

export function noiseTexture(): THREE.DataTexture {
  const data = new Uint8Array(SIDE * SIDE * 4);
  for (let channel = 0; channel < 4; channel++) {
    const sum = new Float32Array(SIDE * SIDE);
    OCTAVES.forEach((cells, k) => addOctave(sum, cells, 0.55 * 0.5 ** k, channel));
    for (let i = 0; i < sum.length; i++)
      data[i * 4 + channel] = Math.min(255, (sum[i] / WHOLE) * 255);
  }
  const t = new THREE.DataTexture(data, SIDE, SIDE);
  t.wrapS = t.wrapT = THREE.RepeatWrapping;
  t.magFilter = THREE.LinearFilter;
  t.minFilter = THREE.LinearMipmapLinearFilter;
  t.generateMipmaps = true;
  t.needsUpdate = true;
  return t;
}
