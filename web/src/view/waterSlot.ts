/** One water as it is drawn; it is dressed anew for each change, its shaders stay. */
import * as THREE from "three";
import { Collars } from "./collars";
import { Features } from "./features";
import { QUAD } from "./glsl";
import { ribbon } from "./ribbon";
import type { Uniforms } from "./uniforms";
import { MOST_WAKES } from "../api/numbers";
import { FRAGMENT, KEPT } from "./waterShader";
import type { WaterSpec } from "./waterSpec";
import { RAYS, RINGS, SHAPE, VERTEX } from "./waveShader";
import { type Lows, lowsOf, type Spread, WetFan } from "./wetFan";
import { MOST_TILES, WaveTiles } from "./waveTiles";

const FAR_M = 70000;
const COARSE = 5; // posts of the fan from one to the next while something moves
const OPEN_M = 60; // depth of the sea beyond the plot

function halfTexture(data: Uint16Array, nx: number, ny: number): THREE.DataTexture {
  const own = data as Uint16Array<ArrayBuffer>;
  const t = new THREE.DataTexture(own, nx, ny, THREE.RGBAFormat, THREE.HalfFloatType);
  t.minFilter = t.magFilter = THREE.LinearFilter;
  t.needsUpdate = true;
  return t;
}

function iceTexture(w: WaterSpec): THREE.DataTexture {
  const own = w.ice.data && w.field;
  const data = (own ? w.ice.data! : new Uint16Array(1)) as Uint16Array<ArrayBuffer>;
  const [nx, ny] = own ? [w.field!.nx, w.field!.ny] : [1, 1];
  const t = new THREE.DataTexture(data, nx, ny, THREE.RedFormat, THREE.HalfFloatType);
  t.minFilter = t.magFilter = THREE.LinearFilter;
  t.unpackAlignment = 2;
  t.needsUpdate = true;
  return t;
}

/** What a metre of a water takes of light that goes down and up again. */
function takenBy(w: WaterSpec): THREE.Vector3 {
  const { r, g, b } = w.through;
  const takes = (c: number) => -Math.log(Math.min(Math.max(c, 1e-4), 0.999)) / w.clear;
  return new THREE.Vector3(takes(r), takes(g), takes(b));
}

const vectors = (count: number) => Array.from({ length: count }, () => new THREE.Vector4());

function emptyUniforms(): Uniforms {
  return {
    uWaves: { value: null },
    uField: { value: null },
    uIce: { value: null },
    uTileAt: { value: vectors(MOST_TILES) },
    uTileFades: { value: Array.from({ length: MOST_TILES }, () => new THREE.Vector2()) },
    uTiles: { value: 0 },
    uSea: { value: new THREE.Vector4() },
    uShoreSet: { value: new THREE.Vector4() },
    uDrift: { value: new THREE.Vector3(0, 0, 1) },
    uEddies: { value: null },
    uEddyLong: { value: 0 },
    uIceSet: { value: new THREE.Vector4() },
    uWakes: { value: 0 },
    uWakeAt: { value: vectors(MOST_WAKES) },
    uWakeSet: { value: vectors(MOST_WAKES) },
    uFan: { value: new THREE.Vector4(0, Math.PI, 1, FAR_M) },
    uFanStep: { value: 1.1 },
    uShape: { value: null },
    uLevel: { value: 0 },
    uTakes: { value: new THREE.Vector3() },
    uMirrorOn: { value: 0 },
    uSees: { value: new THREE.Matrix4() },
    uTint: { value: new THREE.Vector3() },
    uShine: { value: new THREE.Vector2() },
  };
}

const PASS = new THREE.Mesh(new THREE.PlaneGeometry(2, 2));
PASS.frustumCulled = false;
const PASSES = new THREE.Scene().add(PASS);
const ORTHO = new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 1);

export class WaterSlot {
  readonly group = new THREE.Group();
  private readonly own = emptyUniforms();
  private readonly fan = new WetFan();
  private readonly coarse = new WetFan(COARSE);
  private lows: Lows | null = null;
  private readonly mesh: THREE.Mesh;
  private readonly shaded: THREE.ShaderMaterial;
  private readonly kept: THREE.ShaderMaterial;
  private readonly shaper: THREE.ShaderMaterial;
  private readonly shape = new THREE.WebGLRenderTarget(RAYS + 1, RINGS + 1, {
    type: THREE.FloatType,
    minFilter: THREE.NearestFilter,
    magFilter: THREE.NearestFilter,
    depthBuffer: false,
  });
  private readonly plot: THREE.IUniform;
  private shaped = "";
  private time = 0;
  private tiles: WaveTiles | null = null;
  private tilesKey = "";
  private readonly collars: Collars;
  spec: WaterSpec | null = null;

