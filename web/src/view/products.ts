/** Products as they come from the core, decoded once and kept by key. */
import * as THREE from "three";
import { bytesOf, type Manifest } from "../api/client";

/** A grid of heights: row 0 north; `east`/`north` of its south-west corner. */
export interface Field {
  nx: number;
  ny: number;
  spacing: number;
  east: number;
  north: number;
  values: Float32Array;
}

export interface Sown {
  id: string;
  tile: number;
  tiles: number[][];
  table: Float32Array;
  sinks: Float32Array;
}

export interface Products {
  manifest: Manifest;
  field: Field;
  weights: Uint8Array;
  layers: number;
  cover: Uint8Array;
  rings: { field: Field; colour: Uint8Array }[];
  streams: { id: string; points: Float32Array }[];
  pools: { id: string; mask: Uint8Array; rows: number; columns: number; bounds: number[] }[];
  sown: Sown[];
}

const kept = new Map<string, ArrayBuffer>();
async function once(key: string): Promise<ArrayBuffer> {
  let data = kept.get(key);
  if (!data) {
    data = await bytesOf(`/api/products/${key}`);
    kept.set(key, data);
    while (kept.size > 60) kept.delete(kept.keys().next().value!);
  }
  return data;
}

export function heightAt(f: Field, east: number, north: number): number {
  const c = Math.min(Math.max((east - f.east) / f.spacing, 0), f.nx - 1);
  const r = Math.min(Math.max(f.ny - 1 - (north - f.north) / f.spacing, 0), f.ny - 1);
  const ix = Math.min(Math.floor(c), f.nx - 2);
  const iy = Math.min(Math.floor(r), f.ny - 2);
  const fx = c - ix;
  const fy = r - iy;
  const v = f.values;
  const i = iy * f.nx + ix;
  const nw = v[i];
  const se = v[i + f.nx + 1];
  if (fx > fy) {
    const ne = v[i + 1];
    return nw + fx * (ne - nw) + fy * (se - ne);
  }
  const sw = v[i + f.nx];
  return nw + fy * (sw - nw) + fx * (se - sw);
}

/** Steepness in degrees and the way the ground faces, by central differences. */
export function slopeAt(f: Field, east: number, north: number): { slope: number; facing: number } {
  const s = f.spacing;
  const gx = (heightAt(f, east + s, north) - heightAt(f, east - s, north)) / (2 * s);
  const gy = (heightAt(f, east, north + s) - heightAt(f, east, north - s)) / (2 * s);
  return {
    slope: (Math.atan(Math.hypot(gx, gy)) * 180) / Math.PI,
    facing: ((Math.atan2(-gx, -gy) * 180) / Math.PI + 360) % 360,
  };
}

/** The plant whose foot is nearest to a place, within 2 m, by sowing and kind. */
export function plantAt(
  p: Products,
  hidden: Set<string>,
  east: number,
  north: number,
): { sowing: string; kind: string; away: number } | null {
  let best: { sowing: string; kind: string; away: number } | null = null;
  for (const s of p.sown) {
    const line = p.manifest.sown.find((x) => x.id === s.id);
    if (!line || hidden.has(s.id) || !s.tile) continue;
    const c0 = Math.floor((east - 2) / s.tile);
    const c1 = Math.floor((east + 2) / s.tile);
    const r0 = Math.floor((north - 2) / s.tile);
    const r1 = Math.floor((north + 2) / s.tile);
    for (const [c, r, from, to] of s.tiles) {
      if (c < c0 || c > c1 || r < r0 || r > r1) continue;
      for (let i = from; i < to; i++) {
        const away = Math.hypot(s.table[i * 9] - east, s.table[i * 9 + 1] - north);
        if (away < (best?.away ?? 2))
          best = { sowing: s.id, kind: line.kinds[s.table[i * 9 + 8] >> 4] ?? "", away };
      }
    }
  }
  return best;
}

/** All that a manifest names; `before` lends the plants that a draft does not bring. */
export async function fetchProducts(m: Manifest, before: Products | null): Promise<Products> {
  const jobs = [once(m.heights), once(m.weights), once(m.cover)];
  const rings = Promise.all(
    m.beyond.map(async (line, i) => {
      const [heights, colour] = await Promise.all([once(line.heights), once(line.colour)]);
      const old = before?.rings[i];
      const g = line.grid;
      const field =
        old && old.field.values.buffer === heights
          ? old.field
          : {
              nx: g.nx,
              ny: g.ny,
              spacing: g.spacing,
              east: g.east_m ?? 0,
              north: g.north_m ?? 0,
              values: new Float32Array(heights),
            };
      return {
        field,
        colour: old && old.colour.buffer === colour ? old.colour : new Uint8Array(colour),
      };
    }),
  );
  const pools = Promise.all(
    m.water
      .filter((w) => w.key && w.bounds)
      .map(async (w) => {
        const data = await once(w.key);
        const head = new Uint32Array(data, 0, 2);
        return {
          id: w.id,
          rows: head[0],
          columns: head[1],
          mask: new Uint8Array(data, 8),
          bounds: w.bounds!,
        };
      }),
  );
  const streams = Promise.all(
    m.water
      .filter((w) => w.key && !w.bounds)
      .map(async (w) => ({ id: w.id, points: new Float32Array(await once(w.key)) })),
  );
  const [heights, weights, cover] = await Promise.all(jobs);
  const g = m.grid;
  const field: Field = {
    nx: g.nx,
    ny: g.ny,
    spacing: g.spacing,
    east: 0,
    north: 0,
    values: new Float32Array(heights.slice(0)),
  }; // a copy: a brush changes it
  const sown = await Promise.all(
    m.sown.map(async (line): Promise<Sown> => {
      const old = before?.sown.find((s) => s.id === line.id);
      if (!line.key)
        return (
          old ?? {
            id: line.id,
            tile: 1,
            tiles: [],
            table: new Float32Array(0),
            sinks: new Float32Array(0),
          }
        );
      const table = new Float32Array(await once(line.key));
      if (old && old.table === table) return old;
      const sinks = new Float32Array(table.length / 9);
      for (let i = 0; i < sinks.length; i++)
        sinks[i] = heightAt(field, table[i * 9], table[i * 9 + 1]) - table[i * 9 + 2];
      return { id: line.id, tile: line.tile_m, tiles: line.tiles, table, sinks };
    }),
  );
  return {
    manifest: m,
    field,
    weights: new Uint8Array(weights),
    layers: weights.byteLength / (g.nx * g.ny * 4),
    cover: new Uint8Array(cover),
    rings: m.draft && before ? before.rings : await rings,
    pools: await pools,
    streams: await streams,
    sown,
  };
}

