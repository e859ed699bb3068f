/**
 * Plants, stones and figures: instances chosen by distance, near ones as meshes, far ones as cards.
 */
import * as THREE from "three";
import { PLANT_FLOATS } from "../api/numbers";
import type { FamilyFacts } from "../api/shapes";
import { type Field, heightAt } from "./field";
import type { Horizon } from "./horizon";
import { kindOf, variantOf } from "./packing";
import { type Batch, PlantBatches } from "./plantBatches";
import { CASTS, type KindFacts, PlantShapes, type Shape } from "./plantShapes";
import type { Sown } from "./products";
import { Sight } from "./sight";
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

/** From where plants are chosen, how finely, and how near their thinning begins. */
interface Eye {
  at: THREE.Vector3;
  focal: number;
  field: Field;
  how: Choice;
  scale: number;
}

/** A round of ground whose shadows are drawn, and from which height on things cast them. */
interface Round {
  centre: THREE.Vector3;
  radius: number;
  least_m: number;
}

const RADIAN = Math.PI / 180;
const NEAR_FOCAL = 900; // pixels to a metre at a metre that a kind's own distances are meant for
const FULL_PX = 26; // tall a plant is at the distance from which on fewer stand for all
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

/** The level at which a kind casts its shadow near by. */
const middle = (shape: Shape) => Math.min(1, shape.levels[0].length - 2);

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
    const scale = how.thin ? this.scale : 1;
    const eye: Eye = { at: camera.position, focal, field, how, scale };
    const sight = new Sight(camera, horizon);
    for (const shown of this.sown) if (!shown.hidden) this.fillSown(shown, eye, sight);
    for (const piece of this.pieces) this.fillPiece(piece, eye);
  }

  /** A sowing's plants, tile by tile; the far ones stand for those that are left out. */
  private fillSown({ sown, kinds, spared }: SownShown, eye: Eye, sight: Sight) {
    const { at, field, how } = eye;
    const shapes = kinds.map((k) => this.shapes.get(k));
    const { tallest, full, reach } = this.reaches(kinds, eye);
    const t = sown.table;
    for (const [c, r, from, to] of sown.tiles) {
      const cx = (c + 0.5) * sown.tile;
      const cy = (r + 0.5) * sown.tile;
      const away = Math.hypot(cx - at.x, cy - at.y);
      if (away - sown.tile * 0.71 > reach * 1.3) continue;
      // where the first of them stands: beyond the plot the field ends
      const foot =
        heightAt(field, t[from * PLANT_FLOATS], t[from * PLANT_FLOATS + 1]) - sown.sinks[from];
      if (!sight.has(cx, cy, foot, sown.tile * 1.22 + tallest)) continue;
      const keep = how.thin ? kept(Math.max(0, away - sown.tile * 0.5), full, reach) : 1;
      const end = from + Math.ceil((to - from) * keep);
      const wider = Math.min(1.5, Math.pow(keep, -0.28));
      for (let i = from; i < end; i++) {
        const o = i * PLANT_FLOATS;
        const code = t[o + 8];
        const kind = kindOf(code);
        const shape = shapes[kind];
        if (!shape) continue;
        const size = t[o + 6];
        const away = Math.hypot(t[o] - at.x, t[o + 1] - at.y);
        if (!how.thin && away > ((shape.height * size * eye.focal) / how.least) * 1.4) continue;
        const level = this.levelOf(shape, away, size, t[o] * 7.31 + t[o + 1] * 3.17, eye);
        this.triangles += shape.levels[0][level].triangles;
        const batch = this.batches.batch(kinds[kind], variantOf(code), level, shape, spared);
        this.stand(sown, i, batch, field, size * wider, t[o + 7]);
        this.drawn++;
      }
    }
  }

  /** How tall the tallest of some kinds is; within `full` all stand, beyond `reach` none, in m. */
  private reaches(kinds: string[], { focal, how, scale }: Eye) {
    const tallest = Math.max(...kinds.map((k) => this.shapes.facts(k)?.height_m ?? 1));
    const reach = ((tallest * focal) / how.least) * scale;
    return { tallest, reach, full: ((tallest * focal) / FULL_PX) * scale };
  }

  /** Each plant changes its level at a distance of its own, so that no ring of change shows. */
  private levelOf(shape: Shape, away: number, size: number, place: number, eye: Eye): number {
    const { how, focal, scale } = eye;
    const own = 0.86 + 0.28 * (place % 1);
    const nearness = size * (focal / NEAR_FOCAL) * (how.thin ? scale : 1.3) * own;
    let level = this.proxies && how.thin ? shape.far.length : 0;
    while (level < shape.far.length && away > shape.far[level] * nearness) level++;
    return level;
  }

  private stand(sown: Sown, i: number, batch: Batch, field: Field, size: number, tint: number) {
    const t = sown.table;
    const o = i * PLANT_FLOATS;
    const up = heightAt(field, t[o], t[o + 1]) - sown.sinks[i];
    const [turn, lean, bearing] = [t[o + 3] * RADIAN, t[o + 4] * RADIAN, t[o + 5] * RADIAN];
    this.batches.push(batch, t[o], t[o + 1], up, size, turn, lean, bearing, tint);
  }

  private fillPiece(p: PieceSpot, { at, focal, field }: Eye) {
    const shape = this.shapes.get(p.kind);
    if (!shape) return;
    const away = Math.hypot(p.east - at.x, p.north - at.y);
    const nearness = p.size * Math.max(...p.form) * (focal / NEAR_FOCAL) * 1.4;
    const last = shape.far.length - (p.blend ? 1 : 0);
    let level = 0;
    while (level < last && away > shape.far[level] * nearness) level++;
    this.triangles += shape.levels[0][level].triangles;
    const batch = this.batches.batch(p.kind, p.variant, level, shape, p.spared);
    if (p.blend > 0) this.batches.blends(batch);
    const size = p.size * (p.mirrored ? -1 : 1);
    this.standPiece(p, batch, field, size, 0.5 + 2 * Math.round(p.blend * 100));
  }

  private standPiece(p: PieceSpot, batch: Batch, field: Field, size: number, tint: number) {
    const up = heightAt(field, p.east, p.north) - p.sink;
    const [turn, lean, bearing] = [p.turn * RADIAN, p.lean * RADIAN, p.bearing * RADIAN];
    this.batches.push(batch, p.east, p.north, up, size, turn, lean, bearing, tint, p.form);
  }

  /**
   * What casts shadows within a radius: everything of some height, at its middle level, thinned as
   * it is for the eye.
   */
  chooseForShadow(round: Round, at: THREE.Vector3, focal: number, field: Field, how: Choice) {
    this.batches.empty();
    const scale = how.thin ? (this.began.get(alike(how)) ?? 1) : Infinity;
    const eye: Eye = { at, focal, field, how, scale };
    for (const shown of this.sown) if (!shown.hidden) this.shadeSown(shown, round, eye);
    for (const p of this.pieces) {
      const shape = this.shapes.get(p.kind);
      if (!shape) continue;
      const batch = this.batches.batch(p.kind, p.variant, middle(shape), shape);
      this.standPiece(p, batch, field, p.size, 0.5);
    }
    this.batches.commit();
  }

  private shadeSown({ sown, kinds }: SownShown, round: Round, eye: Eye) {
    const { centre, radius, least_m } = round;
    const shapes = kinds.map((k) => this.shapes.get(k));
    if (!shapes.some((s) => s && s.height >= least_m)) return;
    const { full, reach } = this.reaches(kinds, eye);
    const t = sown.table;
    for (const [c, r, from, to] of sown.tiles) {
      const cx = (c + 0.5) * sown.tile;
      const cy = (r + 0.5) * sown.tile;
      if (Math.hypot(cx - centre.x, cy - centre.y) > radius * 1.2 + sown.tile * 0.71) continue;
      const away = Math.max(0, Math.hypot(cx - eye.at.x, cy - eye.at.y) - sown.tile * 0.5);
      const keep = eye.how.thin ? kept(away, full, reach) : 1;
      const end = from + Math.ceil((to - from) * keep);
      for (let i = from; i < end; i++) {
        const code = t[i * PLANT_FLOATS + 8];
        const shape = shapes[kindOf(code)];
        const size = t[i * PLANT_FLOATS + 6];
        if (!shape || shape.height * size < least_m) continue;
        const level = radius > WIDE_M && shape.casts.length ? CASTS : middle(shape);
        const batch = this.batches.batch(kinds[kindOf(code)], variantOf(code), level, shape);
        this.stand(sown, i, batch, eye.field, size, 0.5);
      }
    }
  }
}
