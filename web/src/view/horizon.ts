/** What the land itself hides from an eye: the highest slope of sight along each bearing. */
import * as THREE from "three";
import { type Field, heightAt } from "./field";
import { within } from "./world";

export const BEARINGS = 256; // that are looked along, across the picture
const FIRST_M = 4;
const GROWS = 1.06; // from one distance to the next
const SPARE = 0.15; // of the picture's half width on either side
const SKY_SPARE = 0.02; // slope, below the horizon that is found
const SLACK_M = 0.3; // what stands up from the land's own heights, as its relief

/** A box that may be hidden: what lies in it is no higher than its `max.z`. */
export type Hidable = Pick<THREE.Box3, "min" | "max">;

export class Horizon {
  private readonly ahead: number;
  private readonly half: number;
  private readonly steps: number;
  private readonly highest: Float32Array;
  private readonly eye: THREE.Vector3;

  private constructor(camera: THREE.PerspectiveCamera, fields: Field[], half: number) {
    this.eye = camera.position.clone();
    this.ahead = aheadOf(camera);
    this.half = half;
    const widest = fields[fields.length - 1];
    const reach = widest.spacing * Math.hypot(widest.nx, widest.ny);
    this.steps = Math.ceil(Math.log(reach / FIRST_M) / Math.log(GROWS));
    this.highest = new Float32Array(BEARINGS * this.steps);
    for (let b = 0; b < BEARINGS; b++) this.look(fields, b);
  }

  /**
   * The horizon of an eye over the land, or null where it says nothing: under the ground, as a
   * mirror's eye, beyond the land, or looking so steeply that every bearing is in the picture.
   */
  static of(camera: THREE.PerspectiveCamera, fields: Field[]): Horizon | null {
    const { x, y, z } = camera.position;
    const under = fields.find((f) => within(f, x, y));
    if (!under || z <= heightAt(under, x, y)) return null;
    const half = halfSeen(camera);
    return half === null ? null : new Horizon(camera, fields, half);
  }

  private look(fields: Field[], b: number) {
    const bearing = this.ahead + this.half * ((2 * b) / (BEARINGS - 1) - 1);
    const east = Math.sin(bearing);
    const north = Math.cos(bearing);
    let top = -Infinity;
    let d = FIRST_M;
    for (let k = 0; k < this.steps; k++) {
      const x = this.eye.x + east * d;
      const y = this.eye.y + north * d;
      const land = fields.find((f) => within(f, x, y)); // none beyond the edge of the world
      if (land) top = Math.max(top, (heightAt(land, x, y) - SLACK_M - this.eye.z) / d);
      this.highest[b * this.steps + k] = top;
      d *= GROWS;
    }
  }

  /** Directions (east, north, up) just below which land lies, from left to right. */
  skyline(): Float32Array {
    const out = new Float32Array(3 * BEARINGS);
    const end = (b: number) => this.highest[b * this.steps + this.steps - 1];
    for (let b = 0; b < BEARINGS; b++) {
      const bearing = this.ahead + this.half * ((2 * b) / (BEARINGS - 1) - 1);
      const beside = Math.min(end(Math.max(0, b - 1)), end(Math.min(BEARINGS - 1, b + 1)));
      const up = Math.min(end(b), beside) - SKY_SPARE;
      out.set([Math.sin(bearing), Math.cos(bearing), up], 3 * b);
    }
    return out;
  }

  /** Whether the land before a box hides all of it. */
  hides({ min, max }: Hidable): boolean {
    const { x, y, z } = this.eye;
    const dx = Math.max(min.x - x, 0, x - max.x);
    const dy = Math.max(min.y - y, 0, y - max.y);
    const near = Math.hypot(dx, dy);
    if (near <= FIRST_M) return false;
    const k = Math.floor(Math.log(near / FIRST_M) / Math.log(GROWS));
    const far = Math.hypot(Math.max(max.x - x, x - min.x), Math.max(max.y - y, y - min.y));
    const top = max.z + SLACK_M - z;
    const slope = top / (top > 0 ? near : far);
    let least = Infinity;
    let most = -Infinity;
    for (const east of [min.x, max.x])
      for (const north of [min.y, max.y]) {
        const away = turned(Math.atan2(east - x, north - y) - this.ahead);
        least = Math.min(least, away);
        most = Math.max(most, away);
      }
    if (most - least > Math.PI) return false; // it lies behind the eye
    const at = (away: number) => ((away / this.half + 1) / 2) * (BEARINGS - 1);
    const from = Math.floor(at(least)) - 1;
    const to = Math.ceil(at(most)) + 1;
    if (from < 0 || to >= BEARINGS) return false;
    for (let b = from; b <= to; b++) if (this.highest[b * this.steps + k] < slope) return false;
    return true;
  }
}

/** An angle between -pi and pi. */
const turned = (angle: number) => angle - 2 * Math.PI * Math.round(angle / (2 * Math.PI));

/** The bearing of the middle of a camera's look, whatever its lens is shifted by. */
function aheadOf(camera: THREE.PerspectiveCamera): number {
  const e = camera.matrixWorld.elements;
  return Math.atan2(-e[8], -e[9]);
}

/**
 * How far to either side of ahead the picture reaches, with some to spare; null where zenith or
 * nadir is in it, or nearly.
 */
function halfSeen(camera: THREE.PerspectiveCamera): number | null {
  const way = new THREE.Vector3();
  let half = 0;
  for (const x of [-1, 1])
    for (const y of [-1, 1]) {
      way.set(x, y, 0.5).unproject(camera).sub(camera.position).normalize();
      if (Math.abs(way.z) > 0.9) return null;
      half = Math.max(half, Math.abs(turned(Math.atan2(way.x, way.y) - aheadOf(camera))));
    }
  half *= 1 + SPARE;
  return half < Math.PI * 0.45 ? half : null;
}