/** One sheet of the survey as the core measured it. */
export async function fetchBytes(key: string): Promise<Uint8Array> {
  return new Uint8Array(await once(key));
}
export async function fetchSheet(key: string): Promise<Float32Array> {
  return new Float32Array(await once(key));
}

export function floatTexture(values: Float32Array, nx: number, ny: number): THREE.DataTexture {
  const t = new THREE.DataTexture(values, nx, ny, THREE.RedFormat, THREE.FloatType);
  t.minFilter = t.magFilter = THREE.LinearFilter;
  t.needsUpdate = true;
  return t;
}

function writeNormals(out: Uint16Array, f: Field, r0: number, c0: number, r1: number, c1: number) {
  const { nx, ny, values: v, spacing } = f;
  const half = THREE.DataUtils.toHalfFloat;
  for (let r = Math.max(0, r0); r < Math.min(ny, r1); r++) {
    const rn = Math.max(r - 1, 0) * nx;
    const rs = Math.min(r + 1, ny - 1) * nx;
    const dy = ((rs - rn) / nx) * spacing;
    for (let c = Math.max(0, c0); c < Math.min(nx, c1); c++) {
      const cw = Math.max(c - 1, 0);
      const ce = Math.min(c + 1, nx - 1);
      const gx = (v[r * nx + ce] - v[r * nx + cw]) / ((ce - cw) * spacing);
      const gy = (v[rn + c] - v[rs + c]) / dy;
      const s = 1 / Math.sqrt(1 + gx * gx + gy * gy);
      const i = (r * nx + c) * 2;
      out[i] = half(-gx * s);
      out[i + 1] = half(-gy * s);
    }
  }
}

/** East and north parts of the unit normal as half floats. */
export function normalTexture(f: Field): THREE.DataTexture {
  const out = new Uint16Array(f.nx * f.ny * 2);
  writeNormals(out, f, 0, 0, f.ny, f.nx);
  const t = new THREE.DataTexture(out, f.nx, f.ny, THREE.RGFormat, THREE.HalfFloatType);
  t.minFilter = t.magFilter = THREE.LinearFilter;
  t.needsUpdate = true;
  return t;
}

/** The normals of a rectangle of posts, anew. */
export function patchNormals(
  t: THREE.DataTexture,
  f: Field,
  r0: number,
  c0: number,
  r1: number,
  c1: number,
) {
  writeNormals(t.image.data as unknown as Uint16Array, f, r0, c0, r1, c1);
  t.needsUpdate = true;
}

/**
 * For each post the height above which the sun is seen: a sweep away from the sun over the heights.
 */
export function sunLine(f: Field, sun: THREE.Vector3, out: Float32Array): Float32Array {
  const { nx, ny, values: v, spacing } = f;
  const flat = Math.hypot(sun.x, sun.y);
  if (flat < 1e-3) return out.fill(-1e6);
  // one step along the larger part of the sun's bearing, towards it
  const major = Math.max(Math.abs(sun.x), Math.abs(sun.y));
  const dx = sun.x / major;
  const dy = -sun.y / major;
  const fall = (sun.z / major) * spacing;
  const columns = Math.abs(dx) >= Math.abs(dy);
  const na = columns ? nx : ny;
  const nb = columns ? ny : nx;
  const sa = columns ? Math.sign(dx) : Math.sign(dy);
  const slip = columns ? dy : dx;
  for (let k = 0; k < na; k++) {
    const a = sa > 0 ? na - 1 - k : k;
    const prev = a + sa;
    for (let b = 0; b < nb; b++) {
      const i = columns ? b * nx + a : a * nx + b;
      if (prev < 0 || prev >= na) {
        out[i] = -1e6;
        continue;
      }
      const pb = b + slip;
      const j0 = Math.floor(pb);
      const t = pb - j0;
      const at = (j: number) => {
        const q = columns
          ? Math.min(Math.max(j, 0), ny - 1) * nx + prev
          : prev * nx + Math.min(Math.max(j, 0), nx - 1);
        return Math.max(out[q], v[q]);
      };
      out[i] = at(j0) * (1 - t) + at(j0 + 1) * t - fall;
    }
  }
  return out;
}
