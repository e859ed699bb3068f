/**
 * One frame drawn in pieces, each short enough to leave the page's thread and the renderer free
 * for what comes between: plants by so many triangles, the ground and the sky by bands. How much
 * a piece holds follows from what the last ones took.
 */
import type * as THREE from "three";
import type { Fence } from "./fence";

const AIM_MS = 160;
const LEAST_PX = 12_000;
const LEAST_TRIANGLES = 6_000;

/** What covers a frame, and costs much or little for a pixel. */
type Covering = "ground" | "water";

export class Pieces {
  private readonly px: Record<Covering, number>;
  private triangles: number;

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    private readonly fence: Fence,
    software: boolean,
  ) {
    this.px = software ? { ground: 40_000, water: 120_000 } : { ground: 8e6, water: 8e6 };
    this.triangles = software ? 30_000 : 4_000_000;
  }

  /** Ends when a work is drawn; gives the ms that it took. */
  async one(work: () => void): Promise<number> {
    work();
    return this.fence.drawn();
  }

  /** Everything that covers the frame, from below upwards; false when it was dropped. */
  async bands(
    target: THREE.WebGLRenderTarget,
    width: number,
    height: number,
    draw: () => void,
    stale: () => boolean,
    of: Covering = "ground",
  ): Promise<boolean> {
    target.scissorTest = true;
    try {
      for (let y = 0; y < height;) {
        if (stale()) return false;
        const rows = Math.max(8, Math.min(height - y, Math.floor(this.px[of] / width)));
        target.scissor.set(0, y, width, rows);
        const ms = await this.one(() => {
          this.renderer.setRenderTarget(target);
          draw();
        });
        this.px[of] = nextSize(this.px[of], rows * width, ms, LEAST_PX);
        y += rows;
      }
      return true;
    } finally {
      target.scissorTest = false;
    }
  }

  /** Meshes that are shown, some at a time; false when it was dropped. */
  async meshes(
    target: THREE.WebGLRenderTarget,
    shown: { mesh: THREE.Object3D; triangles: number }[],
    draw: () => void,
    stale: () => boolean,
  ): Promise<boolean> {
    for (const { mesh } of shown) mesh.visible = false;
    try {
      for (let i = 0; i < shown.length;) {
        if (stale()) return false;
        let triangles = 0;
        const from = i;
        while (
          i < shown.length &&
          (i === from || triangles + shown[i].triangles < this.triangles)
        ) {
          shown[i].mesh.visible = true;
          triangles += shown[i].triangles;
          i++;
        }
        const ms = await this.one(() => {
          this.renderer.setRenderTarget(target);
          draw();
        });
        for (let k = from; k < i; k++) shown[k].mesh.visible = false;
        this.triangles = nextSize(this.triangles, triangles, ms, LEAST_TRIANGLES);
      }
      return true;
    } finally {
      for (const { mesh } of shown) mesh.visible = true;
    }
  }
}

/** How much the next piece may hold, from what one of so much took. */
function nextSize(size: number, done: number, ms: number, least: number): number {
  if (ms < 3) return Math.max(size, done * 2);
  const right = (done * AIM_MS) / ms;
  return Math.max(least, size * 0.5 + Math.min(right, size * 4) * 0.5);
}
