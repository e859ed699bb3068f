import * as THREE from "three";

export function floatTexture(values: Float32Array, nx: number, ny: number): THREE.DataTexture {
  const t = new THREE.DataTexture(values, nx, ny, THREE.RedFormat, THREE.FloatType);
  t.minFilter = t.magFilter = THREE.LinearFilter;
  t.needsUpdate = true;
  return t;
}
