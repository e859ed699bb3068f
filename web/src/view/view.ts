/**
 * The 3D engine: it knows products and the light, not React. It conducts helpers, one for each
 * concern, and draws only when something changed.
 */
import * as THREE from "three";
import type { Cabinet, FamilyFacts, Scene, Shot } from "../api/shapes";
import { Developer, sumTarget, target } from "./develop";
import { FrameLoop } from "./frameLoop";
import { Grounds } from "./grounds";
import { airUniforms, setAir } from "./light";
import { Materials } from "./materials";
import { Overlays } from "./overlays";
import { groundHit, projected, rayThrough } from "./picking";
import { pieceSpots } from "./placed";
import { type Choice, Plants } from "./plants";
import { aim, type Pose, poseOf } from "./pose";
import type { Products } from "./products";
import { type Quality, qualityFor } from "./quality";
import { Shadows } from "./shadows";
import { skyMesh } from "./sky";
import { drawStill } from "./still";
import { halton } from "./textures";
import { groundUniforms, sharedUniforms, type Uniforms } from "./uniforms";
import { Water } from "./water";
import { waterSpecs } from "./waters";

const NOTHING_HIDDEN: Set<string> = new Set();
/** The name under which the eye hides the land itself. */
export const LAND = "land";

interface Inset {
  shot: Shot;
  x: number;
  y: number;
  width: number;
  height: number;
}

export class View {
  readonly renderer: THREE.WebGLRenderer;
  readonly camera = new THREE.PerspectiveCamera(50, 1.5, 0.12, 120000);
  readonly quality: Quality;
  pose: Pose = { east: 0, north: 0, up: 100, bearing: 0, tilt: 0, focal: 28 };
  products: Products | null = null;
  onFrame: (() => void) | null = null;
  inset: Inset | null = null;
  budget: number;
  private readonly scene = new THREE.Scene();
  private readonly air = airUniforms();
  private readonly shared: Uniforms = sharedUniforms(this.air);
  private readonly own: Uniforms = groundUniforms();
  private readonly loop = new FrameLoop({
    draw: (moving) => this.drawNow(moving),
    advance: (seconds) => {
      this.air.uTime.value = (this.air.uTime.value + seconds) % 3600;
    },
    done: () => this.onFrame?.(),
  });
  private readonly grounds: Grounds;
  private readonly materials: Materials;
  private readonly overlays = new Overlays(this.own);
  private readonly plants: Plants;
  private readonly water: Water;
  private readonly sky: THREE.Mesh;
  private readonly developer: Developer;
  private readonly shadows: Shadows;
  private picture: THREE.WebGLRenderTarget | null = null;
  private sum: THREE.WebGLRenderTarget | null = null;
  private insetTarget: THREE.WebGLRenderTarget | null = null;
  private doc: Scene | null = null;
  private hidden = NOTHING_HIDDEN;
  private waterKey = "";

  constructor(
    readonly canvas: HTMLCanvasElement,
    wanted: string | null,
  ) {
    this.renderer = new THREE.WebGLRenderer({
      canvas,
      antialias: false,
      powerPreference: "high-performance",
      preserveDrawingBuffer: false,
    });
    this.renderer.autoClear = false;
    // the develop pass writes sRGB itself
    this.renderer.outputColorSpace = THREE.LinearSRGBColorSpace;
    this.quality = qualityFor(this.renderer, wanted);
    this.budget = this.quality.budget;
    const soft = this.quality.soft;
    this.grounds = new Grounds(this.shared, this.own, soft, () => this.changed(true));
    this.materials = new Materials(this.shared, this.own, soft, (work) => void this.wait(work));
    this.plants = new Plants(this.shared, () => this.changed(true));
    this.water = new Water({ ...this.shared, uCover: this.own.uCover });
    this.sky = skyMesh(this.shared);
    this.developer = new Developer(this.renderer);
    this.scene.add(...this.grounds.meshes, this.plants.group, this.water.group, this.sky);
    const others = [...this.grounds.meshes, this.water.group, this.sky];
    const casters = { scene: this.scene, plants: this.plants, others };
    this.shadows = new Shadows(this.renderer, this.shared, casters, this.quality.shadow);
  }

