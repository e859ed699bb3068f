/**
 * Plants, stones and figures: instances chosen by distance, near ones as meshes, far ones as cards.
 */
import * as THREE from "three";
import type { FamilyFacts } from "../api/shapes";
import { type Field, heightAt } from "./field";
import type { Horizon } from "./horizon";
import { PlantBatches } from "./plantBatches";
import { CASTS, type KindFacts, PlantShapes } from "./plantShapes";
import type { Sown } from "./products";
import type { Uniforms } from "./uniforms";

/** A sowing in the view; `spared` are the lamps that leave it dark, one bit for each. */
export interface SownShown {
  sown: Sown;
  kinds: string[];
  hidden: boolean;
  spared: number;
}

export interface PieceSpot {
  id: string;
  spared: number;
  kind: string;
  variant: number;
  east: number;
  north: number;
  sink: number;
  size: number;
  turn: number;
  lean: number;
  bearing: number;
  mirrored: boolean;
  blend: number;
  /** Width, depth and height beside its size. */
  form: [number, number, number];
}

export interface Choice {
  pixels: number;
  least: number;
  thin: boolean;
  budget: number;
}

const WIDE_M = 120; // radius of a map of shadows from which on plants cast by fewer leaves
const REGAINS = 1.05; // what thinning gives back from one choice to the next
const OVER = 1.1; // of the budget that a choice may take

/**
 * The share of a tile's plants that stands for all of them at a distance; they lie in order of
 * their rank, so it is its beginning. All stand nearer than `full`, none beyond `reach`.
 */
function kept(away: number, full: number, reach: number): number {
  const share = away < full ? 1 : Math.pow(full / away, 1.35);
  return away > reach * 0.7 ? share * Math.max(0, 1 - (away - reach * 0.7) / (reach * 0.6)) : share;
}

/** Budgets are told apart by doublings. */
const alike = (how: Choice) => `${Math.round(Math.log2(how.budget + 1))} ${how.least}`;

export class Plants {
  drawn = 0;
  triangles = 0; // of what is drawn
  proxies = false; // cards only
  private readonly shapes: PlantShapes;
  private readonly batches: PlantBatches;
  private sown: SownShown[] = [];
  private pieces: PieceSpot[] = [];
  private families = new Map<string, FamilyFacts>();
  private scale = 1;
  private readonly began = new Map<string, number>();

  /** The kinds' shapes are fetched as they are first needed; `changed` is called when some came. */
  constructor(shared: Uniforms, changed: () => void) {
    this.shapes = new PlantShapes(changed);
    this.batches = new PlantBatches(shared);
  }

  get group(): THREE.Group {
    return this.batches.group;
  }

  setCabinet(kinds: (KindFacts & { name: string })[], families: FamilyFacts[]) {
    this.families = new Map(families.map((f) => [f.name, f]));
    this.shapes.setFacts(kinds);
    this.batches.setFamilies(this.families);
  }

  set(sown: SownShown[], pieces: PieceSpot[]) {
    this.sown = sown;
    this.pieces = pieces;
    for (const name of new Set<string>([
      ...sown.flatMap((s) => s.kinds),
      ...pieces.map((p) => p.kind),
    ]))
      void this.shapes.fetch(name);
  }

  get pending(): boolean {
    return this.shapes.pending;
  }

  /** The meshes that the last choice filled, each with its triangles. */
  shown(): { mesh: THREE.Mesh; triangles: number }[] {
    return this.batches.shown();
  }

  /** Swaps in the plain materials of the shadow pass, or the full ones. */
  plain(on: boolean) {
    this.batches.plain(on);
  }

