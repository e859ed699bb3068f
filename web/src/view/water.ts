/**
 * Waters: those that stand are drawn as a fan about the eye, which follows the waves near by;
 * streams as ribbons that fall along their lines. Each is drawn twice: what it lets through of what
 * lies behind, then what it adds.
 */
import * as THREE from "three";
import type { Scene } from "../api/shapes";
import { collars } from "./collars";
import type { PieceStands } from "./placed";
import { ribbon } from "./ribbon";
import { goUnder } from "./underWater";
import type { Uniforms } from "./uniforms";
import { FRAGMENT, THROUGH, VERTEX } from "./waterShader";
import type { WaterSpec } from "./waterSpec";
import { MOST_WAKES } from "./wakeShader";
import { WaveTiles } from "./waveTiles";

const RAYS = 120;
const RINGS = 150;
const FAR_M = 70000;

/** A fan over -1..1 of its width and 0..1 of its distance. */
function fan(): THREE.BufferGeometry {
  const at = new Float32Array((RAYS + 1) * (RINGS + 1) * 3);
  const index: number[] = [];
  for (let r = 0; r <= RINGS; r++)
    for (let c = 0; c <= RAYS; c++) {
      const i = r * (RAYS + 1) + c;
      at.set([(2 * c) / RAYS - 1, r / RINGS, 0], i * 3);
      if (!r || !c) continue;
      const back = i - RAYS - 1;
      index.push(back - 1, i, i - 1, back - 1, back, i);
    }
  const g = new THREE.BufferGeometry();
  g.setAttribute("position", new THREE.BufferAttribute(at, 3));
  g.setIndex(index);
  return g;
}