  setCabinet(cabinet: Cabinet, families: FamilyFacts[]) {
    this.plants.setCabinet(cabinet.kinds, families);
    this.materials.setDirected(cabinet.grounds.filter((g) => g.directed).map((g) => g.name));
  }

  resize(width: number, height: number) {
    this.renderer.setPixelRatio(1);
    this.renderer.setSize(width, height, false);
    this.picture?.dispose();
    this.sum?.dispose();
    this.picture = target(width, height, true);
    this.sum = sumTarget(width, height);
    this.changed();
  }

  // ---- frames
  /** Something that shows has changed; `rest` draws the full frame at once. */
  changed(rest = false) {
    this.loop.changed(rest);
  }

  get frames(): number {
    return this.loop.count;
  }

  get lastMs(): number {
    return this.loop.lastMs;
  }

  get settled(): boolean {
    return this.loop.settled && !this.plants.pending && !this.grounds.pending;
  }

  /** Frames wait while several changes are made; always paired with `release`. */
  hold() {
    this.loop.hold();
  }

  release() {
    this.loop.release();
  }

  /** Frames wait until a work is done. */
  private async wait(work: Promise<void>) {
    this.hold();
    try {
      await work;
    } catch {
      // a texture that cannot be had leaves what was there; the build tells of it
    } finally {
      this.release();
    }
  }

  // ---- what is shown
  /** `hidden`: ids of sowings, pieces and waters, and LAND: hidden in the view, never in stills. */
  setScene(doc: Scene, products: Products, hidden: Set<string>) {
    const old = this.products;
    this.doc = doc;
    this.products = products;
    this.hidden = hidden;
    this.grounds.set(doc, products, old, hidden.has(LAND));
    this.materials.set(doc, products);
    this.arrange(hidden);
    this.setLight(doc);
  }

  /** Waters, plants and pieces in their places, but for those hidden. */
  private arrange(hidden: Set<string>) {
    const doc = this.doc!;
    const products = this.products!;
    const off = [...hidden].join();
    const { water, heights } = products.manifest;
    const waterKey = JSON.stringify([doc.water, water, heights, off]);
    if (waterKey !== this.waterKey) {
      this.waterKey = waterKey;
      const centre = new THREE.Vector2(doc.plot.width_m / 2, doc.plot.depth_m / 2);
      this.water.set(waterSpecs(doc, products, hidden), centre);
    }
    const sown = products.sown.map((s) => ({
      sown: s,
      kinds: products.manifest.sown.find((e) => e.id === s.id)?.kinds ?? [],
      hidden: hidden.has(s.id),
    }));
    this.plants.set(
      sown.filter((x) => x.kinds.length),
      pieceSpots(doc, products, hidden),
    );
    this.shadows.renew();
  }

  setLight(doc: Scene) {
    this.doc = doc;
    setAir(this.air, doc.light, this.products?.manifest.lowest ?? 0);
    this.developer.exposure = Math.pow(2, doc.light.exposure) * 1.05;
    if (this.products) this.grounds.setSun(this.products.field, this.products.manifest.heights);
    this.changed();
  }

  /** Wind and waves move for as long as they are played. */
  play(on: boolean) {
    if (this.loop.playing === on) return;
    this.loop.playing = on;
    const b = (((this.doc?.light.wind_from ?? 240) + 180) * Math.PI) / 180;
    this.shared.uWind.value.set(Math.sin(b), Math.cos(b), 1, on ? 1 : 0);
    if (!on) {
      this.air.uTime.value = 0;
      this.shadows.renew();
    }
    this.changed(!on);
  }

  get playing(): boolean {
    return this.loop.playing;
  }

  /** How many plants are drawn at once, and whether as cards only; never what the scene holds. */
  thin(budget: number | null, proxies: boolean) {
    this.budget = budget ?? this.quality.budget;
    this.plants.proxies = proxies;
    this.changed(true);
  }

  get trianglesDrawn(): number {
    return this.plants.triangles;
  }

  get plantsDrawn(): number {
    return this.plants.drawn;
  }

