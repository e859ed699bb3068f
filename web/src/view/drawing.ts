/**
 * Draws the face: at once what there is, then the ground's pages that are lacking, then frames a
 * part of a pixel apart, summed. Each is cut into pieces and dropped as soon as something changes.
 */
import * as THREE from "three";
import type { Clear } from "./clear";
import { Developer } from "./develop";
import { sumTarget, target } from "./targets";
import type { Features } from "./features";
import { Fence } from "./fence";
import { GroundBaker } from "./groundBaker";
import { GroundPages } from "./groundPages";
import type { Grounds } from "./grounds";
import { Horizon } from "./horizon";
import { Laying } from "./laying";
import { type Lens, LensBlur } from "./lens";
import { Mirror, type mirrorUniforms } from "./mirror";
import { MovingPace } from "./movingPace";
import { Pieces } from "./pieces";
import type { Choice, Plants } from "./plants";
import { aim, type Pose, poseOf } from "./pose";
import { pause, type Products } from "./products";
import type { Quality } from "./quality";
import type { Sky } from "./sky";
import { type Inset, Screen } from "./screen";
import { Shadows } from "./shadows";
import { halton } from "./textures";
import type { Uniforms } from "./uniforms";
import { Uploads } from "./uploads";
import { fieldsOf } from "./world";

const SHOW_MS = 1500; // after so much laying the face is drawn with what there is
const COARSE = 6; // a page that lacks so many texels a pixel is laid before the first frame
const COARSE_MS = 400;

/** What is drawn, and for whom. */
export interface Drawn {
  products: Products;
  pose: Pose;
  inset: Inset | null;
  /** Anything stands that casts a shadow. */
  casts: boolean;
  budget: number;
}

type Stale = () => boolean;

