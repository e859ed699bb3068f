/** The colour matrix of a material, as `colours_of` in src/sow/core/surface/material.py. */
import * as THREE from "three";
import type { Scene } from "../api/shapes";

const LUM = [0.2126, 0.7152, 0.0722];

/**
 * Tint, lightness, saturation about the luminance, hue about the grey axis; by columns, as three.js
 * keeps matrices.
 */
export function tunes(m: Scene["ground"][number]): number[] {
  const c = new THREE.Color(m.tint);
  const tint = [c.r, c.g, c.b].map((v) => (v * m.bright) / 100);
  const s = m.saturation / 100;
  const a = (m.hue * Math.PI) / 180;
  const sin = Math.sin(a) / Math.sqrt(3);
  const k = (1 - Math.cos(a)) / 3;
  // Rodrigues about (1, 1, 1)
  const about = [
    [1 - 2 * k, k - sin, k + sin],
    [k + sin, 1 - 2 * k, k - sin],
    [k - sin, k + sin, 1 - 2 * k],
  ];
  const off = [0, 1, 2].map(
    (j) => LUM[j] - (LUM[0] * about[0][j] + LUM[1] * about[1][j] + LUM[2] * about[2][j]),
  );
  const turned = about.map((row) => row.map((v, j) => v + off[j]));
  const grey = (i: number, j: number) => LUM[j] + s * ((i === j ? 1 : 0) - LUM[j]);
  const out: number[] = [];
  for (let j = 0; j < 3; j++)
    for (let i = 0; i < 3; i++)
      out.push(
        tint[i] *
          (grey(i, 0) * turned[0][j] + grey(i, 1) * turned[1][j] + grey(i, 2) * turned[2][j]),
      );
  return out;
}
