/** Products as they come from the core, decoded once and kept by key. */
import * as calls from "../api/calls";
import { PLANT_FLOATS } from "../api/numbers";
import type { LandDraft, Manifest } from "../api/shapes";
import { type Field, heightAt, laidOver } from "./field";
import { kindOf } from "./packing";

export interface Sown {
  /** Of the table: that of the sowing, or another for what it gives beyond the plot. */
  id: string;
  sowing: string;
  kinds: string[];
  tile: number;
  tiles: number[][];
  table: Float32Array;
  sinks: Float32Array;
}

/** What one water is made of. */
export interface WaterMade {
  id: string;
  /** The waves on its tiles: real part, imaginary part, omega. */
  waves: Float32Array | null;
  /** Of one that stands, half floats: time to the shore, share under water, openness, depth. */
  field: Uint16Array | null;
  /** Of a stream: east, north, level, speed, whiteness. */
  points: Float32Array | null;
  /** Where foam lies about discs in it: east, north, radius, level, reach, amount of each. */
  stands: Float32Array | null;
  /** What stones do to a stream, in a strip along it, as half floats. */
  eddies: Uint16Array | null;
  /** Thickness of its ice at each post, as half floats. */
  ice: Uint16Array | null;
}

export interface Products {
  /** Its land is newer than all that lies on it; its grid is not that of the heights' key. */
  ahead?: boolean;
  manifest: Manifest;
  field: Field;
  weights: Uint8Array;
  layers: number;
  cover: Uint8Array;
  tone: Uint8Array;
  shore: Float32Array;
  open: Uint8Array;
  mists: Float32Array[];
  cards: Map<string, Uint8Array>;
  rings: { field: Field; colour: Uint8Array }[];
  waters: WaterMade[];
  sown: Sown[];
}

/** Leaves the page's thread to others for a moment. */
export const pause = () => new Promise<void>((go) => setTimeout(go, 0));

const kept = new Map<string, ArrayBuffer>();

async function once(key: string): Promise<ArrayBuffer> {
  let data = kept.get(key);
  if (!data) {
    data = await calls.productBytes(key);
    kept.set(key, data);
    while (kept.size > 60) kept.delete(kept.keys().next().value!);
  }
  return data;
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
    if (hidden.has(s.sowing) || !s.tile) continue;
    const c0 = Math.floor((east - 2) / s.tile);
    const c1 = Math.floor((east + 2) / s.tile);
    const r0 = Math.floor((north - 2) / s.tile);
    const r1 = Math.floor((north + 2) / s.tile);
    for (const [c, r, from, to] of s.tiles) {
      if (c < c0 || c > c1 || r < r0 || r > r1) continue;
      for (let i = from; i < to; i++) {
        const away = Math.hypot(
          s.table[i * PLANT_FLOATS] - east,
          s.table[i * PLANT_FLOATS + 1] - north,
        );
        if (away < (best?.away ?? 2))
          best = {
            sowing: s.sowing,
            kind: s.kinds[kindOf(s.table[i * PLANT_FLOATS + 8])] ?? "",
            away,
          };
      }
    }
  }
  return best;
}

type Land = Omit<Products, "sown">;

/**
 * All that a manifest names; `before` lends the plants that a draft does not bring. `onLand` hears
 * of the land as soon as it is there, without plants.
 */
export async function fetchProducts(
  m: Manifest,
  before: Products | null,
  onLand?: (land: Products) => Promise<void>,
): Promise<Products> {
  const tables = m.sown.map((line) => (line.key ? once(line.key) : null)); // on their way
  const far = m.far_sown.map((line) => once(line.key));
  const land = await fetchLand(m, before);
  await onLand?.({ ...land, sown: [] });
  const sown: Sown[] = [];
  for (const [i, line] of m.sown.entries()) {
    const old = before?.sown.find((s) => s.id === line.id);
    const data = await tables[i];
    const mine = { id: line.id, sowing: line.id, kinds: line.kinds };
    sown.push(
      data
        ? await readSown({ ...line, ...mine }, data, land.field, old)
        : { ...(old ?? nothingSown), ...mine },
    );
  }
  for (const [i, line] of m.far_sown.entries()) {
    const mine = { id: `${line.id} beyond`, sowing: line.id, kinds: line.kinds };
    const old = before?.sown.find((s) => s.id === mine.id);
    sown.push(await readSown({ ...line, ...mine }, await far[i], land.field, old));
  }
  if (m.draft) sown.push(...(before?.sown.filter((s) => s.id !== s.sowing) ?? []));
  return { ...land, sown };
}