export class Drawing {
  readonly ground = new THREE.Scene();
  readonly stand = new THREE.Scene();
  readonly camera = new THREE.PerspectiveCamera(50, 1.5, 0.12, 120000);
  readonly developer: Developer;
  readonly screen: Screen;
  readonly shadows: Shadows;
  readonly pages: GroundPages;
  readonly fence: Fence;
  readonly pieces: Pieces;
  private readonly uploads: Uploads;
  private readonly mirror: Mirror;
  private readonly baker: GroundBaker;
  private picture = target(1, 1, true);
  private sum = sumTarget(1, 1);
  /** Hears of each eye that is drawn for. */
  onAim: (camera: THREE.PerspectiveCamera) => void = () => {};
  /** Hears when a quick frame begins and ends. */
  onMoves: (on: boolean) => void = () => {};
  /** A finer light is on its way: a picture in this one would be dropped. */
  waits: () => boolean = () => false;
  /** The ground's textures are not there yet: nothing is laid. */
  bare = false;
  /** The lens that the face is seen through; none keeps all sharp. */
  lens: Lens | null = null;
  private readonly lensBlur: LensBlur;
  private readonly moves: MovingPace;
  private readonly laying: Laying;
  private compiled = "";

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    private readonly quality: Quality,
    private readonly shared: Uniforms,
    private readonly own: Uniforms,
    private readonly grounds: Grounds,
    private readonly plants: Plants,
    private readonly sky: Sky,
    private readonly clear: Clear,
    private readonly features: Features,
  ) {
    features.onChange = () => this.forgetPrograms();
    this.mirror = new Mirror(shared as ReturnType<typeof mirrorUniforms>);
    this.moves = new MovingPace(quality);
    this.uploads = new Uploads(renderer);
    this.developer = new Developer(renderer);
    this.screen = new Screen(renderer, this.developer);
    this.lensBlur = new LensBlur(renderer);
    this.fence = new Fence(renderer.getContext() as WebGL2RenderingContext);
    this.pieces = new Pieces(renderer, this.fence, quality.soft);
    this.pages = new GroundPages(quality.pages);
    this.baker = new GroundBaker(renderer, this.pages, shared, own, quality.soft);
    this.laying = new Laying(this.pages, this.baker, this.pieces);
    this.shadows = new Shadows(renderer, shared, this.stand, plants, quality.shadow);
    own.uSpare.value = quality.soft ? 0.1 : 0.02;
  }

  resize(width: number, height: number) {
    this.renderer.setPixelRatio(1);
    this.renderer.setSize(width, height, false);
    this.picture.dispose();
    this.sum.dispose();
    this.picture = target(width, height, true);
    this.sum = sumTarget(width, height);
    this.screen.forget();
  }

  get size(): THREE.Vector2 {
    return this.renderer.getSize(new THREE.Vector2());
  }

  aim(pose: Pose, aspect: number, products: Products | null) {
    aim(this.camera, pose, aspect, products?.field ?? null);
    (this.shared.uEye.value as THREE.Vector3).copy(this.camera.position);
    this.camera.updateMatrixWorld();
    this.onAim(this.camera);
  }

  /** New programs are compiled before the next frame. */
  forgetPrograms() {
    this.compiled = "";
  }

  /**
   * Programs that are new are compiled beside the page's work, textures sent; false when it was
   * dropped. The very first picture needs those of land and sky alone.
   */
  private async ready(stale: Stale): Promise<boolean> {
    const first = !this.screen.hasPicture;
    const key = `${first} ${this.plants.group.children.length} ${this.ground.children.length}`;
    if (key === this.compiled) return true;
    const scenes = first ? [this.ground] : [this.ground, this.stand, this.clear.whole()];
    for (const scene of scenes) this.features.dress(scene);
    this.renderer.setRenderTarget(this.picture);
    if (!first) await this.renderer.compileAsync(this.baker.scene, this.baker.camera);
    for (const scene of scenes) await this.renderer.compileAsync(scene, this.camera);
    if (!first) await this.uploads.send(scenes);
    // asked for one by one, as a renderer that cannot compile aside holds the page for each
    for (const program of this.renderer.info.programs ?? []) {
      (program as { getUniforms?: () => void }).getUniforms?.();
      await pause();
    }
    this.compiled = key;
    return !stale();
  }

  /** Everything chosen for one eye: patches of land, plants. */
  private compose(
    drawn: Drawn,
    pixels: number,
    fine: number,
    how: Partial<Choice>,
    camera = this.camera,
  ) {
    const { field } = drawn.products;
    const choice = { ...this.choice(drawn, pixels), ...how };
    this.own.uCoverNear.value = Math.max(12, ((0.4 * this.focal(pixels)) / choice.least) * 0.55);
    const shows = this.grounds.plot.group.visible;
    const horizon = shows ? Horizon.of(camera, fieldsOf(drawn.products)) : null;
    this.sky.over(horizon);
    this.grounds.choose(camera, fine, horizon);
    this.plants.choose(camera, field, choice, horizon);
    this.features.dress(this.stand);
  }

  /** What is chosen of the plants at rest. */
  private choice(drawn: Drawn, pixels: number): Choice {
    return { pixels, least: this.quality.least, thin: true, budget: drawn.budget };
  }

  private focal(pixels: number): number {
    return pixels / 2 / Math.tan((this.camera.fov * Math.PI) / 360);
  }

  // ---- while something moves
  /** A quick frame of the whole face, as large and full as can be drawn in time. */
  async moving(drawn: Drawn): Promise<void> {
    const size = this.size;
    this.aim(drawn.pose, size.x / size.y, drawn.products);
    const width = Math.max(1, Math.round(size.x * this.moves.scale));
    const height = Math.max(1, Math.round(size.y * this.moves.scale));
    await pause(); // what was aimed and what is chosen hold the page's thread one by one
    const budget = drawn.budget * this.moves.share;
    const least = this.quality.least * 1.6;
    this.compose(drawn, size.y, this.quality.fine * 0.7, { budget, least });
    if (!(await this.ready(() => false))) return;
    const ms = await this.pieces.one(() => {
      this.onMoves(true);
      this.begin(this.picture, width, height);
      // the very first picture is land and sky: each program takes its time when it first draws
      const first = !this.screen.hasPicture;
      if (!first) this.renderer.render(this.stand, this.camera);
      this.renderer.render(this.ground, this.camera);
      if (!first) this.clear.now(this.picture, width, height, this.camera);
      this.onMoves(false);
    });
    this.screen.show(this.picture, 1, width / size.x, height / size.y);
    await this.fence.drawn();
    this.moves.took(ms);
  }

  // ---- at rest
  /** The full picture; false when it was dropped. `tell` hears when something new is seen. */
  async full(drawn: Drawn, stale: Stale, tell: () => void): Promise<boolean> {
    const size = this.size;
    this.aim(drawn.pose, size.x / size.y, drawn.products);
    // the sun's line comes first, and what lies on land that went ahead
    const waits = () => this.grounds.pending || drawn.products.ahead;
    while (waits() && !stale()) await this.fence.drawn();
    const { rest, fine, frames } = this.quality;
    const width = Math.max(1, Math.round(size.x * rest));
    const height = Math.max(1, Math.round(size.y * rest));
    if (!this.screen.hasPicture) {
      await this.moving(drawn); // something at once
      tell();
    }
    if (!(await this.ready(stale))) return false;
    this.aim(drawn.pose, size.x / size.y, drawn.products);
    if (!(await this.shade(drawn, this.choice(drawn, size.y), stale))) return false;
    const once = async (i: number, of: number) => {
      if (!(await this.frame(this.picture, width, height, i, of, stale))) return false;
      if (of > 1) {
        if (i === 0) this.developer.begin(this.sum);
        this.developer.add(this.picture, this.sum);
        await this.fence.drawn();
      }
      this.screen.show(of > 1 ? this.sum : this.picture, i + 1, width / size.x, height / size.y);
      tell();
      return true;
    };
    if (!(await this.refine(drawn, height, stale, tell))) return false;
    while (this.waits() && !stale()) await this.fence.drawn();
    if (!(await this.drawMirror(drawn, width, height, stale))) return false;
    this.compose(drawn, size.y, fine, {});
    if (!(await this.ready(stale))) return false;
    for (let i = 0; i < frames; i++) if (!(await once(i, frames))) return false;
    if (this.lens && rest === 1 && !(await this.blur(frames, stale))) return false;
    if (drawn.inset && !(await this.drawInset(drawn, drawn.inset, stale))) return false;
    await this.fence.drawn();
    return true;
  }

  /** What the lens leaves unsharp of a whole picture; false when it was dropped. */
  private async blur(frames: number, stale: Stale): Promise<boolean> {
    const from = frames > 1 ? this.sum : this.picture;
    const t = this.lensBlur.begin(from, frames, this.camera, this.lens!);
    const draw = () => this.lensBlur.draw();
    if (!(await this.pieces.bands(t, t.width, t.height, draw, stale))) return false;
    this.screen.show(t, 1, 1, 1);
    return true;
  }

  /** Lays what is lacking, and shows in between how far it is; false when it was dropped. */
  private async refine(drawn: Drawn, pixels: number, stale: Stale, tell: () => void) {
    if (!(await this.lay(drawn, pixels, stale, COARSE, COARSE_MS))) return false;
    for (;;) {
      const left = await this.lay(drawn, pixels, stale, 1, SHOW_MS);
      if (left !== "more") return left === "done";
      await this.moving(drawn);
      tell();
      if (stale()) return false;
    }
  }

  private async shade(drawn: Drawn, choice: Choice, stale: Stale): Promise<boolean> {
    const { field, manifest } = drawn.products;
    const casts = drawn.casts && this.quality.shadow > 0;
    if (casts) {
      const seen = { eye: this.camera.position, focal: this.focal(choice.pixels), choice };
      for (const work of this.shadows.works(seen, drawn.pose, field, manifest.heights)) {
        if (stale()) return false;
        await this.pieces.one(work);
      }
    }
    this.shadows.end(casts);
    return !stale();
  }

  /** Lays the pages that the eye lacks, if any are laid at all. */
  private async lay(drawn: Drawn, pixels: number, stale: Stale, least: number, most = Infinity) {
    if (this.bare || !this.quality.lays) return stale() ? false : "done";
    const eye = {
      camera: this.camera,
      field: drawn.products.field,
      focal: this.focal(pixels),
      blur: this.quality.blur,
    };
    return this.laying.lay(eye, stale, least, most);
  }

  private begin(t: THREE.WebGLRenderTarget, width: number, height: number) {
    t.viewport.set(0, 0, width, height);
    t.scissorTest = false;
    this.renderer.setRenderTarget(t);
    this.renderer.clear();
  }

  /** One frame of what was chosen, moved by a part of a pixel; false when it was dropped. */
  async frame(
    t: THREE.WebGLRenderTarget,
    width: number,
    height: number,
    i: number,
    of: number,
    stale: Stale,
  ): Promise<boolean> {
    this.shared.uGrain.value = i;
    if (of > 1) {
      const x = halton(i + 1, 2) - 0.5;
      const y = halton(i + 1, 3) - 0.5;
      this.camera.setViewOffset(width, height, x, y, width, height);
    }
    try {
      if (!(await this.solid(t, width, height, this.camera, stale))) return false;
      const kept = this.quality.soft && i === 1 && of === 2 ? this.sum.texture : null;
      return await this.clear.bands(this.pieces, t, width, height, this.camera, stale, kept);
    } finally {
      if (of > 1) this.camera.clearViewOffset();
    }
  }

  /** All that lets nothing through. */
  private async solid(
    t: THREE.WebGLRenderTarget,
    width: number,
    height: number,
    camera: THREE.PerspectiveCamera,
    stale: Stale,
  ): Promise<boolean> {
    this.begin(t, width, height);
    const plants = () => this.renderer.render(this.stand, camera);
    if (!(await this.pieces.meshes(t, this.plants.shown(), plants, stale))) return false;
    const ground = () => this.renderer.render(this.ground, camera);
    return this.pieces.bands(t, width, height, ground, stale);
  }

  /** What the water that is seen most mirrors; false when it was dropped. */
  private async drawMirror(drawn: Drawn, width: number, height: number, stale: Stale) {
    const { field } = drawn.products;
    const share = this.quality.mirror;
    const water = share ? this.clear.water.mirrorFor(this.camera, field.spacing) : null;
    if (!water) {
      this.mirror.shows = false;
      return true;
    }
    const part = share * water.sharp;
    const t = this.mirror.begin(Math.ceil(width * part), Math.ceil(height * part));
    this.mirror.follow(this.camera, water.level);
    const eye = this.shared.uEye.value as THREE.Vector3;
    eye.copy(this.mirror.camera.position);
    try {
      const how = { budget: drawn.budget * 0.4, least: this.quality.least * 1.5 };
      const fine = this.quality.fine * 0.6;
      this.compose(drawn, t.height, fine, how, this.mirror.camera);
      const whole = await this.solid(t, t.width, t.height, this.mirror.camera, stale);
      if (whole) this.mirror.end();
      return whole;
    } finally {
      eye.copy(this.camera.position);
    }
  }

  /** Everything for a still of a height in pixels; false when it was stopped. */
  async readyForStill(drawn: Drawn, pixels: number, stopped: Stale): Promise<boolean> {
    this.compiled = "";
    if (!(await this.ready(stopped))) return false;
    this.compiled = "";
    const how = { least: 1.1, thin: false, budget: Infinity };
    if (!(await this.shade(drawn, { pixels, ...how }, stopped))) return false;
    if (!(await this.drawMirror(drawn, pixels * this.camera.aspect, pixels, stopped))) return false;
    this.compose(drawn, pixels, Math.max(2.5, this.quality.fine), how);
    return true;
  }

  /** A part of a still, the camera being set; false when it was stopped. */
  part(t: THREE.WebGLRenderTarget, width: number, height: number, grain: number, stopped: Stale) {
    return this.frame(t, width, height, grain, 1, stopped);
  }

  private async drawInset(drawn: Drawn, inset: Inset, stale: Stale): Promise<boolean> {
    const { shot, width, height } = inset;
    const picture = this.screen.insetOf(width, height);
    this.aim(poseOf(shot, drawn.products.field), width / height, drawn.products);
    this.mirror.shows = false;
    try {
      if (!(await this.ready(stale))) return false;
      if (!(await this.lay(drawn, height, stale, 2))) return false;
      const budget = this.quality.budget * 0.4;
      this.compose(drawn, height, this.quality.fine * 0.6, { budget, least: 3 });
      if (!(await this.frame(picture, width, height, 0, 1, stale))) return false;
    } finally {
      const size = this.size;
      this.aim(drawn.pose, size.x / size.y, drawn.products);
      this.mirror.shows = true;
    }
    this.screen.showInset(inset);
    return true;
  }

  /** What was drawn belongs to another scene. */
  forget() {
    this.screen.forget();
    this.pages.clear();
  }
}
