import * as THREE from "three";

/** Floats over a grid, interpolated. */
export function floatTexture(values: Float32Array, nx: number, ny: number): THREE.DataTexture {
  const t = new THREE.DataTexture(values, nx, ny, THREE.RedFormat, THREE.FloatType);
  t.minFilter = t.magFilter = THREE.LinearFilter;
  t.needsUpdate = true;
  return t;
}

/** Pairs of floats over a grid, interpolated. */
export function pairTexture(values: Float32Array, nx: number, ny: number): THREE.DataTexture {
  const t = new THREE.DataTexture(values, nx, ny, THREE.RGFormat, THREE.FloatType);
  t.minFilter = t.magFilter = THREE.LinearFilter;
  t.needsUpdate = true;
  return t;
}

/** RGBA bytes over a grid, interpolated; the texture that they replace is let go. */
export function byteTexture(
  data: Uint8Array,
  nx: number,
  ny: number,
  old?: THREE.Texture,
): THREE.DataTexture {
  old?.dispose();
  const t = new THREE.DataTexture(data as Uint8Array<ArrayBuffer>, nx, ny);
  t.minFilter = t.magFilter = THREE.LinearFilter;
  t.needsUpdate = true;
  return t;
}

/** RGBA bytes over a grid in layers, interpolated. */
export function gridLayers(data: Uint8Array, nx: number, ny: number, layers: number) {
  const t = new THREE.DataArrayTexture(data as Uint8Array<ArrayBuffer>, nx, ny, layers);
  t.minFilter = t.magFilter = THREE.LinearFilter;
  t.needsUpdate = true;
  return t;
}

/** Pictures of one size as layers, with smaller copies of each. */
export function layeredTexture(
  data: Uint8Array,
  width: number,
  height: number,
  layers: number,
  srgb: boolean,
): THREE.DataArrayTexture {
  const t = new THREE.DataArrayTexture(data as Uint8Array<ArrayBuffer>, width, height, layers);
  t.colorSpace = srgb ? THREE.SRGBColorSpace : THREE.NoColorSpace;
  t.magFilter = THREE.LinearFilter;
  t.minFilter = THREE.LinearMipmapLinearFilter;
  t.generateMipmaps = true;
  t.needsUpdate = true;
  return t;
}

/** Halton's sequence, 0..1. */
export function halton(i: number, base: number): number {
  let f = 1;
  let r = 0;
  while (i > 0) {
    f /= base;
    r += f * (i % base);
    i = Math.floor(i / base);
  }
  return r;
}
