/**
 * Waters: those that stand are drawn as a fan about the eye, which follows the waves near by;
 * streams as ribbons that fall along their lines. Each is drawn twice: what it lets through of what
 * lies behind, then what it adds.
 */
import * as THREE from "three";
import type { Scene } from "../api/shapes";
import type { PieceStands } from "./placed";
import { goUnder } from "./underWater";
import type { Uniforms } from "./uniforms";
import { MOST_WAKES } from "./wakeShader";
import { WaterSlot } from "./waterSlot";
import type { WaterSpec } from "./waterSpec";

export class Water {
  readonly group = new THREE.Group();
  private readonly slots: WaterSlot[] = [];
  private specs: WaterSpec[] = [];

  constructor(private readonly shared: Uniforms) {}

  /** Shows these; true when that needs shaders that were not there. */
  set(waters: WaterSpec[]): boolean {
    const before = this.slots.length;
    this.specs = waters;
    while (this.slots.length < waters.length) {
      const slot = new WaterSlot(this.shared, this.slots.length);
      this.slots.push(slot);
      this.group.add(slot.group);
    }
    this.slots.forEach((slot, i) => slot.dress(waters[i] ?? null, this.shared.uTime.value));
    return this.slots.length > before;
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

  /** Made ready for an eye, which may be under one of them. */
  seenFrom(renderer: THREE.WebGLRenderer, camera: THREE.PerspectiveCamera, spacing: number) {
    goUnder(this.shared, this.specs, camera.position, spacing);
    for (const slot of this.slots) slot.prepare(renderer, camera);
  }

  /** The waves as they are at a time. */
  run(seconds: number) {
    for (const slot of this.slots) slot.run(seconds);
  }
}
