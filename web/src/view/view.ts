/**
 * The 3D engine: it knows products and the light, not React. It conducts helpers, one for each
 * concern, and draws only when something changed.
 */
import * as THREE from "three";
import type { Cabinet, FamilyFacts, Light, LightLine, Scene, Shot } from "../api/shapes";
import type { Spread } from "./develop";
import { type Drawn, Drawing } from "./drawing";
import { Features } from "./features";
import { FrameLoop } from "./frameLoop";
import { Grounds } from "./grounds";
import { Behind, type behindUniforms } from "./behind";
import { Cards } from "./cards";
import { Clear } from "./clear";
import { Daylight } from "./daylight";
import { setLamps, setMists, sparedBy } from "./inAir";
import { airUniforms, setAir } from "./light";
import type { Lens } from "./lens";
import { Materials } from "./materials";
import { Overlays } from "./overlays";
import { groundHit, projected, rayThrough } from "./picking";
import { type PieceStands, pieceSpots } from "./placed";
import { Plants } from "./plants";
import { aim, type Pose, poseOf } from "./pose";
import type { Products } from "./products";
import { type Quality, qualityFor } from "./quality";
import type { Inset } from "./screen";
import { Sky } from "./sky";
import { drawStill } from "./still";
import { groundUniforms, sharedUniforms, type Uniforms } from "./uniforms";
import { Water } from "./water";
import { waterSpecs } from "./waters";
import { fieldsOf } from "./world";

const NOTHING_HIDDEN: Set<string> = new Set();
/** A scene at a time: its light where that is another, pieces that are elsewhere, the wind. */
export interface MomentShown {
  light: Light | null;
  pieces: Map<string, PieceStands>;
  wind: number;
  seconds: number;
}

/** What of the land tells on the light: its mean colour and its lowest place, in m. */
interface LitOver {
  ground: number[];
  lowest: number;
}

function nearly(a: LitOver | null, b: LitOver): boolean {
  if (!a || Math.abs(a.lowest - b.lowest) > 8) return false;
  return a.ground.every((c, i) => Math.abs(c - b.ground[i]) < 0.015);
}

/** The name under which the eye hides the land itself. */
export const LAND = "land";