  // ---- overlays
  /** Hatches a share of the ground, 0..255 at each post of the shown grid; null takes it away. */
  wash(shares: Uint8Array | null, colour = "#b9812a") {
    this.overlays.wash(this.products?.field ?? null, shares, colour);
    this.changed(true);
  }

  /** Lays a measure over the ground as an ink wash between two values; null takes it away. */
  sheet(
    values: Float32Array | null,
    low = 0,
    high = 1,
    lines = 8,
    log = false,
    colour = "#24404e",
  ) {
    this.overlays.sheet(this.products?.field ?? null, values, low, high, lines, log, colour);
    this.changed(true);
  }

  /** A ring on the ground, in metres; null takes it away. */
  ring(east: number, north: number, radius: number | null) {
    this.overlays.ring(east, north, radius);
    this.changed();
  }

  /** New heights in a rectangle of the shown grid; the rest follows with the next build. */
  patch(r0: number, c0: number, rows: number, columns: number, heights: Float32Array) {
    const f = this.products?.field;
    if (!f || r0 + rows > f.ny || c0 + columns > f.nx) return;
    this.grounds.patch(f, r0, c0, rows, columns, heights);
    this.changed();
  }

  // ---- drawing
  private aim(pose: Pose, aspect: number) {
    aim(this.camera, pose, aspect, this.products?.field ?? null);
    this.air.uEye.value.copy(this.camera.position);
  }

  private drawNow(moving: boolean) {
    const q = this.quality;
    this.draw(moving ? q.moving : q.rest, moving ? 1 : q.frames, moving);
  }

  /** One frame of the face at a scale, summed from `frames`. */
  draw(scale: number, frames: number, moving: boolean) {
    if (!this.picture || !this.sum || !this.doc || !this.products) return;
    const size = this.renderer.getSize(new THREE.Vector2());
    const width = Math.max(1, Math.round(size.x * scale));
    const height = Math.max(1, Math.round(size.y * scale));
    const { least, fine, soft, frames: many } = this.quality;
    this.aim(this.pose, size.x / size.y);
    const choice: Choice = {
      pixels: size.y,
      least: least * (moving ? 1.6 : 1),
      thin: true,
      budget: this.budget * (moving ? 0.4 : 1),
    };
    this.own.uSpare.value = moving || many === 1 ? 0.97 : soft ? 0.1 : 0.02;
    this.compose(choice, moving ? fine * 0.7 : fine, !moving);
    if (frames > 1) this.developer.begin(this.sum);
    for (let i = 0; i < frames; i++) {
      this.renderTo(this.picture, width, height, i, frames);
      if (frames > 1) this.developer.add(this.picture, this.sum);
    }
    this.renderer.setRenderTarget(null);
    this.renderer.setViewport(0, 0, size.x, size.y);
    const part = new THREE.Vector2(width / size.x, height / size.y);
    this.developer.show(frames > 1 ? this.sum : this.picture, frames, null, part);
    if (this.inset && !moving) this.drawInset(this.inset, size);
  }

  private renderTo(
    t: THREE.WebGLRenderTarget,
    width: number,
    height: number,
    frame: number,
    of: number,
  ) {
    this.shared.uGrain.value = frame;
    if (of > 1) {
      const x = halton(frame + 1, 2) - 0.5;
      const y = halton(frame + 1, 3) - 0.5;
      this.camera.setViewOffset(width, height, x, y, width, height);
    }
    t.viewport.set(0, 0, width, height);
    t.scissorTest = false;
    this.renderer.setRenderTarget(t);
    this.renderer.clear();
    this.renderer.render(this.scene, this.camera);
    if (of > 1) this.camera.clearViewOffset();
  }