/** What was made before, on land that has changed since: it follows later. */
export async function onLand(draft: LandDraft, before: Products): Promise<Products> {
  const values = new Float32Array((await once(draft.heights)).slice(0));
  const field = laidOver({ ...draft.grid, east: 0, north: 0, values }, before.field);
  const { heights, lowest, highest } = draft;
  return {
    ...before,
    ahead: true,
    field,
    manifest: { ...before.manifest, draft: true, heights, lowest, highest },
  };
}

async function fetchLand(m: Manifest, before: Products | null): Promise<Land> {
  const keys = [m.heights, m.weights, m.cover, m.shore, m.tone, m.open];
  const [rings, waters, mists, cards, [heights, weights, cover, shore, tone, open]] =
    await Promise.all([
      m.draft && before ? before.rings : fetchRings(m, before),
      fetchWaters(m),
      Promise.all(m.mists.map(async (x) => new Float32Array(await once(x.key)))),
      Promise.all(
        m.cards.map(async (c) => [c.picture, new Uint8Array(await once(c.picture))] as const),
      ),
      Promise.all(keys.map(once)),
    ]);
  const { nx, ny, spacing } = m.grid;
  const values = new Float32Array(heights.slice(0)); // a copy: a brush changes it
  return {
    manifest: m,
    field: { nx, ny, spacing, east: 0, north: 0, values },
    weights: new Uint8Array(weights),
    layers: weights.byteLength / (nx * ny * 4),
    cover: new Uint8Array(cover),
    shore: new Float32Array(shore),
    open: new Uint8Array(open),
    tone: before?.tone.buffer === tone ? before.tone : new Uint8Array(tone),
    rings,
    waters,
    mists,
    cards: new Map(cards),
  };
}

function fetchRings(m: Manifest, before: Products | null): Promise<Products["rings"]> {
  return Promise.all(
    m.beyond.map(async (line, i) => {
      const [heights, colour] = await Promise.all([once(line.heights), once(line.colour)]);
      const old = before?.rings[i];
      const { nx, ny, spacing, east_m, north_m } = line.grid;
      const field =
        old && old.field.values.buffer === heights
          ? old.field
          : {
              nx,
              ny,
              spacing,
              east: east_m ?? 0,
              north: north_m ?? 0,
              values: new Float32Array(heights),
            };
      const same = old && old.colour.buffer === colour;
      return { field, colour: same ? old.colour : new Uint8Array(colour) };
    }),
  );
}

function fetchWaters(m: Manifest): Promise<WaterMade[]> {
  return Promise.all(
    m.water
      .filter((w) => w.key)
      .map(async ({ id, key, sea, runs, around, ice, eddies }) => {
        const [made, waves, stands, frozen, stirred] = await Promise.all([
          once(key),
          sea.waves ? once(sea.waves) : null,
          around ? once(around) : null,
          ice ? once(ice) : null,
          eddies ? once(eddies.key) : null,
        ]);
        return {
          id,
          waves: waves && new Float32Array(waves),
          field: runs ? null : new Uint16Array(made),
          points: runs ? new Float32Array(made) : null,
          ice: frozen && new Uint16Array(frozen),
          stands: stands && new Float32Array(stands),
          eddies: stirred && new Uint16Array(stirred),
        };
      }),
  );
}

const nothingSown = {
  tile: 1,
  tiles: [],
  table: new Float32Array(0),
  sinks: new Float32Array(0),
};

/** A sowing's plants, with how deep each stands; the page's thread is free between two sowings. */
async function readSown(
  line: Pick<Sown, "id" | "sowing" | "kinds"> & { tile_m: number; tiles: number[][] },
  data: ArrayBuffer,
  field: Field,
  old: Sown | undefined,
): Promise<Sown> {
  const { id, sowing, kinds } = line;
  if (old && old.table.buffer === data) return { ...old, sowing, kinds };
  await pause();
  const table = new Float32Array(data);
  const sinks = new Float32Array(table.length / PLANT_FLOATS);
  for (let i = 0; i < sinks.length; i++)
    sinks[i] =
      heightAt(field, table[i * PLANT_FLOATS], table[i * PLANT_FLOATS + 1]) -
      table[i * PLANT_FLOATS + 2];
  return { id, sowing, kinds, tile: line.tile_m, tiles: line.tiles, table, sinks };
}

/** One sheet of the survey as the core measured it. */
export async function fetchBytes(key: string): Promise<Uint8Array> {
  return new Uint8Array(await once(key));
}

export async function fetchSheet(key: string): Promise<Float32Array> {
  return new Float32Array(await once(key));
}