  /**
   * Fills the batches for an eye. Plants smaller than `least` pixels are left to the ground's own
   * colour.
   */
  choose(
    camera: THREE.PerspectiveCamera,
    field: Field,
    how: Choice,
    horizon: Horizon | null,
  ): void {
    // how near the thinning begins: as far as the budget allows, from where it last did
    this.scale = Math.min(1, (this.began.get(alike(how)) ?? 1) * REGAINS);
    for (let round = 0; round < 5; round++) {
      this.fill(camera, field, how, horizon);
      if (!how.thin || this.drawn <= how.budget * OVER) break;
      this.scale *= Math.max(0.45, Math.sqrt(how.budget / this.drawn)) * 0.97;
    }
    if (how.thin) this.began.set(alike(how), this.scale);
    this.batches.commit();
  }

  private fill(
    camera: THREE.PerspectiveCamera,
    field: Field,
    how: Choice,
    horizon: Horizon | null,
  ) {
    this.batches.empty();
    this.drawn = this.triangles = 0;
    const focal = how.pixels / 2 / Math.tan((camera.fov * Math.PI) / 360);
    const eye = camera.position;
    const frustum = new THREE.Frustum().setFromProjectionMatrix(
      new THREE.Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse),
    );
    const ball = new THREE.Sphere();
    const box = new THREE.Box3();
    const near = focal / 900;
    const scale = how.thin ? this.scale : 1;
    for (const { sown, kinds, hidden, spared } of this.sown) {
      if (hidden) continue;
      const shapes = kinds.map((k) => this.shapes.get(k));
      const tallest = Math.max(...kinds.map((k) => this.shapes.facts(k)?.height_m ?? 1));
      const reach = ((tallest * focal) / how.least) * scale;
      const full = ((tallest * focal) / 26) * scale;
      const t = sown.table;
      for (const [c, r, from, to] of sown.tiles) {
        const cx = (c + 0.5) * sown.tile;
        const cy = (r + 0.5) * sown.tile;
        const away = Math.hypot(cx - eye.x, cy - eye.y);
        if (away - sown.tile * 0.71 > reach * 1.3) continue;
        // where the first of them stands: beyond the plot the field ends
        const foot = heightAt(field, t[from * 9], t[from * 9 + 1]) - sown.sinks[from];
        ball.center.set(cx, cy, foot);
        ball.radius = sown.tile * 0.72 + sown.tile * 0.5 + tallest;
        if (!frustum.intersectsSphere(ball)) continue;
        if (horizon?.hides(ball.getBoundingBox(box))) continue;
        const keep = how.thin ? kept(Math.max(0, away - sown.tile * 0.5), full, reach) : 1;
        const end = from + Math.ceil((to - from) * keep);
        const wider = Math.min(1.5, Math.pow(keep, -0.28));
        for (let i = from; i < end; i++) {
          const o = i * 9;
          const code = t[o + 8];
          const k = code >> 4;
          const shape = shapes[k];
          if (!shape) continue;
          const dx = t[o] - eye.x;
          const dy = t[o + 1] - eye.y;
          const d = Math.sqrt(dx * dx + dy * dy);
          const size = t[o + 6];
          if (d * 1.0 > ((shape.height * size * focal) / how.least) * scale * 1.4 && !how.thin)
            continue;
          // each plant changes its level at a distance of its own, so that no ring of change shows
          let level = this.proxies && how.thin ? shape.far.length : 0;
          const at =
            size *
            near *
            (how.thin ? scale : 1.3) *
            (0.86 + 0.28 * ((t[o] * 7.31 + t[o + 1] * 3.17) % 1));
          while (level < shape.far.length && d > shape.far[level] * at) level++;
          this.triangles += shape.levels[0][level].triangles;
          this.batches.push(
            this.batches.batch(kinds[k], code & 15, level, shape, spared),
            t[o],
            t[o + 1],
            heightAt(field, t[o], t[o + 1]) - sown.sinks[i],
            size * wider,
            (t[o + 3] * Math.PI) / 180,
            (t[o + 4] * Math.PI) / 180,
            (t[o + 5] * Math.PI) / 180,
            t[o + 7],
          );
          this.drawn++;
        }
      }
    }
    for (const p of this.pieces) {
      const shape = this.shapes.get(p.kind);
      if (!shape) continue;
      const d = Math.hypot(p.east - eye.x, p.north - eye.y);
      let level = 0;
      while (
        level < shape.far.length - (p.blend ? 1 : 0) &&
        d > shape.far[level] * p.size * Math.max(...p.form) * near * 1.4
      )
        level++;
      this.triangles += shape.levels[0][level].triangles;
      const batch = this.batches.batch(p.kind, p.variant, level, shape, p.spared);
      if (p.blend > 0) this.batches.blends(batch);
      this.batches.push(
        batch,
        p.east,
        p.north,
        heightAt(field, p.east, p.north) - p.sink,
        p.size * (p.mirrored ? -1 : 1),
        (p.turn * Math.PI) / 180,
        (p.lean * Math.PI) / 180,
        (p.bearing * Math.PI) / 180,
        0.5 + 2 * Math.round(p.blend * 100),
        p.form,
      );
    }
  }

  /**
   * What casts shadows within a radius: everything of some height, at its middle level, thinned as
   * it is for the eye.
   */
  chooseForShadow(
    { centre, radius, least_m }: { centre: THREE.Vector3; radius: number; least_m: number },
    eye: THREE.Vector3,
    focal: number,
    field: Field,
    how: Choice,
  ) {
    this.batches.empty();
    const scale = how.thin ? (this.began.get(alike(how)) ?? 1) : Infinity;
    for (const { sown, kinds, hidden } of this.sown) {
      if (hidden) continue;
      const shapes = kinds.map((k) => this.shapes.get(k));
      const t = sown.table;
      if (!shapes.some((s) => s && s.height >= least_m)) continue;
      const tallest = Math.max(...kinds.map((k) => this.shapes.facts(k)?.height_m ?? 1));
      const reach = ((tallest * focal) / how.least) * scale;
      const full = ((tallest * focal) / 26) * scale;
      for (const [c, r, from, to] of sown.tiles) {
        const [cx, cy] = [(c + 0.5) * sown.tile, (r + 0.5) * sown.tile];
        if (Math.hypot(cx - centre.x, cy - centre.y) > radius * 1.2 + sown.tile * 0.71) continue;
        const away = Math.max(0, Math.hypot(cx - eye.x, cy - eye.y) - sown.tile * 0.5);
        const keep = how.thin ? kept(away, full, reach) : 1;
        const end = from + Math.ceil((to - from) * keep);
        for (let i = from; i < end; i++) {
          const o = i * 9;
          const code = t[o + 8];
          const k = code >> 4;
          const shape = shapes[k];
          if (!shape || shape.height * t[o + 6] < least_m) continue;
          const own = Math.min(1, shape.levels[0].length - 2);
          const level = radius > WIDE_M && shape.casts.length ? CASTS : own;
          this.batches.push(
            this.batches.batch(kinds[k], code & 15, level, shape),
            t[o],
            t[o + 1],
            heightAt(field, t[o], t[o + 1]) - sown.sinks[i],
            t[o + 6],
            (t[o + 3] * Math.PI) / 180,
            (t[o + 4] * Math.PI) / 180,
            (t[o + 5] * Math.PI) / 180,
            0.5,
          );
        }
      }
    }
    for (const p of this.pieces) {
      const shape = this.shapes.get(p.kind);
      if (shape)
        this.batches.push(
          this.batches.batch(p.kind, p.variant, Math.min(1, shape.levels[0].length - 2), shape),
          p.east,
          p.north,
          heightAt(field, p.east, p.north) - p.sink,
          p.size * (p.mirrored ? -1 : 1),
          (p.turn * Math.PI) / 180,
          (p.lean * Math.PI) / 180,
          (p.bearing * Math.PI) / 180,
          0.5,
          p.form,
        );
    }
    this.batches.commit();
  }
}