  private drawInset({ shot, x, y, width, height }: Inset, size: THREE.Vector2) {
    if (this.insetTarget?.width !== width || this.insetTarget.height !== height) {
      this.insetTarget?.dispose();
      this.insetTarget = target(width, height, true);
    }
    this.aim(this.poseOf(shot), width / height);
    const choice = { pixels: height, least: 3, thin: true, budget: this.quality.budget * 0.4 };
    this.compose(choice, this.quality.fine * 0.6, false);
    this.renderTo(this.insetTarget, width, height, 0, 1);
    this.renderer.setRenderTarget(null);
    this.renderer.setScissorTest(true);
    this.renderer.setViewport(x, size.y - y - height, width, height);
    this.renderer.setScissor(x, size.y - y - height, width, height);
    this.developer.show(this.insetTarget, 1, null);
    this.renderer.setScissorTest(false);
    this.renderer.setViewport(0, 0, size.x, size.y);
    this.aim(this.pose, size.x / size.y);
  }

  /** Everything ready for one eye: patches, shadows, plants. */
  private compose(choice: Choice, fine: number, shadowsToo: boolean) {
    const { field, manifest, sown } = this.products!;
    if (shadowsToo) this.shadows.draw(this.camera.position, this.pose, field, manifest.heights);
    if (!sown.length && !this.doc!.pieces.length) this.shadows.none();
    const focal = choice.pixels / 2 / Math.tan((this.camera.fov * Math.PI) / 360);
    this.own.uCoverNear.value = Math.max(12, ((0.4 * focal) / choice.least) * 0.55);
    this.grounds.choose(this.camera, fine);
    this.plants.choose(this.camera, field, choice);
  }

  /** The face as it stands, drawn once more at rest, as a picture's address. */
  photograph(): string {
    const inset = this.inset;
    this.inset = null;
    this.drawNow(false);
    const out = this.canvas.toDataURL("image/jpeg", 0.92);
    this.inset = inset;
    this.changed(true);
    return out;
  }

  /**
   * A still of any size with everything in it, whatever the eye hides. Gives a PNG, or null when
   * stopped.
   */
  async still(
    pose: Pose,
    width: number,
    height: number,
    frames: number,
    tell: (share: number) => void,
    stopped: () => boolean,
  ): Promise<Blob | null> {
    if (!this.products) return null;
    const keep = this.pose;
    const aimed = () => this.aim(pose, width / height);
    this.hold();
    try {
      this.pose = pose;
      this.unhide();
      aimed();
      const choice = { pixels: height, least: 1.1, thin: false, budget: Infinity };
      this.compose(choice, Math.max(2.5, this.quality.fine), true);
      const by = {
        renderer: this.renderer,
        camera: this.camera,
        scene: this.scene,
        aim: aimed,
        grain: (frame: number) => {
          this.shared.uGrain.value = frame;
        },
        add: this.developer.add.bind(this.developer),
        begin: this.developer.begin.bind(this.developer),
        show: this.developer.show.bind(this.developer),
      };
      return await drawStill(by, { width, height, frames }, tell, stopped);
    } finally {
      this.pose = keep;
      if (this.doc && this.products) this.setScene(this.doc, this.products, this.hidden);
      this.shadows.renew();
      this.release();
    }
  }

  /** Everything is there, for a still. */
  private unhide() {
    if (!this.hidden.size) return;
    this.grounds.set(this.doc!, this.products!, this.products, false);
    this.arrange(NOTHING_HIDDEN);
  }

  // ---- places
  poseOf(shot: Shot): Pose {
    return poseOf(shot, this.products?.field ?? null);
  }

  private aimFace() {
    const size = this.renderer.getSize(new THREE.Vector2());
    this.aim(this.pose, size.x / size.y);
  }

  /** Where a place comes to lie on the canvas (0..1, y down), or null behind the eye. */
  project(east: number, north: number, up: number): { x: number; y: number } | null {
    this.aimFace();
    return projected(this.camera, new THREE.Vector3(east, north, up));
  }

  /** The ray through a point of the canvas (0..1, y down), in the world. */
  ray(x: number, y: number): THREE.Ray {
    this.aimFace();
    return rayThrough(this.camera, x, y);
  }

  /** Where the ray through a point of the canvas meets the ground of the plot, or null. */
  pick(x: number, y: number): THREE.Vector3 | null {
    if (!this.products || !this.doc) return null;
    const { width_m, depth_m } = this.doc.plot;
    return groundHit(this.ray(x, y), this.products.field, width_m, depth_m);
  }
}
