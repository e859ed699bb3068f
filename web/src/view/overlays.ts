/** What is laid over the ground: a hatched share, a measure as an ink wash, a ring. */
import * as THREE from "three";
import type { Field } from "./field";
import { linear } from "./light";
import { floatTexture } from "./textures";
import type { Uniforms } from "./uniforms";

const HATCHED = 1;
const MEASURED = 2;

function shareTexture(shares: Uint8Array, nx: number, ny: number): THREE.DataTexture {
  const t = new THREE.DataTexture(shares as Uint8Array<ArrayBuffer>, nx, ny, THREE.RedFormat);
  t.unpackAlignment = 1;
  t.minFilter = t.magFilter = THREE.LinearFilter;
  t.needsUpdate = true;
  return t;
}

export class Overlays {
  constructor(private readonly own: Uniforms) {}

  /** Hatches a share of the ground, 0..255 at each post; null takes it away. */
  wash(field: Field | null, shares: Uint8Array | null, colour: string) {
    this.lay(field, shares, colour, HATCHED);
  }

  /** Lays a measure as a wash between two values, with isolines; null takes it away. */
  sheet(
    field: Field | null,
    values: Float32Array | null,
    low: number,
    high: number,
    lines: number,
    log: boolean,
    colour: string,
  ) {
    this.own.uWashScale.value.set(low, high, lines, log ? 1 : 0);
    this.lay(field, values, colour, MEASURED);
  }

  private lay(
    field: Field | null,
    values: Uint8Array | Float32Array | null,
    colour: string,
    way: number,
  ) {
    const c = linear(colour);
    const fits = !!values && !!field && values.length === field.nx * field.ny;
    this.own.uWashTone.value.set(c.r, c.g, c.b, fits ? way : 0);
    if (!fits) return;
    this.own.uWash.value.dispose();
    this.own.uWash.value =
      values instanceof Float32Array
        ? floatTexture(values, field.nx, field.ny)
        : shareTexture(values, field.nx, field.ny);
  }

  /** Something is laid over the ground. */
  get washes(): boolean {
    return this.own.uWashTone.value.w > 0;
  }

  /** A ring on the ground, in metres; null takes it away. */
  ring(east: number, north: number, radius: number | null) {
    this.own.uRing.value.set(east, north, radius ?? 0, radius === null ? 0 : 1);
  }
}
