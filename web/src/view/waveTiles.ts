/**
 * The waves of a water on their tiles, at a time: the core's numbers, brought together by Fourier's
 * transform as the core does it (src/sow/core/water/field.py).
 */
import * as THREE from "three";
import type { SeaLine } from "../api/shapes";

export const POSTS = 128;
export const MOST_TILES = 5;
const WHOLE = POSTS * POSTS;

const halves = new Uint16Array(WHOLE * 8 * MOST_TILES);

/** Turns of the transform, and where each number of a row goes. */
const cosines = new Float32Array(POSTS / 2);
const sines = new Float32Array(POSTS / 2);
const turned = new Uint8Array(POSTS);
for (let i = 0; i < POSTS / 2; i++) {
  cosines[i] = Math.cos((2 * Math.PI * i) / POSTS);
  sines[i] = Math.sin((2 * Math.PI * i) / POSTS);
}
for (let i = 0; i < POSTS; i++)
  for (let bit = 0; bit < 7; bit++) if (i & (1 << bit)) turned[i] |= 64 >> bit;

/** One row or column of a complex field, transformed where it stands (Cooley & Tukey 1965). */
function transform(re: Float32Array, im: Float32Array, from: number, step: number) {
  for (let i = 0; i < POSTS; i++) {
    const j = turned[i];
    if (j <= i) continue;
    const a = from + i * step;
    const b = from + j * step;
    [re[a], re[b]] = [re[b], re[a]];
    [im[a], im[b]] = [im[b], im[a]];
  }
  for (let half = 1; half < POSTS; half *= 2) {
    const skip = POSTS / (2 * half);
    for (let first = 0; first < POSTS; first += 2 * half)
      for (let i = 0; i < half; i++) {
        const c = cosines[i * skip];
        const s = sines[i * skip];
        const a = from + (first + i) * step;
        const b = a + half * step;
        const x = re[b] * c - im[b] * s;
        const y = re[b] * s + im[b] * c;
        re[b] = re[a] - x;
        im[b] = im[a] - y;
        re[a] += x;
        im[a] += y;
      }
  }
}

function transformAll(re: Float32Array, im: Float32Array) {
  for (let row = 0; row < POSTS; row++) transform(re, im, row * POSTS, 1);
  for (let column = 0; column < POSTS; column++) transform(re, im, column, POSTS);
}

/** Wave numbers of a tile's rows and columns. */
function numbers(side: number): Float32Array {
  const k = new Float32Array(POSTS);
  for (let i = 0; i < POSTS; i++) k[i] = ((i < POSTS / 2 ? i : i - POSTS) * 2 * Math.PI) / side;
  return k;
}

type Pair = [Float32Array, Float32Array];
type Factors = Record<"one" | "long" | "across" | "down" | "aside" | "along", Float32Array>;
const all = () => new Float32Array(WHOLE);
const pair = (): Pair => [new Float32Array(WHOLE), new Float32Array(WHOLE)];

/** From the longest waves of a band to its shortest, as places lie as close as these ask. */
function fadeOf([long, short]: [number, number]): THREE.Vector2 {
  const low = Math.max(long, short / 40);
  const wide = Math.log(short / low);
  return new THREE.Vector2(Math.log(Math.PI / low) / wide, 1 / wide);
}

export class WaveTiles {
  readonly texture: THREE.DataArrayTexture;
  readonly at: THREE.Vector4[] = [];
  /** How much of a tile shows: x less y times the log of how far apart places lie (m). */
  readonly fades: THREE.Vector2[] = [];
  readonly count: number;
  private seconds = NaN;
  private readonly known: Factors[] = [];
  private readonly waves = pair();
  private readonly first = pair();
  private readonly second = pair();

  constructor(
    private readonly sea: SeaLine,
    private readonly data: Float32Array,
    private readonly chop: number,
  ) {
    this.count = sea.tiles.length;
    for (let i = 0; i < MOST_TILES; i++) {
      const t = sea.tiles[i];
      this.at.push(
        t
          ? new THREE.Vector4(t.side_m, Math.cos(t.turn), Math.sin(t.turn), t.steep)
          : new THREE.Vector4(1, 1, 0, 0),
      );
      this.fades.push(fadeOf(t ? [t.band[0], t.band[1]] : [0, 1]));
    }
    const layers = Math.max(1, this.count * 2);
    const texels = new Uint16Array(WHOLE * 4 * layers);
    this.texture = new THREE.DataArrayTexture(texels, POSTS, POSTS, layers);
    this.texture.type = THREE.HalfFloatType;
    this.texture.wrapS = this.texture.wrapT = THREE.RepeatWrapping;
    this.texture.magFilter = THREE.LinearFilter;
    this.texture.minFilter = THREE.LinearMipmapLinearFilter;
    this.texture.generateMipmaps = true;
    this.texture.needsUpdate = true;
  }

