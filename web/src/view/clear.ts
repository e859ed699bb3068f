/**
 * What lets something through, drawn over all that is solid: waters that stand, streams over them,
 * cards over all.
 */
import * as THREE from "three";
import type { Behind } from "./behind";
import type { Cards } from "./cards";
import type { Pieces } from "./pieces";
import type { Water } from "./water";

interface Layer {
  shows: THREE.Object3D[];
  /** It shows what was drawn before it. */
  reads: boolean;
}

export class Clear {
  readonly scene = new THREE.Scene();

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    readonly water: Water,
    private readonly cards: Cards,
    private readonly behind: Behind,
  ) {}

  private layers(): Layer[] {
    const layers = [
      { shows: this.water.drawn(false), reads: true },
      { shows: this.water.drawn(true), reads: true },
      { shows: [this.cards.group], reads: false },
    ];
    return layers.filter((l) => l.shows.some((o) => o.visible && o.children.length > 0));
  }

  /** Everything, as its programs are compiled. */
  whole(): THREE.Scene {
    return this.show(this.layers().flatMap((l) => l.shows));
  }

  private show(objects: THREE.Object3D[]): THREE.Scene {
    this.scene.clear();
    if (objects.length) this.scene.add(...objects);
    return this.scene;
  }

  private ready(layer: Layer, t: THREE.WebGLRenderTarget, width: number, height: number) {
    if (layer.reads) this.behind.take(this.renderer, t, width, height);
    this.show(layer.shows);
  }

  /** Over what a target holds, at once. */
  now(t: THREE.WebGLRenderTarget, width: number, height: number, camera: THREE.Camera) {
    this.water.keeps(false);
    for (const layer of this.layers()) {
      this.ready(layer, t, width, height);
      this.renderer.render(this.scene, camera);
    }
  }

  /** The same in pieces; false when it was dropped. */
  async bands(
    pieces: Pieces,
    t: THREE.WebGLRenderTarget,
    width: number,
    height: number,
    camera: THREE.Camera,
    stale: () => boolean,
    kept: THREE.Texture | null = null,
  ): Promise<boolean> {
    this.behind.keep(kept);
    this.water.keeps(!!kept);
    for (const layer of this.layers()) {
      this.ready(layer, t, width, height);
      const draw = () => this.renderer.render(this.scene, camera);
      if (!(await pieces.bands(t, width, height, draw, stale, "water"))) return false;
    }
    return true;
  }
}
