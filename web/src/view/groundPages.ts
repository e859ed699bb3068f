/**
 * Which pages of the ground's look an eye needs, and where each lies: a tree of squares, divided
 * until a page's texel is no wider than a pixel there. What is not needed longest makes room.
 */
import * as THREE from "three";
import { type Field, heightAt } from "./field";
import { CELLS, FINEST_M, INNER, LEVELS } from "./groundPaged";

export interface PageWish {
  level: number;
  column: number;
  row: number;
  /** Texels that a pixel lacks there: the greater, the sooner. */
  lack: number;
}

interface Slot {
  key: string;
  level: number;
  column: number;
  row: number;
  used: number;
}

/** An eye as the pages see it. */
export interface PageEye {
  camera: THREE.PerspectiveCamera;
  field: Field;
  /** Pixels that a thing as wide as its distance takes. */
  focal: number;
  /** Pixels that a texel may be wide. */
  blur: number;
}

const MOST_WISHES = 700;
const GRAZING = 1 / 16; // below this sine the eye sees no finer along the ground
const HIDDEN_BEYOND_M = 25;
const MARCH_STEPS = 14;
const NEAR_M = 40;
const NEAR_BLUR = 0.6;
const CELL_BITS = Math.log2(CELLS);

const keyOf = (level: number, column: number, row: number) => `${level}/${column}/${row}`;

export class GroundPages {
  readonly table: THREE.DataTexture;
  private readonly slots: (Slot | null)[];
  private readonly found = new Map<string, number>();
  private turn = 0;
  private readonly ball = new THREE.Sphere();
  private readonly frustum = new THREE.Frustum();

  /** `across` pages lie side by side in the atlas. */
  constructor(readonly across: number) {
    this.slots = new Array<Slot | null>(across * across).fill(null);
    const cells = new Uint8Array(CELLS * CELLS * LEVELS * 4);
    this.table = new THREE.DataTexture(cells, CELLS, CELLS * LEVELS);
    this.table.needsUpdate = true;
  }

  /** Nothing is laid any more. */
  clear() {
    this.slots.fill(null);
    this.found.clear();
    this.cells.fill(0);
    this.table.needsUpdate = true;
  }

  get count(): number {
    return this.found.size;
  }

  private get cells(): Uint8Array {
    return this.table.image.data as unknown as Uint8Array;
  }