  dispose() {
    this.texture.dispose();
  }

  /** The tiles as they are at a time. */
  run(seconds: number) {
    if (seconds === this.seconds || !this.count) return;
    this.seconds = seconds;
    for (let i = 0; i < this.count; i++) this.lay(i, seconds);
    (this.texture.image.data as unknown as Uint16Array).set(
      halves.subarray(0, WHOLE * 8 * this.count),
    );
    this.texture.needsUpdate = true;
  }

  private lay(index: number, seconds: number) {
    const part = (j: number) =>
      this.data.subarray((index * 3 + j) * WHOLE, (index * 3 + j + 1) * WHOLE);
    const [re, im, omega] = [part(0), part(1), part(2)];
    const [wr, wi] = this.waves;
    for (let i = 0; i < WHOLE; i++) {
      const c = Math.cos(omega[i] * seconds);
      const s = Math.sin(omega[i] * seconds);
      wr[i] = re[i] * c + im[i] * s;
      wi[i] = im[i] * c - re[i] * s;
    }
    const { one, long, across, down, aside, along } = this.factors(index);
    const layer = index * 2 * WHOLE * 4;
    // i times a wave turns it by a quarter: (re, im) becomes (-im, re)
    this.pack(one, long, false);
    this.keep(layer, 0, 3);
    this.pack(across, down, true);
    this.keep(layer, 1, 2);
    this.pack(aside, along, true);
    this.keep(layer + WHOLE * 4, 0, 1);
  }

  /** What each wave of a tile is multiplied by, for its height, fold, slopes and shifts. */
  private factors(index: number): Factors {
    const known = this.known[index];
    if (known) return known;
    const k = numbers(this.sea.tiles[index].side_m);
    const made = {
      one: all(),
      long: all(),
      across: all(),
      down: all(),
      aside: all(),
      along: all(),
    };
    for (let i = 0; i < WHOLE; i++) {
      const [x, y] = [k[i & 127], k[i >> 7]];
      const length = Math.max(Math.hypot(x, y), 1e-9);
      made.one[i] = 1;
      made.long[i] = this.chop * length;
      made.across[i] = x;
      made.down[i] = y;
      made.aside[i] = (this.chop * x) / length;
      made.along[i] = (this.chop * y) / length;
    }
    return (this.known[index] = made);
  }

  /** Two real fields from the waves by their factors, as the real and the imaginary part of one. */
  private pack(f: Float32Array, g: Float32Array, quarter: boolean) {
    const [wr, wi] = this.waves;
    const [fr, fi] = this.first;
    const [re, im] = this.second;
    for (let i = 0; i < WHOLE; i++) {
      const row = i >> 7;
      const column = i & 127;
      const j = (((POSTS - row) & 127) << 7) | ((POSTS - column) & 127);
      const ar = quarter ? -wi[i] : wr[i];
      const ai = quarter ? wr[i] : wi[i];
      const br = quarter ? -wi[j] : wr[j];
      const bi = quarter ? wr[j] : wi[j];
      const f1 = f[i];
      const f2 = f[j];
      const g1 = g[i];
      const g2 = g[j];
      const hr = (f1 * ar + f2 * br) / 2;
      const hi = (f1 * ai - f2 * bi) / 2;
      const qr = (g1 * ar + g2 * br) / 2;
      const qi = (g1 * ai - g2 * bi) / 2;
      fr[i] = hr - qi;
      fi[i] = hi + qr;
    }
    re.set(fr);
    im.set(fi);
    transformAll(re, im);
  }

  private keep(layer: number, a: number, b: number) {
    const [re, im] = this.second;
    const half = THREE.DataUtils.toHalfFloat;
    for (let i = 0; i < WHOLE; i++) {
      halves[layer + i * 4 + a] = half(re[i]);
      halves[layer + i * 4 + b] = half(im[i]);
    }
  }
}
