import type { FamilyFacts } from "../api/shapes";
/**
 * The 3D engine: it knows products and the light, not React. It draws only when something changed.
 */
import * as THREE from "three";
import * as calls from "../api/calls";
import type { Cabinet, Scene, Shot } from "../api/shapes";
import { halton, target } from "./develop";
import { heightAt } from "./field";
import { DEVELOP, QUAD } from "./glsl";
import { Land } from "./land";
import { airUniforms, linear, setAir } from "./light";
import { meansOf, textureOf } from "./materials";
import { normalTexture, patchNormals } from "./normals";
import { type Choice, type PieceSpot, Plants } from "./plants";
import type { Pose } from "./pose";
import type { Products } from "./products";
import { type Quality, QUALITY } from "./quality";
import { skyMesh } from "./sky";
import { sunLine } from "./sunLine";
import { floatTexture } from "./textures";
import { tunes } from "./tune";
import { Water } from "./water";

export class View {
  readonly renderer: THREE.WebGLRenderer;
  readonly camera = new THREE.PerspectiveCamera(50, 1.5, 0.12, 120000);
  readonly quality: Quality;
  pose: Pose = { east: 0, north: 0, up: 100, bearing: 0, tilt: 0, focal: 28 };
  products: Products | null = null;
  onFrame: (() => void) | null = null;
  frames = 0;
  lastMs = 0;
  inset: { shot: Shot; x: number; y: number; width: number; height: number } | null = null;
  private scene = new THREE.Scene();
  private air = airUniforms();
  private shared: Record<string, THREE.IUniform>;
  private own: Record<string, THREE.IUniform>;
  private land: Land;
  private rings: { land: Land; uniforms: Record<string, THREE.IUniform> }[];
  private plants: Plants;
  private water: Water;
  private sky: THREE.Mesh;
  private develop: THREE.ShaderMaterial;
  private add: THREE.ShaderMaterial;
  private quad = new THREE.Mesh(new THREE.PlaneGeometry(2, 2));
  private quadCamera = new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 1);
  private quadScene = new THREE.Scene();
  private picture: THREE.WebGLRenderTarget | null = null;
  private sum: THREE.WebGLRenderTarget | null = null;
  private shadows: {
    map: THREE.WebGLRenderTarget;
    at: THREE.Matrix4;
    centre: THREE.Vector3;
    radius: number;
    key: string;
  }[] = [];
  private doc: Scene | null = null;
  private shadowKey = "";
  private sunLineKey = "";
  private sunLineData: Float32Array | null = null;
  private grounds: string[] = [];
  private groundMeans: number[][] = [];
  private loading = "";
  private pictureOf = "";
  private directed = new Set<string>();
  private exposure = 1;
  private wanted = false;
  private running = false;
  private settleAt = 0;
  private timer = 0;
  private held = 0;
  private shadowStale = true;

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
    const gl = this.renderer.getContext();
    const info = gl.getExtension("WEBGL_debug_renderer_info");
    const name = info ? String(gl.getParameter(info.UNMASKED_RENDERER_WEBGL)) : "";
    gl.getExtension("OES_texture_float_linear");
    this.quality =
      QUALITY[wanted ?? ""] ??
      (/swiftshader|llvmpipe|software/i.test(name) ? QUALITY.soft : QUALITY.fine);
    this.budget = this.quality.budget;
    const none = new THREE.DataTexture(new Uint8Array([0, 0, 0, 0]), 1, 1);
    none.needsUpdate = true;
    const zero = floatTexture(new Float32Array([0]), 1, 1);
    this.shared = {
      ...this.air,
      uHeights: { value: zero },
      uNormals: { value: none },
      uSunLine: { value: zero },
      uFarHeights: { value: zero },
      uGrid: { value: new THREE.Vector4(2, 2, 1, 0) },
      uFarGrid: { value: new THREE.Vector4() },
      uPlot: { value: new THREE.Vector2(1, 1) },
      uShadow0: { value: none },
      uShadow1: { value: none },
      uShadowAt0: { value: new THREE.Matrix4() },
      uShadowAt1: { value: new THREE.Matrix4() },
      uShadowOn: { value: new THREE.Vector4() },
      uLook: this.air.uEye,
      uGroundTone: { value: none },
      uGrain: { value: 0 },
      uWind: { value: new THREE.Vector4(1, 0, 0, 0) },
    };
    const emptyArray = new THREE.DataArrayTexture(new Uint8Array(4), 1, 1, 1);
    emptyArray.needsUpdate = true;
    this.own = {
      uWeights: { value: emptyArray },
      uColours: { value: emptyArray },
      uDetails: { value: emptyArray },
      uCover: { value: none },
      uCount: { value: 0 },
      uSpare: { value: 0.1 },
      uPicture: { value: none },
      uPictured: { value: -1 },
      uPictureAt: { value: new THREE.Vector4(0, 0, 1, 1) },
      uPictureTurn: { value: new THREE.Vector3(1, 0, 0) },
      uTunes: { value: Array.from({ length: 16 }, () => new THREE.Matrix3()) },
      uLies: { value: Array.from({ length: 16 }, () => new THREE.Vector4(1, 0, 1, 1)) },
      uDarkens: { value: new Float32Array(16).fill(1) },
      uEdges: { value: Array.from({ length: 16 }, () => new THREE.Vector4(0.6, 0.5, 4, 0)) },
      uGrounds: { value: new Float32Array(16) },
      uMeans: { value: Array.from({ length: 16 }, () => new THREE.Vector4(0.2, 0.2, 0.15, 0.5)) },
      uMeanDetails: { value: Array.from({ length: 16 }, () => new THREE.Vector4(0, 0, 0.9, 1)) },
      uPools: { value: Array.from({ length: 4 }, () => new THREE.Vector4()) },
      uPoolLevels: { value: new Float32Array(4) },
      uPoolCount: { value: 0 },
      uCoverNear: { value: 60 },
      uRing: { value: new THREE.Vector4() },
      uWash: { value: none },
      uWashTone: { value: new THREE.Vector4() },
      uWashScale: { value: new THREE.Vector4(0, 1, 8, 0) },
      uInner: { value: new THREE.Vector4() },
    };
    this.land = new Land(Land.material(this.shared, this.own, this.quality.soft));
    this.rings = [0, 1].map(() => {
      const uniforms = {
        uFarHeights: { value: zero as THREE.Texture },
        uFarGrid: { value: new THREE.Vector4() },
        uFarColour: { value: none as THREE.Texture },
        uInner: { value: new THREE.Vector4() },
      };
      return {
        land: new Land(Land.material(this.shared, this.own, this.quality.soft, uniforms)),
        uniforms,
      };
    });
    this.plants = new Plants(this.shared, () => this.changed(true));
    this.water = new Water({ ...this.shared, uCover: this.own.uCover });
    this.sky = skyMesh(this.shared);
    this.scene.add(
      this.land.mesh,
      ...this.rings.map((r) => r.land.mesh),
      this.plants.group,
      this.water.group,
      this.sky,
    );
    this.camera.up.set(0, 0, 1);
    this.develop = new THREE.ShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: QUAD,
      fragmentShader: DEVELOP,
      depthTest: false,
      depthWrite: false,
      uniforms: {
        uPicture: { value: null },
        uExposure: { value: 1 },
        uFrames: { value: 1 },
        uPart: { value: new THREE.Vector2(1, 1) },
      },
    });
    this.add = new THREE.ShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: QUAD,
      depthTest: false,
      depthWrite: false,
      transparent: true,
      blending: THREE.CustomBlending,
      blendSrc: THREE.OneFactor,
      blendDst: THREE.OneFactor,
      fragmentShader: `precision highp float; in vec2 vUv; out vec4 outColour; uniform sampler2D uPicture; void main() { outColour = vec4(texture(uPicture, vUv).rgb, 1.0); }`,
      uniforms: { uPicture: { value: null }, uPart: { value: new THREE.Vector2(1, 1) } },
    });
    this.quad.frustumCulled = false;
    this.quadScene.add(this.quad);
    for (const _ of [0, 1]) {
      const map = new THREE.WebGLRenderTarget(this.quality.shadow, this.quality.shadow, {
        depthBuffer: true,
      });
      map.depthTexture = new THREE.DepthTexture(
        this.quality.shadow,
        this.quality.shadow,
        THREE.FloatType,
      );
      map.depthTexture.minFilter = map.depthTexture.magFilter = THREE.NearestFilter;
      this.shadows.push({
        map,
        at: new THREE.Matrix4(),
        centre: new THREE.Vector3(),
        radius: 0,
        key: "",
      });
    }
  }

  setCabinet(cabinet: Cabinet, families: FamilyFacts[]) {
    this.plants.setCabinet(cabinet.kinds, families);
    this.directed = new Set(cabinet.grounds.filter((g) => g.directed).map((g) => g.name));
  }

  resize(width: number, height: number) {
    this.renderer.setPixelRatio(1);
    this.renderer.setSize(width, height, false);
    this.picture?.dispose();
    this.sum?.dispose();
    this.picture = target(width, height, true);
    this.sum = new THREE.WebGLRenderTarget(width, height, {
      type: THREE.FloatType,
      depthBuffer: false,
    });
    this.changed();
  }

  /**
   * Something that shows has changed: a quick frame now, a full one when it rests. `rest` goes to
   * the full one at once.
   */
  changed(rest = false) {
    this.wanted = true;
    this.settleAt = performance.now() + (rest ? 0 : 160);
    if (!this.running) {
      this.running = true;
      requestAnimationFrame(this.loop);
    }
  }

  get settled(): boolean {
    return !this.wanted && !this.running && !this.playing && !this.plants.pending && !this.held;
  }

  /** Frames wait while several changes are made; always paired with `release`. */
  hold() {
    this.held++;
  }
  release() {
    this.held--;
    this.changed();
  }

  private loop = () => {
    if (this.held) {
      this.running = false;
      return;
    }
    const start = performance.now();
    if (this.wanted && start < this.settleAt) {
      this.wanted = false;
      this.draw(this.quality.moving, 1, true);
      this.lastMs = performance.now() - start;
      clearTimeout(this.timer);
      this.timer = window.setTimeout(
        () => requestAnimationFrame(this.loop),
        Math.max(0, this.settleAt - performance.now()),
      );
      this.onFrame?.();
      return;
    }
    this.wanted = false;
    if (this.playing) {
      this.air.uTime.value =
        (this.air.uTime.value + Math.min(0.25, Math.max(0.016, this.lastMs / 1000))) % 3600;
      this.draw(this.quality.moving, 1, true);
      this.lastMs = performance.now() - start;
      this.onFrame?.();
      requestAnimationFrame(this.loop);
      return;
    }
    this.draw(this.quality.rest, this.quality.frames, false);
    this.running = false;
    this.frames++;
    this.onFrame?.();
    if (this.wanted) this.changed();
  };

  // ---- what is shown
  setScene(doc: Scene, products: Products, hidden: Set<string>) {
    const landChanged = this.products?.manifest.heights !== products.manifest.heights;
    const first = !this.doc;
    const waterChanged =
      JSON.stringify(this.doc?.water) !== JSON.stringify(doc.water) ||
      JSON.stringify(this.products?.manifest.water) !== JSON.stringify(products.manifest.water);
    const old = this.products;
    this.doc = doc;
    this.products = products;
    const f = products.field;
    const s = this.shared;
    const o = this.own;
    s.uPlot.value.set(doc.plot.width_m, doc.plot.depth_m);
    if (landChanged) {
      s.uHeights.value.dispose();
      s.uNormals.value.dispose();
      s.uHeights.value = floatTexture(f.values, f.nx, f.ny);
      s.uNormals.value = normalTexture(f);
      s.uGrid.value.set(f.nx, f.ny, f.spacing, 1);
      this.land.set(f);
      this.sunLineKey = "";
    }
    const inset = 0.3 * f.spacing;
    let inner = [inset, inset, doc.plot.width_m - inset, doc.plot.depth_m - inset];
    this.rings.forEach(({ land, uniforms: u }, i) => {
      const ring = products.rings[i];
      const before = old?.rings[i];
      if (ring) {
        const w = ring.field;
        u.uInner.value.set(...inner);
        if (before?.field !== w) {
          u.uFarHeights.value.dispose();
          u.uFarHeights.value = floatTexture(w.values, w.nx, w.ny);
          u.uFarGrid.value.set(w.nx, w.east, w.north, w.spacing);
          land.set(w);
          if (i === 0) {
            s.uFarHeights.value = u.uFarHeights.value;
            s.uFarGrid.value.copy(u.uFarGrid.value);
          } // water asks how deep it is beyond the plot
        }
        if (before?.colour !== ring.colour)
          u.uFarColour.value = this.bytes(ring.colour, w.nx, w.ny, u.uFarColour.value);
        inner = [
          w.east + inset,
          w.north + inset,
          w.east + (w.nx - 1) * w.spacing - inset,
          w.north + (w.ny - 1) * w.spacing - inset,
        ];
      }
      land.mesh.visible = !!ring && doc.beyond.edge !== "end";
    });
    if (old?.weights !== products.weights) {
      o.uWeights.value.dispose();
      const t = new THREE.DataArrayTexture(products.weights, f.nx, f.ny, products.layers);
      t.minFilter = t.magFilter = THREE.LinearFilter;
      t.needsUpdate = true;
      o.uWeights.value = t;
    }
    if (old?.cover !== products.cover)
      o.uCover.value = this.bytes(products.cover, f.nx, f.ny, o.uCover.value);
    this.setMaterials(doc);
    if (waterChanged || first || landChanged) {
      const pools = doc.water
        .filter((w) => w.on)
        .map((w) => ({ w, line: products.manifest.water.find((l) => l.id === w.id) }))
        .filter((x) => x.line && x.line.wet_m2 > 0);
      this.water.set(
        pools
          .filter((x) => x.w.reach === "everywhere" || x.line!.bounds || x.w.reach === "stream")
          .map(({ w, line }) => {
            const ribbon = products.streams.find((p) => p.id === w.id)?.points;
            const pool = products.pools.find((p) => p.id === w.id);
            return {
              level: w.level_m,
              clear: w.clear_m,
              tint: linear(w.tint),
              waves_m: w.waves_cm / 100,
              bounds: line!.bounds ?? null,
              mask: pool ? { data: pool.mask, rows: pool.rows, columns: pool.columns } : null,
              ...(w.reach === "stream" && ribbon ? { ribbon, width: w.width_m } : {}),
            };
          }),
        new THREE.Vector2(doc.plot.width_m / 2, doc.plot.depth_m / 2),
      );
      const still = pools.filter((x) => x.w.reach !== "stream");
      o.uPoolCount.value = Math.min(4, still.length);
      still.slice(0, 4).forEach(({ w, line }, i) => {
        const b = line!.bounds ?? [-1e6, -1e6, 1e6, 1e6];
        o.uPools.value[i].set(b[0], b[1], b[2], b[3]);
        o.uPoolLevels.value[i] = w.level_m;
      });
    }
    const pieces: PieceSpot[] = doc.pieces
      .filter((p) => p.on)
      .map((p) => {
        const line = products.manifest.pieces.find((x) => x.id === p.id);
        return {
          id: p.id,
          kind: line && line.kind.split("~")[0] === p.kind ? line.kind : p.kind,
          variant: p.variant,
          east: p.east_m,
          north: p.north_m,
          lean: p.lean!,
          bearing: p.bearing!,
          sink:
            line && p.stands !== "ground"
              ? heightAt(products.field, p.east_m, p.north_m) - line.up_m
              : p.sink_cm / 100,
          size: p.size / 100,
          turn: p.turn,
          mirrored: !!p.mirrored,
          blend: (p.blend_cm ?? 0) / 100,
        };
      });
    this.plants.set(
      products.sown
        .map((sown) => ({
          sown,
          kinds: products.manifest.sown.find((e) => e.id === sown.id)?.kinds ?? [],
          hidden: hidden.has(sown.id),
        }))
        .filter((x) => x.kinds.length),
      pieces,
    );
    this.shadowStale = true;
    this.setLight(doc);
  }

  setLight(doc: Scene) {
    this.doc = doc;
    setAir(this.air, doc.light, this.products?.manifest.lowest ?? 0);
    this.exposure = Math.pow(2, doc.light.exposure) * 1.05;
    const f = this.products?.field;
    const sun = this.air.uSun.value;
    const key = `${this.products?.manifest.heights} ${sun.toArray().map((v) => v.toFixed(4))}`;
    if (f && key !== this.sunLineKey) {
      this.sunLineKey = key;
      if (this.sunLineData?.length !== f.values.length)
        this.sunLineData = new Float32Array(f.values.length);
      sunLine(f, sun, this.sunLineData);
      this.shared.uSunLine.value.dispose();
      this.shared.uSunLine.value = floatTexture(this.sunLineData, f.nx, f.ny);
    }
    this.changed();
  }

  private setMaterials(doc: Scene) {
    const o = this.own;
    o.uCount.value = doc.ground.length;
    doc.ground.forEach((m, i) => {
      o.uTunes.value[i].fromArray(tunes(m));
      o.uLies.value[i].set(
        Math.cos((m.turn * Math.PI) / 180),
        Math.sin((m.turn * Math.PI) / 180),
        m.relief / 100,
        m.rough / 100,
      );
      o.uDarkens.value[i] = m.wet / 100;
      const name = textureOf(m);
      o.uEdges.value[i].set(
        m.stands / 100,
        m.broken / 100,
        m.size_m,
        this.directed.has(m.ground) || m.texture ? 1 : 0,
      );
      o.uGrounds.value[i] = Math.max(0, this.grounds.indexOf(name));
      const mean = this.groundMeans[this.grounds.indexOf(name)];
      if (mean) {
        o.uMeans.value[i].fromArray(mean);
        o.uMeanDetails.value[i].fromArray(mean, 4);
      }
    });
    this.setTone(doc);
    this.setPicture(doc);
    const needed = [...new Set(doc.ground.map(textureOf))];
    if (needed.some((n) => !this.grounds.includes(n))) void this.loadGrounds(needed);
  }

  /** The ground's mean colour at each post, which stones and pieces take on at their foot. */
  private setTone(doc: Scene) {
    const p = this.products;
    if (!p || !(doc.pieces.length || p.sown.length)) return;
    const n = p.field.nx * p.field.ny;
    const means = doc.ground.map((_, i) => {
      const t = this.own.uTunes.value[i] as THREE.Matrix3;
      const m = this.own.uMeans.value[i];
      return new THREE.Vector3(m.x, m.y, m.z).applyMatrix3(t);
    });
    const key = `${p.manifest.weights} ${means.map((m) => m.toArray().map((v) => v.toFixed(3))).join(" ")}`;
    if (key === this.toneKey) return;
    this.toneKey = key;
    const out = new Uint8Array(n * 4);
    for (let i = 0; i < n; i++) {
      let r = 0;
      let g = 0;
      let b = 0;
      let all = 0;
      for (let k = 0; k < means.length; k++) {
        const w = p.weights[((k >> 2) * n + i) * 4 + (k & 3)];
        if (w) {
          r += w * means[k].x;
          g += w * means[k].y;
          b += w * means[k].z;
          all += w;
        }
      }
      if (all) {
        out[i * 4] = 255 * Math.sqrt(Math.min(1, Math.max(0, r / all)));
        out[i * 4 + 1] = 255 * Math.sqrt(Math.min(1, Math.max(0, g / all)));
        out[i * 4 + 2] = 255 * Math.sqrt(Math.min(1, Math.max(0, b / all)));
        out[i * 4 + 3] = 255;
      }
    }
    const old = this.shared.uGroundTone.value;
    this.shared.uGroundTone.value = this.bytes(
      out,
      p.field.nx,
      p.field.ny,
      old.image.width > 1 ? old : new THREE.Texture(),
    );
  }
  private toneKey = "";

  /** Wind and waves move for as long as they are played. */
  play(on: boolean) {
    if (this.playing === on) return;
    this.playing = on;
    const b = (((this.doc?.light.wind_from ?? 240) + 180) * Math.PI) / 180;
    this.shared.uWind.value.set(Math.sin(b), Math.cos(b), 1, on ? 1 : 0);
    this.air.uTime.value = on ? this.air.uTime.value : 0;
    if (!on) this.shadowStale = true;
    this.changed(!on);
  }
  playing = false;

  /**
   * How many plants are drawn at once, and whether as cards only: the view is thinned, never the
   * scene.
   */
  thin(budget: number | null, proxies: boolean) {
    this.budget = budget ?? this.quality.budget;
    this.plants.proxies = proxies;
    this.changed(true);
  }
  budget: number;
  get trianglesDrawn(): number {
    return this.plants.triangles;
  }

  /** The picture of a whole ground, of the first material that has one. */
  private setPicture(doc: Scene) {
    const o = this.own;
    const at = doc.ground.findIndex((m) => m.on && m.picture);
    const m = doc.ground[at];
    const p = doc.plot;
    if (at < 0) {
      o.uPictured.value = -1;
      return;
    }
    const over = (
      doc.land as {
        id: string;
        east_m?: number;
        north_m?: number;
        width_m?: number;
        depth_m?: number;
        turn?: number;
      }[]
    ).find((e) => e.id === m.over && e.width_m && e.depth_m);
    o.uPictureAt.value.set(
      over?.east_m ?? p.width_m / 2,
      over?.north_m ?? p.depth_m / 2,
      over?.width_m ?? p.width_m,
      over?.depth_m ?? p.depth_m,
    );
    const a = ((over?.turn ?? 0) * Math.PI) / 180;
    o.uPictureTurn.value.set(Math.cos(a), Math.sin(a), m.picture_m);
    if (this.pictureOf === m.picture) {
      o.uPictured.value = at;
      return;
    }
    this.pictureOf = m.picture;
    this.hold();
    void calls
      .groundPicture(m.picture)
      .then((data) => {
        if (this.pictureOf !== m.picture) return;
        const [w, h] = new Uint32Array(data, 0, 2);
        const t = new THREE.DataTexture(new Uint8Array(data, 8), w, h);
        t.colorSpace = THREE.SRGBColorSpace;
        t.magFilter = THREE.LinearFilter;
        t.minFilter = THREE.LinearMipmapLinearFilter;
        t.generateMipmaps = true;
        t.needsUpdate = true;
        o.uPicture.value.dispose();
        o.uPicture.value = t;
        if (this.doc) this.setMaterials(this.doc);
        this.changed();
      })
      .finally(() => this.release());
  }

  private async loadGrounds(names: string[]) {
    const mine = (this.loading = names.join());
    this.hold();
    try {
      const n = 512;
      const colours = new Uint8Array(n * n * 4 * names.length);
      const details = new Uint8Array(n * n * 4 * names.length);
      await Promise.all(
        names.map(async (name, i) => {
          const data = new Uint8Array(await calls.groundMaps(name));
          colours.set(data.subarray(0, n * n * 4), i * n * n * 4);
          details.set(data.subarray(n * n * 4), i * n * n * 4);
        }),
      );
      if (this.loading !== mine) return; // newer materials are on their way
      for (const u of [this.own.uColours, this.own.uDetails]) u.value.dispose();
      const make = (data: Uint8Array<ArrayBuffer>, srgb: boolean) => {
        const t = new THREE.DataArrayTexture(data, n, n, names.length);
        t.colorSpace = srgb ? THREE.SRGBColorSpace : THREE.NoColorSpace;
        t.wrapS = t.wrapT = THREE.RepeatWrapping;
        t.magFilter = THREE.LinearFilter;
        t.minFilter = THREE.LinearMipmapLinearFilter;
        t.anisotropy = this.quality.soft ? 1 : 8;
        t.generateMipmaps = true;
        t.needsUpdate = true;
        return t;
      };
      this.own.uColours.value = make(colours, true);
      this.own.uDetails.value = make(details, false);
      this.grounds = names;
      this.groundMeans = names.map((_, i) =>
        meansOf(
          colours.subarray(i * n * n * 4, (i + 1) * n * n * 4),
          details.subarray(i * n * n * 4, (i + 1) * n * n * 4),
        ),
      );
      if (this.doc) this.setMaterials(this.doc);
    } finally {
      this.release();
    }
  }

  private bytes(data: Uint8Array, nx: number, ny: number, old: THREE.Texture): THREE.DataTexture {
    old.dispose();
    const t = new THREE.DataTexture(data as Uint8Array<ArrayBuffer>, nx, ny);
    t.minFilter = t.magFilter = THREE.LinearFilter;
    t.needsUpdate = true;
    return t;
  }

  /** Hatches a share of the ground, 0..255 at each post of the shown grid; null takes it away. */
  wash(shares: Uint8Array | null, colour = "#b9812a") {
    this.lay(shares, colour, 1);
  }

  /**
   * Lays a measure over the ground as an ink wash between two values, with isolines; null takes it
   * away.
   */
  sheet(
    values: Float32Array | null,
    low = 0,
    high = 1,
    lines = 8,
    log = false,
    colour = "#24404e",
  ) {
    this.own.uWashScale.value.set(low, high, lines, log ? 1 : 0);
    this.lay(values, colour, 2);
  }

  private lay(values: Uint8Array | Float32Array | null, colour: string, way: number) {
    const c = linear(colour);
    const f = this.products?.field;
    const fits = !!values && !!f && values.length === f.nx * f.ny;
    this.own.uWashTone.value.set(c.r, c.g, c.b, fits ? way : 0);
    if (fits) {
      this.own.uWash.value.dispose();
      if (values instanceof Float32Array) this.own.uWash.value = floatTexture(values, f!.nx, f!.ny);
      else {
        const t = new THREE.DataTexture(
          values as Uint8Array<ArrayBuffer>,
          f!.nx,
          f!.ny,
          THREE.RedFormat,
        );
        t.unpackAlignment = 1;
        t.minFilter = t.magFilter = THREE.LinearFilter;
        t.needsUpdate = true;
        this.own.uWash.value = t;
      }
    }
    this.changed(true);
  }

  /**
   * New heights in a rectangle of the shown grid, as while a brush works. The rest follows with the
   * next build.
   */
  patch(r0: number, c0: number, rows: number, columns: number, heights: Float32Array) {
    const f = this.products?.field;
    if (!f || r0 + rows > f.ny || c0 + columns > f.nx) return;
    for (let r = 0; r < rows; r++)
      f.values.set(heights.subarray(r * columns, (r + 1) * columns), (r0 + r) * f.nx + c0);
    this.shared.uHeights.value.needsUpdate = true;
    patchNormals(
      this.shared.uNormals.value as THREE.DataTexture,
      f,
      r0 - 1,
      c0 - 1,
      r0 + rows + 1,
      c0 + columns + 1,
    );
    this.land.widen(r0, c0, rows, columns);
    this.changed();
  }

  /** The face as it stands, drawn once more at rest, as a picture's address. */
  photograph(): string {
    const inset = this.inset;
    this.inset = null;
    this.draw(this.quality.rest, this.quality.frames, false);
    const out = this.canvas.toDataURL("image/jpeg", 0.92);
    this.inset = inset;
    this.changed(true);
    return out;
  }

  /** A ring on the ground, in metres; null takes it away. */
  ring(east: number, north: number, radius: number | null) {
    this.own.uRing.value.set(east, north, radius ?? 0, radius === null ? 0 : 1);
    this.changed();
  }

  // ---- drawing
  private aim(pose: Pose, aspect: number) {
    const c = this.camera;
    const b = (pose.bearing * Math.PI) / 180;
    const t = (pose.tilt * Math.PI) / 180;
    c.position.set(pose.east, pose.north, pose.up);
    c.fov = (2 * Math.atan(18 / pose.focal / aspect) * 180) / Math.PI;
    c.aspect = aspect;
    const ground = this.products
      ? Math.max(0.12, (pose.up - heightAt(this.products.field, pose.east, pose.north)) * 0.12)
      : 0.12;
    c.near = Math.min(ground, 20);
    c.far = 150000;
    c.lookAt(
      pose.east + Math.sin(b) * Math.cos(t),
      pose.north + Math.cos(b) * Math.cos(t),
      pose.up + Math.sin(t),
    );
    c.updateProjectionMatrix();
    c.updateMatrixWorld();
    this.air.uEye.value.copy(c.position);
  }

  private renderTo(
    t: THREE.WebGLRenderTarget,
    width: number,
    height: number,
    jitter: number,
    of: number,
  ) {
    const c = this.camera;
    this.shared.uGrain.value = jitter;
    if (of > 1) {
      const x = halton(jitter + 1, 2) - 0.5;
      const y = halton(jitter + 1, 3) - 0.5;
      c.setViewOffset(width, height, x, y, width, height);
    }
    t.viewport.set(0, 0, width, height);
    t.scissorTest = false;
    this.renderer.setRenderTarget(t);
    this.renderer.clear();
    this.renderer.render(this.scene, c);
    if (of > 1) c.clearViewOffset();
  }

  private pass(material: THREE.ShaderMaterial, to: THREE.WebGLRenderTarget | null) {
    this.quad.material = material;
    this.renderer.setRenderTarget(to);
    this.renderer.render(this.quadScene, this.quadCamera);
  }

  private draw(scale: number, frames: number, moving: boolean) {
    if (!this.picture || !this.sum || !this.doc) return;
    const size = this.renderer.getSize(new THREE.Vector2());
    const width = Math.max(1, Math.round(size.x * scale));
    const height = Math.max(1, Math.round(size.y * scale));
    this.aim(this.pose, size.x / size.y);
    const choice: Choice = {
      pixels: size.y,
      least: this.quality.least * (moving ? 1.6 : 1),
      thin: true,
      budget: this.budget * (moving ? 0.4 : 1),
    };
    this.own.uSpare.value =
      moving || this.quality.frames === 1 ? 0.97 : this.quality.soft ? 0.1 : 0.02;
    this.compose(choice, moving ? this.quality.fine * 0.7 : this.quality.fine, !moving);
    if (frames > 1) {
      this.renderer.setRenderTarget(this.sum);
      this.renderer.setClearColor(0, 0);
      this.renderer.clear();
      for (let i = 0; i < frames; i++) {
        this.renderTo(this.picture, width, height, i, frames);
        this.add.uniforms.uPicture.value = this.picture.texture;
        this.pass(this.add, this.sum);
      }
    } else this.renderTo(this.picture, width, height, 0, 1);
    this.develop.uniforms.uPicture.value = frames > 1 ? this.sum.texture : this.picture.texture;
    this.develop.uniforms.uFrames.value = frames;
    this.develop.uniforms.uExposure.value = this.exposure;
    this.develop.uniforms.uPart.value.set(width / size.x, height / size.y);
    this.renderer.setRenderTarget(null);
    this.renderer.setViewport(0, 0, size.x, size.y);
    this.pass(this.develop, null);
    this.develop.uniforms.uPart.value.set(1, 1);
    if (this.inset && !moving) this.drawInset(size);
  }

  private insetTarget: THREE.WebGLRenderTarget | null = null;
  private drawInset(size: THREE.Vector2) {
    const { shot, x, y, width, height } = this.inset!;
    if (this.insetTarget?.width !== width || this.insetTarget.height !== height) {
      this.insetTarget?.dispose();
      this.insetTarget = target(width, height, true);
    }
    const keep = this.pose;
    this.aim(this.poseOf(shot), width / height);
    this.compose(
      { pixels: height, least: 3, thin: true, budget: this.quality.budget * 0.4 },
      this.quality.fine * 0.6,
      false,
    );
    this.renderTo(this.insetTarget, width, height, 0, 1);
    this.develop.uniforms.uPicture.value = this.insetTarget.texture;
    this.develop.uniforms.uFrames.value = 1;
    this.renderer.setRenderTarget(null);
    this.renderer.setScissorTest(true);
    this.renderer.setViewport(x, size.y - y - height, width, height);
    this.renderer.setScissor(x, size.y - y - height, width, height);
    this.pass(this.develop, null);
    this.renderer.setScissorTest(false);
    this.renderer.setViewport(0, 0, size.x, size.y);
    this.aim(keep, size.x / size.y);
  }

  /** Everything ready for one eye: patches, shadows, plants. */
  private compose(choice: Choice, fine: number, shadowsToo: boolean) {
    const p = this.products!;
    const u = this.shared.uShadowOn.value as THREE.Vector4;
    if (shadowsToo) this.drawShadows();
    if (!p.sown.length && !this.doc!.pieces.length) u.set(0, 0, 0, 0);
    const focal = choice.pixels / 2 / Math.tan((this.camera.fov * Math.PI) / 360);
    this.own.uCoverNear.value = Math.max(12, ((0.4 * focal) / choice.least) * 0.55);
    this.land.choose(this.camera, fine);
    for (const { land } of this.rings)
      if (land.mesh.visible) land.choose(this.camera, Math.max(0.8, fine * 0.7));
    this.plants.choose(this.camera, p.field, choice);
  }

  /**
   * Two maps of depth from the sun, near and wide; redrawn only when the sun, the plants or the
   * place changed.
   */
  private drawShadows() {
    const sun = this.air.uSun.value;
    const u = this.shared.uShadowOn.value as THREE.Vector4;
    if (sun.z <= 0.01) {
      u.set(0, 0, 0, 0);
      return;
    }
    const key = `${sun.toArray().map((v) => v.toFixed(4))} ${this.products!.manifest.heights}`;
    if (key !== this.shadowKey) {
      this.shadowKey = key;
      this.shadowStale = true;
    }
    const eye = this.camera.position;
    const b = (this.pose.bearing * Math.PI) / 180;
    const field = this.products!.field;
    [28, 170].forEach((radius, i) => {
      const s = this.shadows[i];
      const high = Math.max(0, eye.z - heightAt(field, eye.x, eye.y));
      radius = Math.max(radius, high * (i ? 1.6 : 0.7));
      const centre = new THREE.Vector3(
        eye.x + Math.sin(b) * radius * 0.72,
        eye.y + Math.cos(b) * radius * 0.72,
        0,
      );
      centre.z = heightAt(field, centre.x, centre.y);
      if (
        !this.shadowStale &&
        s.radius &&
        Math.abs(s.radius - radius) < radius * 0.3 &&
        centre.distanceTo(s.centre) < radius * 0.3
      )
        return;
      s.centre.copy(centre);
      s.radius = radius;
      const c = new THREE.OrthographicCamera(
        -radius,
        radius,
        radius,
        -radius,
        0,
        2 * (radius + 250),
      );
      c.up.set(0, 0, 1);
      c.position.copy(centre).addScaledVector(sun, radius + 250);
      c.lookAt(centre);
      c.updateMatrixWorld();
      this.plants.chooseForShadow(centre, radius, i ? 0.8 : 0.25);
      this.plants.plain(true);
      const shown = this.rings.map((r) => r.land.mesh.visible);
      this.land.mesh.visible = this.water.group.visible = this.sky.visible = false;
      for (const r of this.rings) r.land.mesh.visible = false;
      u.set(0, 0, 0, 0);
      this.renderer.setRenderTarget(s.map);
      this.renderer.clear();
      this.renderer.render(this.scene, c);
      this.plants.plain(false);
      this.land.mesh.visible = this.water.group.visible = this.sky.visible = true;
      this.rings.forEach((r, k) => {
        r.land.mesh.visible = shown[k];
      });
      s.at.multiplyMatrices(c.projectionMatrix, c.matrixWorldInverse);
    });
    this.shadowStale = false;
    this.shared.uShadow0.value = this.shadows[0].map.depthTexture;
    this.shared.uShadow1.value = this.shadows[1].map.depthTexture;
    this.shared.uShadowAt0.value.copy(this.shadows[0].at);
    this.shared.uShadowAt1.value.copy(this.shadows[1].at);
    u.set(1, 1, 1 / this.quality.shadow, 1 / this.quality.shadow);
  }

  poseOf(shot: Shot): Pose {
    const g = this.products ? heightAt(this.products.field, shot.east_m, shot.north_m) : 0;
    return {
      east: shot.east_m,
      north: shot.north_m,
      up: g + shot.eye_m,
      bearing: shot.bearing,
      tilt: shot.tilt,
      focal: shot.focal_mm,
    };
  }

  get plantsDrawn(): number {
    return this.plants.drawn;
  }

  /**
   * Where a place in the world comes to lie on the canvas (0..1, y down), or null behind the eye.
   */
  project(east: number, north: number, up: number): { x: number; y: number } | null {
    const size = this.renderer.getSize(new THREE.Vector2());
    this.aim(this.pose, size.x / size.y);
    const p = new THREE.Vector3(east, north, up);
    const ahead = p
      .clone()
      .sub(this.camera.position)
      .dot(this.camera.getWorldDirection(new THREE.Vector3()));
    if (ahead < 0.1) return null;
    p.project(this.camera);
    return { x: (p.x + 1) / 2, y: (1 - p.y) / 2 };
  }

  /** The ray through a point of the canvas (0..1, y down), in the world. */
  ray(x: number, y: number): THREE.Ray {
    const size = this.renderer.getSize(new THREE.Vector2());
    this.aim(this.pose, size.x / size.y);
    const p = new THREE.Vector3(x * 2 - 1, 1 - y * 2, 0.5).unproject(this.camera);
    return new THREE.Ray(this.camera.position.clone(), p.sub(this.camera.position).normalize());
  }

  /** Where the ray through a point of the canvas meets the ground of the plot, or null. */
  pick(x: number, y: number): THREE.Vector3 | null {
    if (!this.products || !this.doc) return null;
    const ray = this.ray(x, y);
    const f = this.products.field;
    const { width_m: w, depth_m: d } = this.doc.plot;
    const at = new THREE.Vector3();
    let t = 0;
    let before = 0;
    for (let i = 0; i < 600 && t < 4 * (w + d); i++) {
      ray.at(t, at);
      const over = at.z - heightAt(f, at.x, at.y);
      const inside = at.x >= 0 && at.y >= 0 && at.x <= w && at.y <= d;
      if (over <= 0) {
        for (let k = 0; k < 20; k++) {
          const mid = (before + t) / 2;
          ray.at(mid, at);
          if (at.z > heightAt(f, at.x, at.y)) before = mid;
          else t = mid;
        }
        ray.at(t, at);
        return inside || (at.x >= 0 && at.y >= 0 && at.x <= w && at.y <= d) ? at : null;
      }
      before = t;
      t += Math.max(0.15, over * 0.5, t * 0.002);
    }
    return null;
  }

  /**
   * A still of any size: every plant, many jittered frames summed in floats, tile by tile. Gives a
   * PNG, or null when stopped.
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
    const side = 1024;
    const out = document.createElement("canvas");
    out.width = width;
    out.height = height;
    const paint = out.getContext("2d")!;
    const nx = Math.ceil(width / side);
    const ny = Math.ceil(height / side);
    const tw = Math.ceil(width / nx);
    const th = Math.ceil(height / ny);
    const picture = target(tw, th, true);
    const sum = new THREE.WebGLRenderTarget(tw, th, { type: THREE.FloatType, depthBuffer: false });
    const bytes = new THREE.WebGLRenderTarget(tw, th, { depthBuffer: false });
    this.hold();
    const keep = this.pose;
    try {
      this.pose = pose;
      this.aim(pose, width / height);
      this.compose(
        { pixels: height, least: 1.1, thin: false, budget: Infinity },
        Math.max(2.5, this.quality.fine),
        true,
      );
      let done = 0;
      for (let ty = 0; ty < ny; ty++)
        for (let tx = 0; tx < nx; tx++) {
          this.renderer.setRenderTarget(sum);
          this.renderer.setClearColor(0, 0);
          this.renderer.clear();
          for (let i = 0; i < frames; i++) {
            if (stopped()) return null;
            this.aim(pose, width / height);
            this.camera.setViewOffset(
              width,
              height,
              tx * tw + halton(i + 1, 2) - 0.5,
              ty * th + halton(i + 1, 3) - 0.5,
              tw,
              th,
            );
            this.shared.uGrain.value = i;
            this.renderer.setRenderTarget(picture);
            this.renderer.clear();
            this.renderer.render(this.scene, this.camera);
            this.camera.clearViewOffset();
            this.add.uniforms.uPicture.value = picture.texture;
            this.pass(this.add, sum);
            this.renderer.getContext().finish();
            tell(++done / (nx * ny * frames));
            await new Promise((r) => setTimeout(r, 0));
          }
          this.develop.uniforms.uPicture.value = sum.texture;
          this.develop.uniforms.uFrames.value = frames;
          this.develop.uniforms.uExposure.value = this.exposure;
          this.pass(this.develop, bytes);
          const data = new Uint8Array(tw * th * 4);
          const image = new ImageData(tw, th);
          this.renderer.readRenderTargetPixels(bytes, 0, 0, tw, th, data);
          for (let r = 0; r < th; r++)
            image.data.set(data.subarray((th - 1 - r) * tw * 4, (th - r) * tw * 4), r * tw * 4);
          paint.putImageData(image, tx * tw, ty * th);
        }
      return await new Promise((r) => out.toBlob(r, "image/png"));
    } finally {
      this.pose = keep;
      picture.dispose();
      sum.dispose();
      bytes.dispose();
      this.shadowStale = true;
      this.release();
    }
  }
}
