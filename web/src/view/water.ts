/**
 * Waters: those that stand are drawn as a fan about the eye, which follows the waves near by;
 * streams as ribbons that fall along their lines.
 */
import * as THREE from "three";
import type { Scene } from "../api/shapes";
import type { PieceStands } from "./placed";
import { setSwash } from "./swashShader";
import { goUnder } from "./underWater";
import type { Uniforms } from "./uniforms";
import { MOST_WAKES } from "../api/numbers";
import { WaterSlot } from "./waterSlot";
import type { WaterSpec } from "./waterSpec";

/** A still surface is one whose waves are lower. */
const STILL_M = 3;
const BREAKS_M = 0.2; // waves from this height on break up what is mirrored
const BROKEN = 0.5; // of the pixels across do for that
const LOOKS = 24; // places of a water that are asked, across and down

interface Mirrors {
  level: number;
  sharp: number;
}

export class Water {
  private readonly slots: WaterSlot[] = [];
  private specs: WaterSpec[] = [];

  constructor(private readonly shared: Uniforms) {}

  /** Shows these; true when that needs shaders that were not there. */
  set(waters: WaterSpec[]): boolean {
    const features = () => this.slots.map((s) => s.features).join();
    const before = features();
    this.specs = waters;
    setSwash(this.shared, waters);
    while (this.slots.length < waters.length) {
      const slot = new WaterSlot(this.shared, this.slots.length);
      this.slots.push(slot);
    }
    this.slots.forEach((slot, i) => slot.dress(waters[i] ?? null, this.shared.uTime.value));
    return features() !== before;
  }

  /** Wakes go with the pieces that make them, where those are elsewhere at a moment. */
  moved(doc: Scene, stands: Map<string, PieceStands> | undefined) {
    this.specs.forEach((spec, i) =>
      spec.wakes.slice(0, MOST_WAKES).forEach((w, k) => {
        const piece = doc.pieces.find((p) => p.id === w.of);
        const now = piece && stands?.get(piece.id);
        const turn = now ? ((now.turn - (piece.turn ?? 0)) * Math.PI) / 180 : 0;
        const [c, s] = [Math.cos(turn), Math.sin(turn)];
        const east = w.east - (piece?.east_m ?? 0);
        const north = w.north - (piece?.north_m ?? 0);
        const b = (w.toward * Math.PI) / 180 + turn;
        const x = (now?.east_m ?? piece?.east_m ?? 0) + east * c + north * s;
        const y = (now?.north_m ?? piece?.north_m ?? 0) + north * c - east * s;
        this.slots[i].wakeAt(k, x, y, b);
      }),
    );
  }

  /** Made ready for an eye; gives whether it is under one of them. */
  seenFrom(renderer: THREE.WebGLRenderer, camera: THREE.PerspectiveCamera, spacing: number) {
    const under = goUnder(this.shared, this.specs, camera.position, spacing);
    for (const slot of this.slots) slot.prepare(renderer, camera);
    return under;
  }

  /** What stands, or what runs; a stream is seen over the pool that it meets. */
  drawn(streams: boolean): THREE.Object3D[] {
    const own = this.slots.filter((s) => s.spec && !!s.spec.stream === streams);
    return own.map((s) => s.group);
  }

  /**
   * The level of the water that an eye sees most of, which shows a mirror, and the part of a
   * mirror's pixels across that its waves leave to see; null shows none.
   */
  mirrorFor(camera: THREE.PerspectiveCamera, spacing: number): Mirrors | null {
    const seen = this.slots.map((s) => seenOf(s.spec, camera, spacing));
    const most = seen.indexOf(Math.max(...seen));
    this.slots.forEach((s, i) => (s.mirrors = i === most && seen[i] > 0));
    if (!(seen[most] > 0)) return null;
    const { level, sea } = this.specs[most];
    return { level, sharp: sea.high_m < BREAKS_M ? 1 : BROKEN };
  }

  /** Fewer posts of each are drawn while something moves. */
  moves(on: boolean) {
    for (const slot of this.slots) slot.moves(on);
  }

  /** Whether waters are drawn as a frame before had them. */
  keeps(on: boolean) {
    for (const slot of this.slots) slot.keeps(on);
  }

  /** The waves as they are at a time. */
  run(seconds: number) {
    for (const slot of this.slots) slot.run(seconds);
  }
}

/** How much of a water's surface an eye sees, by the angle that it takes up; 0 has no mirror. */
function seenOf(w: WaterSpec | null, camera: THREE.PerspectiveCamera, spacing: number): number {
  if (!w || w.stream || w.sea.high_m > STILL_M || camera.position.z <= w.level) return 0;
  if (!w.field) return w.pool ? 0 : 1e-3;
  const { nx, ny, data } = w.field;
  const over = camera.position.z - w.level;
  const at = new THREE.Vector3();
  let sum = w.pool ? 0 : 1e-3; // a sea goes on beyond the plot
  for (let r = 0; r < LOOKS; r++)
    for (let c = 0; c < LOOKS; c++) {
      const column = Math.floor(((c + 0.5) / LOOKS) * nx);
      const row = Math.floor(((r + 0.5) / LOOKS) * ny);
      if (!data[(row * nx + column) * 4 + 1]) continue;
      at.set(column * spacing, (ny - 1 - row) * spacing, w.level);
      const far = at.distanceTo(camera.position);
      at.project(camera);
      if (at.z > 1 || Math.abs(at.x) > 1.1 || Math.abs(at.y) > 1.1) continue;
      sum += over / far ** 3;
    }
  return sum;
}