  /** The pages that an eye lacks, the coarsest first, then those that lack most. */
  lacking(eye: PageEye): PageWish[] {
    this.turn++;
    const { camera, field } = eye;
    this.frustum.setFromProjectionMatrix(
      new THREE.Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse),
    );
    const wide = Math.max(field.nx - 1, field.ny - 1) * field.spacing;
    const top = Math.min(LEVELS - 1, Math.max(0, Math.ceil(Math.log2(wide / FINEST_M))));
    const wishes: PageWish[] = [];
    const open = [{ level: top, column: 0, row: 0 }];
    for (let i = 0; i < open.length && wishes.length + i < 4 * MOST_WISHES; i++) {
      const { level, column, row } = open[i];
      const needed = this.texelNeeded(eye, level, column, row);
      if (needed === null) continue;
      const slot = this.found.get(keyOf(level, column, row));
      const texel = (FINEST_M * 2 ** level) / INNER;
      if (slot === undefined) wishes.push({ level, column, row, lack: texel / needed });
      else this.slots[slot]!.used = this.turn;
      if (level === 0 || texel <= needed) continue;
      for (let k = 0; k < 4; k++)
        open.push({ level: level - 1, column: 2 * column + (k & 1), row: 2 * row + (k >> 1) });
    }
    wishes.sort((a, b) => b.level - a.level || b.lack - a.lack);
    return wishes.slice(0, MOST_WISHES);
  }

  /** How wide a texel may be where a square is seen, in m; null where it is not seen. */
  private texelNeeded(
    { camera, field, focal, blur }: PageEye,
    level: number,
    column: number,
    row: number,
  ): number | null {
    const size = FINEST_M * 2 ** level;
    const west = column * size;
    const south = row * size;
    const wide = (field.nx - 1) * field.spacing;
    const deep = (field.ny - 1) * field.spacing;
    if (west >= wide || south >= deep) return null;
    const eye = camera.position;
    const east = Math.min(west + size / 2, wide);
    const north = Math.min(south + size / 2, deep);
    const up = heightAt(field, east, north);
    this.ball.center.set(east, north, up);
    this.ball.radius = size * (level > 8 ? 1 : 0.8) + 1;
    if (!this.frustum.intersectsSphere(this.ball)) return null;
    const away = Math.max(0.4, eye.distanceTo(this.ball.center) - size * 0.6);
    if (away > HIDDEN_BEYOND_M && size < 130 && hidden(field, eye, west, south, size)) return null;
    const step = Math.max(size / 4, field.spacing / 2);
    const gx = (heightAt(field, east + step, north) - heightAt(field, east - step, north)) / step;
    const gy = (heightAt(field, east, north + step) - heightAt(field, east, north - step)) / step;
    const dx = eye.x - east;
    const dy = eye.y - north;
    const dz = eye.z - up;
    const lie = Math.sqrt(1 + (gx * gx + gy * gy) / 4) * Math.max(Math.hypot(dx, dy, dz), 0.1);
    const sine = (dz - (gx * dx + gy * dy) / 2) / lie;
    const close = size > away ? 0.5 : GRAZING; // what is near by lies under every angle
    const near = Math.min(1, Math.max(NEAR_BLUR, away / NEAR_M)); // grain is seen near by
    return ((away / focal) * blur * near) / Math.sqrt(Math.min(1, Math.max(sine, close)));
  }

  /** A place in the atlas for a page that is about to be laid; null when all are in use. */
  place(wish: PageWish): number | null {
    let slot = this.slots.indexOf(null);
    if (slot < 0) {
      let oldest = this.turn;
      this.slots.forEach((s, i) => {
        if (s!.used < oldest) {
          oldest = s!.used;
          slot = i;
        }
      });
      if (slot < 0) return null;
      this.forget(slot);
    }
    const { level, column, row } = wish;
    const key = keyOf(level, column, row);
    this.slots[slot] = { key, level, column, row, used: this.turn };
    this.found.set(key, slot);
    this.write(level, column, row, slot);
    return slot;
  }

  private forget(slot: number) {
    const { key, level, column, row } = this.slots[slot]!;
    this.slots[slot] = null;
    this.found.delete(key);
    const at = cellOf(level, column, row);
    const own = this.entry(slot, column, row);
    // another square may have taken the cell meanwhile
    if (own.every((v, k) => this.cells[at + k] === v)) this.cells.fill(0, at, at + 4);
    this.table.needsUpdate = true;
  }

  private write(level: number, column: number, row: number, slot: number) {
    this.cells.set(this.entry(slot, column, row), cellOf(level, column, row));
    this.table.needsUpdate = true;
  }

  /** What the table holds for a square: page column + 1, page row, its place above the table's. */
  private entry(slot: number, column: number, row: number): number[] {
    const across = slot % this.across;
    const down = Math.floor(slot / this.across);
    return [across + 1, down, (column >> CELL_BITS) & 255, (row >> CELL_BITS) & 255];
  }
}

/** Where the table holds a square: bytes from its beginning. */
function cellOf(level: number, column: number, row: number): number {
  const x = column & (CELLS - 1);
  const y = (row & (CELLS - 1)) + CELLS * level;
  return 4 * (y * CELLS + x);
}

/** Land stands between the eye and all of a square's corners and its middle. */
function hidden(field: Field, eye: THREE.Vector3, west: number, south: number, size: number) {
  for (const [a, b] of [
    [0.5, 0.5],
    [0, 0],
    [1, 0],
    [0, 1],
    [1, 1],
  ]) {
    const east = west + a * size;
    const north = south + b * size;
    const up = heightAt(field, east, north) + 0.4;
    let clear = true;
    for (let k = 1; k < MARCH_STEPS; k++) {
      const t = k / MARCH_STEPS;
      const x = eye.x + (east - eye.x) * t;
      const y = eye.y + (north - eye.y) * t;
      const margin = 0.3 + field.spacing * 0.15;
      if (heightAt(field, x, y) > eye.z + (up - eye.z) * t + margin) {
        clear = false;
        break;
      }
    }
    if (clear) return false;
  }
  return true;
}