export class View {
  readonly renderer: THREE.WebGLRenderer;
  readonly quality: Quality;
  pose: Pose = { east: 0, north: 0, up: 100, bearing: 0, tilt: 0, focal: 28 };
  products: Products | null = null;
  onFrame: (() => void) | null = null;
  inset: Inset | null = null;
  budget: number;
  private readonly air = airUniforms();
  private readonly shared: Uniforms = sharedUniforms(this.air);
  private readonly own: Uniforms = groundUniforms();
  private readonly loop = new FrameLoop({
    moving: async () => {
      const drawn = this.drawnNow;
      if (drawn) await this.drawing.moving(drawn);
    },
    full: async (stale) => {
      const drawn = this.drawnNow;
      this.drawing.screen.forgetInset(this.inset);
      return !drawn || this.drawing.full(drawn, stale, () => this.onFrame?.());
    },
    advance: (seconds) => {
      this.runTo(this.air.uTime.value + seconds);
    },
    done: () => this.onFrame?.(),
  });
  private readonly features = new Features();
  private readonly grounds: Grounds;
  private readonly materials: Materials;
  private readonly overlays = new Overlays(this.own);
  private readonly plants: Plants;
  private readonly water: Water;
  private readonly sky: Sky;
  private readonly cards: Cards;
  private readonly drawing: Drawing;
  private unit = 1;
  private lit = false; // before there is a light nothing is drawn
  /** Hears of each new light. */
  onLight: ((line: LightLine) => void) | null = null;
  /** Hears why a light could not be had. */
  onTrouble: ((e: unknown) => void) | null = null;
  private readonly daylight: Daylight;
  private scene: number | undefined; // its number, for what is told of its sky
  private doc: Scene | null = null;
  private hidden = NOTHING_HIDDEN;
  private moment: MomentShown | null = null;
  private waterKey = "";
  private mistKey = "";
  private lookKey = "";
  private litOver: LitOver | null = null;
  private waiting = 0;

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
    this.renderer.debug.checkShaderErrors = false; // asking for them would wait for the compiler
    // the develop pass writes sRGB itself
    this.renderer.outputColorSpace = THREE.LinearSRGBColorSpace;
    this.quality = qualityFor(this.renderer, wanted);
    this.budget = this.quality.budget;
    this.daylight = new Daylight(
      (line, pictures, { wish, whole }) => {
        this.onLight?.(line);
        this.unit = line.unit_kcd;
        this.lit = true;
        setLamps(this.air, this.products?.manifest.lamps ?? [], this.unit);
        setAir(this.air, line, pictures, wish.ground);
        this.features.set("SHAFTS", line.shafts > 0);
        this.drawing.developer.exposure.fromArray(line.exposure);
        this.sunMoved(whole);
      },
      (e) => this.onTrouble?.(e),
      this.quality.sky,
    );
    const soft = this.quality.soft;
    this.grounds = new Grounds(this.shared, this.own, soft, () => this.changed(true));
    this.materials = new Materials(this.shared, this.own, soft, (work) => void this.wait(work));
    this.plants = new Plants(this.shared, () => this.changed(true));
    this.water = new Water({ ...this.shared, uCover: this.own.uCover });
    this.sky = new Sky(this.shared);
    this.cards = new Cards(this.shared);
    const behind = new Behind(this.shared as ReturnType<typeof behindUniforms>);
    this.drawing = new Drawing(
      this.renderer,
      this.quality,
      this.shared,
      this.own,
      this.grounds,
      this.plants,
      this.sky,
      new Clear(this.renderer, this.water, this.cards, behind),
      this.features,
    );
    this.drawing.onAim = (camera) => this.seenFrom(camera);
    this.drawing.ground.add(...this.grounds.groups, this.sky.group);
    this.drawing.waits = () => this.daylight.pending;
    this.drawing.onMoves = (on) => {
      this.sky.moves(on);
      if (soft) this.water.moves(on);
    };
    this.drawing.stand.add(this.cards.casters);
    this.drawing.shadows.casters = this.cards.casters;
    this.drawing.stand.add(this.plants.group);
    canvas.addEventListener("webglcontextrestored", () => this.restored());
  }

  get camera(): THREE.PerspectiveCamera {
    return this.drawing.camera;
  }

  /** The card has lost everything and is there again. */
  private restored() {
    this.drawing.pages.clear();
    this.drawing.shadows.renew();
    this.changed(true);
  }

  private get drawnNow(): Drawn | null {
    if (!this.doc || !this.products || !this.lit) return null;
    const { products, pose, inset, budget } = this;
    const shading = this.cards.casters.children.length > 0;
    const casts = products.sown.length > 0 || this.doc.pieces.length > 0 || shading;
    return { products, pose: { ...pose }, inset, casts, budget };
  }

  setFilm(film: ArrayBuffer, spread: Spread) {
    this.drawing.developer.setFilm(film);
    this.drawing.developer.setSpread(spread);
    this.changed();
  }

  /** The lens that the face is seen through; null keeps all sharp. */
  setLens(lens: Lens | null) {
    if (JSON.stringify(lens) === JSON.stringify(this.drawing.lens)) return;
    this.drawing.lens = lens;
    this.changed();
  }

  setCabinet(cabinet: Cabinet, families: FamilyFacts[]) {
    this.plants.setCabinet(cabinet.kinds, families);
    this.materials.setDirected(cabinet.grounds.filter((g) => g.directed).map((g) => g.name));
  }

  resize(width: number, height: number) {
    this.drawing.resize(width, height);
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

  /** Waits until the next picture shows, or for `most_ms`. */
  async shown(most_ms: number): Promise<void> {
    const from = this.shows;
    const end = performance.now() + most_ms;
    while (this.shows === from && performance.now() < end)
      await new Promise((go) => setTimeout(go, 10));
  }

  /** How many pictures the face has shown, quick ones too. */
  get shows(): number {
    return this.drawing.screen.shows;
  }

  /** The ground is laid anew, as after a change of its materials. */
  layAnew() {
    this.drawing.pages.clear();
    this.changed(true);
  }

  /** Another scene is opened: what is drawn belongs to the old one. */
  forget(scene: number) {
    this.scene = scene;
    this.products = null;
    this.litOver = null;
    this.daylight.forget();
    this.drawing.forget();
  }

  /** The face holds a picture. */
  get pictured(): boolean {
    return this.drawing.screen.hasPicture;
  }

  get settled(): boolean {
    return (
      this.loop.settled &&
      this.drawing.screen.hasPicture &&
      !this.waiting &&
      !this.plants.pending &&
      !this.daylight.pending &&
      !this.grounds.pending
    );
  }

  /** Frames wait while several changes are made; always paired with `release`. */
  hold() {
    this.loop.hold();
  }

  release() {
    this.loop.release();
  }

  /** Textures of the ground are on their way: until then it is drawn in its mean tone. */
  private async wait(work: Promise<void>) {
    this.waiting++;
    this.drawing.bare = true;
    try {
      await work;
    } catch {
      // a texture that cannot be had leaves what was there; the build tells of it
    } finally {
      this.waiting--;
      this.drawing.bare = this.waiting > 0;
      this.drawing.pages.clear();
      this.changed(true);
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
    const { weights, heights, shore, ground } = products.manifest;
    const lookKey = JSON.stringify([weights, heights, shore, ground, doc.ground]);
    if (lookKey !== this.lookKey) this.drawing.pages.clear();
    this.lookKey = lookKey;
    this.arrange(hidden);
    this.air.uShadeLevel.value = products.manifest.mean;
    setLamps(this.air, products.manifest.lamps, this.unit);
    if (this.cards.set(products.manifest.cards, products.cards, hidden))
      this.drawing.forgetPrograms();
    const mistKey = products.manifest.mists.map((m) => m.key).join();
    if (mistKey !== this.mistKey) setMists(this.air, products.manifest.mists, products.mists);
    this.mistKey = mistKey;
    this.features.set("MISTS", products.manifest.mists.length > 0);
    this.features.set("LAMPS", products.manifest.lamps.length > 0);
    this.setLight(doc);
    this.sunMoved();
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
      if (this.water.set(waterSpecs(doc, products, hidden))) this.drawing.forgetPrograms();
      this.groundMust();
    }
    this.water.moved(doc, this.moment?.pieces);
    const sown = products.sown.map((s) => ({
      sown: s,
      kinds: s.kinds,
      hidden: hidden.has(s.sowing),
      spared: sparedBy(products.manifest.lamps, s.sowing),
    }));
    this.plants.set(
      sown.filter((x) => x.kinds.length),
      pieceSpots(doc, products, hidden, this.moment?.pieces),
    );
    this.drawing.shadows.renew();
  }

  /** Asks for a scene's light; what shows is drawn anew when it has come. */
  setLight(doc: Scene) {
    this.doc = doc;
    const m = this.products?.manifest;
    if (!m) return;
    const side_m = Math.max(doc.plot.width_m, doc.plot.depth_m);
    const land = { ground: m.colour, lowest: Math.round(m.lowest) };
    // land that is dragged changes the light too little to be asked for at each step
    if (!m.draft || !nearly(this.litOver, land)) this.litOver = land;
    const light = this.moment?.light ?? doc.light;
    this.daylight.set({ light, ...this.litOver!, side_m, scene: this.scene });
  }

  /** Shows the scene as it is at a moment; null shows it as it is kept. */
  at(moment: MomentShown | null) {
    const was = this.moment;
    this.moment = moment;
    if (!this.doc || !this.products) return;
    const ran = !!moment && moment.wind > 0;
    this.blow(moment?.wind ?? 1, ran || this.loop.playing);
    if (moment) this.runTo(moment.seconds);
    else if (!this.loop.playing) this.runTo(0);
    if (was?.pieces.size || moment?.pieces.size) this.arrange(this.hidden);
    if (was?.light !== moment?.light) this.setLight(this.doc);
    this.changed();
  }

  private seenFrom(camera: THREE.PerspectiveCamera) {
    const spacing = this.products?.field.spacing ?? 1;
    this.features.set("UNDER", this.water.seenFrom(this.renderer, camera, spacing));
  }

  /** Waves and wind as they are after so many seconds. */
  private runTo(seconds: number) {
    this.air.uTime.value = seconds % 3600;
    this.water.run(this.air.uTime.value);
  }

  private blow(strength: number, on: boolean) {
    const b = (((this.doc?.light.wind_from ?? 240) + 180) * Math.PI) / 180;
    this.shared.uWind.value.set(Math.sin(b), Math.cos(b), strength);
    this.features.set("WIND", on);
  }

  private sunMoved(rest = false) {
    const p = this.products;
    if (p && !p.ahead) this.grounds.setSun(p.field, p.manifest.heights);
    this.changed(rest);
  }

  /** Wind and waves move for as long as they are played. */
  play(on: boolean) {
    if (this.loop.playing === on) return;
    this.loop.playing = on;
    this.blow(1, on);
    if (!on) {
      this.runTo(0);
      this.drawing.shadows.renew();
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
    this.groundMust();
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
    this.groundMust();
    this.changed(true);
  }

  /** The plot's shader can do what is asked of it now, and no more. */
  private groundMust() {
    const film = this.shared.uSwash.value.y > 0;
    if (this.grounds.must({ WASH: this.overlays.washes, FILM: film }))
      this.drawing.forgetPrograms();
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

  // ---- pictures
  private aim(pose: Pose, aspect: number) {
    this.drawing.aim(pose, aspect, this.products);
  }

  /** The face as it was drawn last, without the inset, as a picture's address. */
  photograph(): string {
    return this.drawing.screen.photograph();
  }

  /** The face as it was drawn last, small. Null before the first picture. */
  thumbnail(width: number): string | null {
    return this.drawing.screen.thumbnail(width);
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
    const drawn = this.drawnNow;
    if (!drawn) return null;
    this.hold();
    try {
      await this.loop.idle();
      this.unhide();
      this.grounds.laidAnew(true);
      const d = this.drawing;
      const by = {
        renderer: this.renderer,
        camera: this.camera,
        aim: () => this.aim(pose, width / height),
        frame: (t: THREE.WebGLRenderTarget, wide: number, high: number, grain: number) =>
          d.part(t, wide, high, grain, stopped),
        add: d.developer.add.bind(d.developer),
        begin: d.developer.begin.bind(d.developer),
        show: d.developer.show.bind(d.developer),
        drawn: () => d.fence.drawn(),
      };
      by.aim();
      if (!(await d.readyForStill({ ...drawn, pose }, height, stopped))) return null;
      return await drawStill(by, { width, height, frames }, tell, stopped);
    } finally {
      this.grounds.laidAnew(false);
      if (this.doc && this.products) this.setScene(this.doc, this.products, this.hidden);
      this.drawing.shadows.renew();
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
    const size = this.drawing.size;
    this.aim(this.pose, size.x / size.y);
  }

  /** Where a place comes to lie on the canvas (0..1, y down), or null behind the eye. */
  project(east: number, north: number, up: number): { x: number; y: number } | null {
    this.aimFace();
    return projected(this.camera, new THREE.Vector3(east, north, up));
  }

  /** Where a point of the face (0..1) lies in the inset (0..1), if it does. */
  inInset(x: number, y: number): { x: number; y: number } | null {
    if (!this.inset) return null;
    const { x: left, y: top, width, height } = this.inset;
    const at = {
      x: (x * this.canvas.clientWidth - left) / width,
      y: (y * this.canvas.clientHeight - top) / height,
    };
    return at.x >= 0 && at.y >= 0 && at.x <= 1 && at.y <= 1 ? at : null;
  }

  /** The ray through a point of the face: through the inset's own eye where it lies over it. */
  ray(x: number, y: number): THREE.Ray {
    const through = this.inInset(x, y);
    if (through && this.inset) {
      const eye = new THREE.PerspectiveCamera();
      const field = this.products?.field ?? null;
      aim(eye, this.poseOf(this.inset.shot), this.inset.width / this.inset.height, field);
      return rayThrough(eye, through.x, through.y);
    }
    this.aimFace();
    return rayThrough(this.camera, x, y);
  }

  /** Where the ray through a point of the canvas meets the ground, or null. */
  pick(x: number, y: number): THREE.Vector3 | null {
    if (!this.products) return null;
    return groundHit(this.ray(x, y), fieldsOf(this.products));
  }
}