  constructor(shared: Uniforms, order: number) {
    this.collars = new Collars(shared);
    this.plot = shared.uPlot;
    this.collars.mesh.renderOrder = 2 * order + 1;
    this.group.add(this.collars.mesh);
    const uniforms = { ...shared, ...this.own };
    this.shaper = new THREE.ShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: QUAD,
      fragmentShader: SHAPE,
      uniforms: { ...uniforms, uPart: { value: new THREE.Vector2(1, 1) } },
      depthTest: false,
      depthWrite: false,
    });
    this.own.uShape.value = this.shape.texture;
    const dressed = (fragmentShader: string) =>
      new THREE.ShaderMaterial({
        glslVersion: THREE.GLSL3,
        vertexShader: VERTEX,
        fragmentShader,
        uniforms,
        side: THREE.DoubleSide,
      });
    this.shaded = dressed(FRAGMENT);
    this.kept = dressed(KEPT);
    this.mesh = new THREE.Mesh(this.fan.geometry, this.shaded);
    this.mesh.frustumCulled = false;
    this.mesh.renderOrder = 2 * order;
    this.mesh.onBeforeRender = (_renderer, _scene, camera) => {
      const { projectionMatrix, matrixWorldInverse } = camera;
      this.own.uSees.value.multiplyMatrices(projectionMatrix, matrixWorldInverse);
      this.shaded.uniformsNeedUpdate = true;
    };
    this.group.add(this.mesh);
  }

  /** Draws a water from now on, or none. */
  dress(w: WaterSpec | null, seconds: number) {
    this.spec = w;
    this.shaped = "";
    this.group.visible = !!w;
    if (!w) return;
    this.setTiles(w);
    this.setTextures(w);
    this.setNumbers(w);
    this.setWakes(w);
    this.setFeatures(w);
    const before = this.mesh.geometry;
    const geometry = w.stream ? ribbon(w.stream.points, w.stream.width) : this.fan.geometry;
    this.mesh.geometry = geometry;
    this.mesh.visible = true;
    this.lows = lowsOf(w);
    if (before !== this.fan.geometry) before.dispose();
    this.collars.lay(w.around, w.sea.period_s);
    this.run(seconds);
  }

  private setTiles(w: WaterSpec) {
    const key = `${w.sea.waves} ${w.chop}`;
    if (key === this.tilesKey && this.tiles) return;
    this.tiles?.dispose();
    this.tilesKey = key;
    this.tiles = new WaveTiles(w.sea, w.waves, w.chop);
    this.own.uWaves.value = this.tiles.texture;
    this.own.uTileAt.value = this.tiles.at;
    this.own.uTileFades.value = this.tiles.fades;
    this.own.uTiles.value = this.tiles.count;
  }

  private setTextures(w: WaterSpec) {
    this.own.uField.value?.dispose();
    this.own.uIce.value?.dispose();
    const field = w.field ?? { data: new Uint16Array(4), nx: 1, ny: 1 };
    this.own.uField.value = halfTexture(field.data, field.nx, field.ny);
    this.own.uIce.value = iceTexture(w);
    this.own.uEddies.value?.dispose();
    const { data, rows, columns } = w.eddies ?? { data: new Uint16Array(4), rows: 1, columns: 1 };
    this.own.uEddies.value = halfTexture(data, columns, rows);
    this.own.uEddyLong.value = w.eddies?.long ?? 0;
  }

  private setNumbers(w: WaterSpec) {
    const { sea, ice } = w;
    const u = this.own;
    const omega = (2 * Math.PI) / sea.period_s;
    u.uSea.value.set(sea.high_m, sea.long_m, sea.peak, omega);
    u.uShoreSet.value.set(w.surf, w.foam, sea.comes_back, OPEN_M);
    u.uDrift.value.fromArray(sea.drift);
    u.uIceSet.value.set(ice.thick, ice.snow, ice.cracks, ice.data ? 1 : 0);
    u.uLevel.value = w.level;
    u.uTakes.value.copy(takenBy(w));
    u.uTint.value.set(w.tint.r, w.tint.g, w.tint.b);
    u.uShine.value.set(w.mirror, w.glitter);
  }

  private setFeatures(w: WaterSpec) {
    const asked = { STREAM: w.stream, POOL: w.pool, ICE: w.ice.data, WAKES: w.wakes.length };
    const wanted = Object.entries(asked).filter(([, on]) => on);
    const defines = Object.fromEntries(wanted.map(([name]) => [name, 1]));
    for (const material of [this.shaded, this.kept]) Features.own(material, defines);
  }

  private setWakes(w: WaterSpec) {
    const wakes = w.wakes.slice(0, MOST_WAKES);
    this.own.uWakes.value = wakes.length;
    wakes.forEach((wake, i) => {
      this.wakeAt(i, wake.east, wake.north, (wake.toward * Math.PI) / 180);
      this.own.uWakeSet.value[i].set(wake.long_m, wake.broad_m, wake.speed_ms, wake.high_m);
    });
  }

  /** A wake has its bow elsewhere, running to a bearing in radians. */
  wakeAt(index: number, east: number, north: number, bearing: number) {
    this.shaped = "";
    this.own.uWakeAt.value[index].set(east, north, Math.sin(bearing), Math.cos(bearing));
  }

  /** What its program can do, as text. */
  get features(): string {
    return Object.keys(this.shaded.defines ?? {}).join(" ");
  }

  /** A fan of fewer posts is drawn while something moves. */
  moves(on: boolean) {
    if (this.spec?.stream) return;
    this.mesh.geometry = (on ? this.coarse : this.fan).geometry;
  }

  keeps(on: boolean) {
    this.mesh.material = on ? this.kept : this.shaded;
  }

  /** Whether it shows what the eye below sees. */
  set mirrors(on: boolean) {
    this.own.uMirrorOn.value = on ? 1 : 0;
  }

  /** The fan is laid before an eye, and moved by the waves of now. */
  prepare(renderer: THREE.WebGLRenderer, camera: THREE.PerspectiveCamera) {
    if (this.spec?.stream) this.tiles?.run(this.time);
    if (!this.spec || this.spec.stream) return;
    this.follow(camera);
    const eye = camera.position.toArray();
    const key = [...eye, ...this.own.uFan.value.toArray(), this.time].join();
    if (key === this.shaped) return;
    this.shaped = key;
    const rings = this.lay(this.spec, camera.position);
    this.mesh.visible = !!rings;
    if (!rings) return;
    this.tiles?.run(this.time); // waves out of sight are not made
    PASS.material = this.shaper;
    const first = Math.floor(rings.first * RINGS);
    this.shape.scissorTest = true;
    this.shape.scissor.set(0, first, RAYS + 1, Math.ceil(rings.last * RINGS) + 1 - first);
    renderer.setRenderTarget(this.shape);
    renderer.render(PASSES, ORTHO);
  }

  /** Lays both fans where there may be water; gives the rings between which there is any. */
  private lay(w: WaterSpec, eye: THREE.Vector3) {
    const [bearing, half, first, last] = this.own.uFan.value.toArray();
    const lies: Spread = { east: eye.x, north: eye.y, bearing, half, first, last };
    const plot = this.plot.value as THREE.Vector2;
    const aside = 2 * w.sea.high_m;
    this.coarse.lay(lies, this.lows, w.pool, plot, aside);
    return this.fan.lay(lies, this.lows, w.pool, plot, aside);
  }

  /** The fan lies before the eye, from its foot on, as wide as the picture. */
  private follow(camera: THREE.PerspectiveCamera) {
    const ahead = camera.getWorldDirection(new THREE.Vector3());
    const over = Math.abs(camera.position.z - (this.spec?.level ?? 0));
    const level = Math.hypot(ahead.x, ahead.y);
    const half = Math.atan(Math.tan((camera.fov * Math.PI) / 360) * Math.max(camera.aspect, 1));
    const down = Math.asin(Math.min(1, Math.abs(ahead.z))) + half;
    // looking steeply down, the picture goes all around the foot
    const wide = down > 1.2 ? Math.PI : Math.min(Math.PI, half / Math.max(Math.cos(down), 0.2));
    const first = Math.max(0.4, over * 0.25);
    this.own.uFan.value.set(
      Math.atan2(ahead.x, ahead.y),
      level < 0.05 ? Math.PI : wide,
      first,
      FAR_M,
    );
    const ratio = (FAR_M / first) ** (1 / RINGS) - 1;
    this.own.uFanStep.value = Math.max(ratio, wide / RAYS);
  }

  /** The waves as they are at a time. */
  run(seconds: number) {
    this.time = seconds;
  }
}
