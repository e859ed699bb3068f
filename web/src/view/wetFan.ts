/**
 * A fan about the eye, over -1..1 of its width and 0..1 of its distance, of which only the squares
 * are drawn where there may be water: a renderer without a card shades what is hidden as well.
 */
import * as THREE from "three";
import { type Field, fits } from "./field";
import type { WaterSpec } from "./waterSpec";
import { RAYS, RINGS } from "./waveShader";

const SPARE_M = 0.05;
const RISES = 0.3; // of its waves' height: how far a water rises on dry land, at most

/** Where posts of a plot are low enough, asked for rectangles (Crow 1984). */
export class Lows {
  private readonly sums: Int32Array;

  constructor(
    private readonly field: Field,
    low: (post: number) => boolean,
  ) {
    const { nx, ny } = field;
    const wide = nx + 1;
    this.sums = new Int32Array(wide * (ny + 1));
    for (let r = 0; r < ny; r++) {
      let row = 0;
      for (let c = 0; c < nx; c++) {
        if (low(r * nx + c)) row++;
        this.sums[(r + 1) * wide + c + 1] = this.sums[r * wide + c + 1] + row;
      }
    }
  }

  /** Whether any post in a rectangle, or beside it, is low. */
  any(west: number, south: number, east: number, north: number): boolean {
    const { nx, ny, spacing } = this.field;
    const within = (v: number, most: number) => Math.min(Math.max(v, 0), most);
    const c0 = within(Math.floor(west / spacing) - 1, nx);
    const c1 = within(Math.ceil(east / spacing) + 2, nx);
    const r0 = within(ny - 2 - Math.ceil(north / spacing), ny);
    const r1 = within(ny + 1 - Math.floor(south / spacing), ny);
    const at = (r: number, c: number) => this.sums[r * (nx + 1) + c];
    return at(r1, c1) - at(r0, c1) - at(r1, c0) + at(r0, c0) > 0;
  }
}

/** Where a water may be: a pool within its rim, a sea wherever the land lies low, and beyond it. */
export function lowsOf(w: WaterSpec): Lows | null {
  if (!w.field || !fits(w.lies, w.field)) return null;
  const { data } = w.field;
  const reach = w.level + SPARE_M + RISES * w.sea.high_m;
  const { values } = w.lies;
  return new Lows(w.lies, (i) => (w.pool ? data[4 * i + 1] !== 0 : values[i] < reach));
}

/** How a fan lies: middle bearing, half its width, first and last distance. */
export interface Spread {
  east: number;
  north: number;
  bearing: number;
  half: number;
  first: number;
  last: number;
}

export class WetFan {
  readonly geometry = new THREE.BufferGeometry();
  private readonly index: Uint16Array<ArrayBuffer>;
  private readonly across: number;
  private readonly outward: number;

  /** A fan of every so many posts. */
  constructor(step = 1) {
    this.across = RAYS / step;
    this.outward = RINGS / step;
    const at: number[] = [];
    for (let r = 0; r <= this.outward; r++)
      for (let c = 0; c <= this.across; c++)
        at.push((2 * c) / this.across - 1, r / this.outward, 0);
    this.index = new Uint16Array(6 * this.across * this.outward);
    this.geometry.setAttribute("position", new THREE.Float32BufferAttribute(at, 3));
    this.geometry.setIndex(new THREE.BufferAttribute(this.index, 1));
  }

  /**
   * Keeps the squares that may hold water, `aside` m from where they lie at rest; gives the first
   * and the last ring of them, or null where there is none.
   */
  lay(lies: Spread, lows: Lows | null, pool: boolean, plot: THREE.Vector2, aside: number) {
    const { across, outward } = this;
    const places = this.places(lies);
    let count = 0;
    let first = outward;
    let last = -1;
    for (let r = 0; r < outward; r++)
      for (let c = 0; c < across; c++) {
        const i = r * (across + 1) + c;
        const corners = [i, i + 1, i + across + 1, i + across + 2];
        if (!mayHold(places, corners, lows, pool, plot, aside)) continue;
        const [near, beside, far, farBeside] = corners;
        this.index.set([near, farBeside, far, near, beside, farBeside], 6 * count++);
        first = Math.min(first, r);
        last = r;
      }
    this.geometry.setDrawRange(0, 6 * count);
    this.geometry.getIndex()!.needsUpdate = true;
    return count ? { first: first / outward, last: (last + 1) / outward } : null;
  }

  private places({ east, north, bearing, half, first, last }: Spread): Float32Array {
    const { across, outward } = this;
    const out = new Float32Array(2 * (across + 1) * (outward + 1));
    for (let c = 0; c <= across; c++) {
      const b = bearing + ((2 * c) / across - 1) * half;
      const [x, y] = [Math.sin(b), Math.cos(b)];
      for (let r = 0; r <= outward; r++) {
        const d = r ? first * (last / first) ** (r / outward) : 0;
        out.set([east + d * x, north + d * y], 2 * (r * (across + 1) + c));
      }
    }
    return out;
  }
}

function mayHold(
  places: Float32Array,
  corners: number[],
  lows: Lows | null,
  pool: boolean,
  plot: THREE.Vector2,
  aside: number,
): boolean {
  if (!lows) return true;
  let west = Infinity;
  let south = Infinity;
  let east = -Infinity;
  let north = -Infinity;
  for (const i of corners) {
    west = Math.min(west, places[2 * i]);
    east = Math.max(east, places[2 * i]);
    south = Math.min(south, places[2 * i + 1]);
    north = Math.max(north, places[2 * i + 1]);
  }
  const inside = west > 0 && south > 0 && east < plot.x && north < plot.y;
  if (!inside && !pool) return true;
  return lows.any(west - aside, south - aside, east + aside, north + aside);
}