function fieldTexture(field: WaterSpec["field"]): THREE.DataTexture {
  const f = field ?? { data: new Uint16Array(4), nx: 1, ny: 1 };
  const data = f.data as Uint16Array<ArrayBuffer>;
  const t = new THREE.DataTexture(data, f.nx, f.ny, THREE.RGBAFormat, THREE.HalfFloatType);
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

function wakeUniforms(wakes: WaterSpec["wakes"]): Uniforms {
  const at: THREE.Vector4[] = [];
  const set: THREE.Vector4[] = [];
  for (let i = 0; i < MOST_WAKES; i++) {
    const w = wakes[i];
    const b = ((w?.toward ?? 0) * Math.PI) / 180;
    at.push(new THREE.Vector4(w?.east ?? 0, w?.north ?? 0, Math.sin(b), Math.cos(b)));
    set.push(new THREE.Vector4(w?.long_m ?? 1, w?.broad_m ?? 1, w?.speed_ms ?? 1, w?.high_m ?? 0));
  }
  return { uWakes: { value: wakes.length }, uWakeAt: { value: at }, uWakeSet: { value: set } };
}

export class Water {
  readonly group = new THREE.Group();
  private readonly fan = fan();
  private readonly fanAt = { value: new THREE.Vector4(0, Math.PI, 1, FAR_M) };
  private readonly fanStep = { value: 1.1 };
  private tiles: WaveTiles[] = [];
  private specs: WaterSpec[] = [];
  private wakes: THREE.Vector4[][] = [];
  private textures: THREE.Texture[] = [];

  constructor(private shared: Uniforms) {}

  set(waters: WaterSpec[]) {
    this.clear();
    this.specs = waters;
    waters.forEach((w, i) => this.add(w, i));
    this.run(this.shared.uTime.value);
  }

  private clear() {
    for (const child of [...this.group.children] as THREE.Mesh[]) {
      this.group.remove(child);
      if (child.geometry !== this.fan) child.geometry.dispose();
      (child.material as THREE.Material).dispose();
    }
    for (const t of [...this.tiles, ...this.textures]) t.dispose();
    this.tiles = [];
    this.textures = [];
    this.wakes = [];
  }

  private add(w: WaterSpec, order: number) {
    const tiles = new WaveTiles(w.sea, w.waves, w.chop);
    const field = fieldTexture(w.field);
    const ice = iceTexture(w);
    this.tiles.push(tiles);
    this.textures.push(field, ice);
    const wakes = wakeUniforms(w.wakes);
    this.wakes.push(wakes.uWakeAt.value);
    const own = { ...this.uniformsOf(w, tiles, field), ...wakes, uIce: { value: ice } };
    const uniforms = { ...this.shared, ...own };
    const geometry = w.stream ? ribbon(w.stream.points, w.stream.width) : this.fan;
    const how = {
      glslVersion: THREE.GLSL3,
      vertexShader: VERTEX,
      uniforms,
      transparent: true,
      side: THREE.DoubleSide,
      blending: THREE.CustomBlending,
    };
    const through = new THREE.ShaderMaterial({
      ...how,
      fragmentShader: THROUGH,
      depthWrite: false,
      blendSrc: THREE.ZeroFactor,
      blendDst: THREE.SrcColorFactor,
    });
    const adds = new THREE.ShaderMaterial({
      ...how,
      fragmentShader: FRAGMENT,
      depthWrite: true,
      blendSrc: THREE.OneFactor,
      blendDst: THREE.OneFactor,
    });
    for (const [k, material] of [through, adds].entries()) {
      const mesh = new THREE.Mesh(geometry, material);
      mesh.frustumCulled = false;
      mesh.renderOrder = 3 * order + k;
      mesh.onBeforeRender = (_r, _s, camera) => this.follow(camera as THREE.PerspectiveCamera, w);
      this.group.add(mesh);
    }
    this.addCollars(w, order);
  }

  private addCollars(w: WaterSpec, order: number) {
    if (!w.around) return;
    const { discs, reach_m, amount } = w.around;
    const mesh = collars(discs, reach_m, amount, w.sea.period_s, this.shared);
    mesh.renderOrder = 3 * order + 2;
    this.group.add(mesh);
  }

  private uniformsOf(w: WaterSpec, tiles: WaveTiles, field: THREE.Texture): Uniforms {
    const { sea } = w;
    const omega = (2 * Math.PI) / sea.period_s;
    const deep = 60;
    return {
      uWaves: { value: tiles.texture },
      uField: { value: field },
      uTileAt: { value: tiles.at },
      uTileBand: { value: tiles.bands },
      uTiles: { value: tiles.count },
      uSea: { value: new THREE.Vector4(sea.high_m, sea.long_m, sea.peak, omega) },
      uShoreSet: { value: new THREE.Vector4(w.surf, w.foam, sea.comes_back, deep) },
      uStream: { value: w.stream ? 1 : 0 },
      uIceSet: {
        value: new THREE.Vector4(w.ice.thick, w.ice.snow, w.ice.cracks, w.ice.data ? 1 : 0),
      },
      uFan: this.fanAt,
      uFanStep: this.fanStep,
      uLevel: { value: w.level },
      uMasked: { value: w.pool ? 1 : 0 },
      uClear: { value: w.clear },
      uThrough: { value: new THREE.Vector3(w.through.r, w.through.g, w.through.b) },
      uTint: { value: new THREE.Vector3(w.tint.r, w.tint.g, w.tint.b) },
      uShine: { value: new THREE.Vector2(w.mirror, w.glitter) },
    };
  }

  /** The fan lies before the eye, from its foot on, as wide as the picture. */
  private follow(camera: THREE.PerspectiveCamera, w: WaterSpec) {
    const ahead = camera.getWorldDirection(new THREE.Vector3());
    const over = Math.abs(camera.position.z - w.level);
    const level = Math.hypot(ahead.x, ahead.y);
    const half = Math.atan(Math.tan((camera.fov * Math.PI) / 360) * Math.max(camera.aspect, 1));
    const down = Math.asin(Math.min(1, Math.abs(ahead.z))) + half;
    // looking steeply down, the picture goes all around the foot
    const wide = down > 1.2 ? Math.PI : Math.min(Math.PI, half / Math.max(Math.cos(down), 0.2));
    const first = Math.max(0.4, over * 0.25);
    this.fanAt.value.set(Math.atan2(ahead.x, ahead.y), level < 0.05 ? Math.PI : wide, first, FAR_M);
    const ratio = (FAR_M / first) ** (1 / RINGS) - 1;
    this.fanStep.value = Math.max(ratio, wide / RAYS);
  }

  /** Wakes go with the pieces that make them, where those are elsewhere at a moment. */
  moved(doc: Scene, stands: Map<string, PieceStands> | undefined) {
    this.wakes.forEach((at, i) =>
      this.specs[i].wakes.slice(0, MOST_WAKES).forEach((w, k) => {
        const piece = doc.pieces.find((p) => p.id === w.of);
        const now = piece && stands?.get(piece.id);
        const turn = now ? ((now.turn - (piece.turn ?? 0)) * Math.PI) / 180 : 0;
        const [c, s] = [Math.cos(turn), Math.sin(turn)];
        const east = w.east - (piece?.east_m ?? 0);
        const north = w.north - (piece?.north_m ?? 0);
        const b = (w.toward * Math.PI) / 180 + turn;
        const x = (now?.east_m ?? piece?.east_m ?? 0) + east * c + north * s;
        const y = (now?.north_m ?? piece?.north_m ?? 0) + north * c - east * s;
        at[k].set(x, y, Math.sin(b), Math.cos(b));
      }),
    );
  }

  /** The eye may be under one of them. */
  seenFrom(eye: THREE.Vector3, spacing: number) {
    goUnder(this.shared, this.specs, eye, spacing);
  }

  /** The waves as they are at a time. */
  run(seconds: number) {
    for (const t of this.tiles) t.run(seconds);
  }
}
