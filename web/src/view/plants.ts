import * as calls from "../api/calls";
import type { FamilyFacts } from "../api/shapes";
import * as urls from "../api/urls";
/**
 * Plants, stones and figures: instances chosen by distance, near ones as meshes, far ones as cards.
 */
import * as THREE from "three";
import { type Field, heightAt } from "./field";
import { DEPTH, FRAGMENT, VERTEX } from "./plantsShader";
import type { Sown } from "./products";

interface Level {
  geometry: THREE.BufferGeometry;
  triangles: number;
}

interface Shape {
  levels: Level[][];
  sheet: THREE.Texture;
  far: number[];
  height: number;
  reach: number;
  family: string;
}

interface Batch {
  mesh: THREE.Mesh;
  spots: Float32Array;
  stances: Float32Array;
  count: number;
  level: number;
  shape: Shape;
}

const MOST_WAIT_MS = 2500;

export interface PieceSpot {
  id: string;
  kind: string;
  variant: number;
  east: number;
  north: number;
  sink: number;
  size: number;
  turn: number;
  lean: number;
  bearing: number;
  mirrored: boolean;
  blend: number;
}

export interface Choice {
  pixels: number;
  least: number;
  thin: boolean;
  budget: number;
}

/**
 * The kinds' shapes are fetched as they are first needed; `changed` is called when one has come.
 */
export class Plants {
  readonly group = new THREE.Group();
  drawn = 0;
  triangles = 0; // of what is drawn
  proxies = false; // cards only
  private shapes = new Map<string, Shape | null>();
  private batches = new Map<string, Batch>();
  private sown: { sown: Sown; kinds: string[]; hidden: boolean }[] = [];
  private pieces: PieceSpot[] = [];
  private families = new Map<string, FamilyFacts>();
  private heights = new Map<string, { height_m: number; reach_m: number; family: string }>();
  private scale = 1;
  private toldAt = 0;

  constructor(
    private shared: Record<string, THREE.IUniform>,
    private changed: () => void,
  ) {}

  setCabinet(
    kinds: { name: string; height_m: number; reach_m: number; family: string }[],
    families: FamilyFacts[],
  ) {
    this.families = new Map(families.map((f) => [f.name, f]));
    kinds.forEach((k) => this.heights.set(k.name, k));
  }

  set(sown: { sown: Sown; kinds: string[]; hidden: boolean }[], pieces: PieceSpot[]) {
    this.sown = sown;
    this.pieces = pieces;
    for (const name of new Set<string>([
      ...sown.flatMap((s) => s.kinds),
      ...pieces.map((p) => p.kind),
    ]))
      void this.fetch(name);
  }

  /** What the cabinet tells of a kind, whatever look or tint its name carries. */
  private facts(name: string) {
    return this.heights.get(name.split("~")[0]);
  }

  get pending(): boolean {
    return [...this.shapes.values()].some((s) => s === null);
  }

  private async fetch(name: string) {
    if (this.shapes.has(name)) return;
    this.shapes.set(name, null);
    try {
      const [kind, look] = name.split("~");
      const wears = `?look=${look || "summer"}`;
      const [data, sheet] = await Promise.all([
        calls.kindShape(kind, wears),
        new THREE.TextureLoader().loadAsync(urls.kindSheet(kind, wears)),
      ]);
      sheet.flipY = false;
      sheet.colorSpace = THREE.SRGBColorSpace;
      sheet.anisotropy = 2;
      const length = new DataView(data).getUint32(0, true);
      const head = JSON.parse(new TextDecoder().decode(new Uint8Array(data, 4, length)));
      const start = 4 + length;
      this.heights.set(kind, {
        height_m: head.height_m,
        reach_m: head.reach_m,
        family: head.family,
      });
      const levels = head.levels.map((row: { vertices: number; indices: number; at: number }[]) =>
        row.map((m) => {
          const g = new THREE.BufferGeometry();
          let at = start + m.at;
          for (const [attribute, width] of [
            ["position", 3],
            ["normal", 3],
            ["uv", 2],
            ["tone", 3],
            ["leaf", 1],
          ] as const) {
            g.setAttribute(
              attribute,
              new THREE.BufferAttribute(new Float32Array(data, at, m.vertices * width), width),
            );
            at += m.vertices * width * 4;
          }
          g.setIndex(new THREE.BufferAttribute(new Uint32Array(data, at, m.indices), 1));
          return { geometry: g, triangles: m.indices / 3 };
        }),
      );
      this.shapes.set(name, {
        levels,
        sheet,
        far: head.far_m,
        height: head.height_m,
        reach: head.reach_m,
        family: head.family,
      });
    } catch {
      this.shapes.delete(name); // asked again at the next change
    }
    this.arrived();
  }

  /** A shape is there: the face is drawn anew when the last has come, or when others take long. */
  private arrived() {
    const now = performance.now();
    if (this.pending && now - this.toldAt < MOST_WAIT_MS) return;
    this.toldAt = now;
    this.changed();
  }

  private batch(kind: string, variant: number, level: number, shape: Shape): Batch {
    const key = `${kind}/${variant}/${level}`;
    let b = this.batches.get(key);
    if (!b) {
      const source = shape.levels[variant % shape.levels.length][level].geometry;
      const g = new THREE.InstancedBufferGeometry();
      for (const name of ["position", "normal", "uv", "tone", "leaf"])
        g.setAttribute(name, source.getAttribute(name));
      g.setIndex(source.getIndex());
      const card = level === shape.levels[0].length - 1;
      const uniforms = {
        ...this.shared,
        uSheet: { value: shape.sheet },
        uCard: { value: card ? 1 : 0 },
        uHeight: { value: shape.height },
        uWorn: {
          value: new THREE.Color(`#${kind.split("~")[2] || "ffffff"}`).multiplyScalar(
            +(kind.split("~")[3] || 100) / 100,
          ),
        },
        uStone: { value: this.families.get(shape.family)?.foot_tone && !card ? 1 : 0 },
        uChosen: { value: 0 },
      };
      const material = new THREE.ShaderMaterial({
        glslVersion: THREE.GLSL3,
        vertexShader: VERTEX,
        fragmentShader: FRAGMENT,
        uniforms,
        side: THREE.DoubleSide,
      });
      const mesh = new THREE.Mesh(g, material);
      mesh.frustumCulled = false;
      mesh.userData.depth = new THREE.ShaderMaterial({
        glslVersion: THREE.GLSL3,
        vertexShader: VERTEX,
        fragmentShader: DEPTH,
        uniforms,
        side: THREE.DoubleSide,
      });
      b = {
        mesh,
        spots: new Float32Array(0),
        stances: new Float32Array(0),
        count: 0,
        level,
        shape,
      };
      this.batches.set(key, b);
      this.group.add(mesh);
    }
    return b;
  }

  private push(
    b: Batch,
    east: number,
    north: number,
    sink: number,
    size: number,
    turn: number,
    lean: number,
    bearing: number,
    tint: number,
  ) {
    const i = b.count++ * 4;
    if (i >= b.spots.length) {
      const grow = (a: Float32Array) => {
        const n = new Float32Array(Math.max(256, a.length * 2));
        n.set(a);
        return n;
      };
      b.spots = grow(b.spots);
      b.stances = grow(b.stances);
      const g = b.mesh.geometry as THREE.InstancedBufferGeometry;
      g.dispose();
      g.setAttribute(
        "spot",
        new THREE.InstancedBufferAttribute(b.spots, 4).setUsage(THREE.DynamicDrawUsage),
      );
      g.setAttribute(
        "stance",
        new THREE.InstancedBufferAttribute(b.stances, 4).setUsage(THREE.DynamicDrawUsage),
      );
    }
    const s = b.spots;
    const t = b.stances;
    s[i] = east;
    s[i + 1] = north;
    s[i + 2] = sink;
    s[i + 3] = size;
    t[i] = turn;
    t[i + 1] = lean;
    t[i + 2] = bearing;
    t[i + 3] = tint;
  }

  /**
   * Fills the batches for an eye. Plants smaller than `least` pixels are left to the ground's own
   * colour.
   */
  choose(camera: THREE.PerspectiveCamera, field: Field, how: Choice): void {
    this.scale = 1; // how near the thinning begins: as far as the budget allows
    for (let round = 0; round < 5; round++) {
      this.fill(camera, field, how);
      if (!how.thin || this.drawn <= how.budget) break;
      this.scale *= Math.max(0.45, Math.sqrt(how.budget / this.drawn)) * 0.97;
    }
    this.commit();
  }

  private fill(camera: THREE.PerspectiveCamera, field: Field, how: Choice) {
    for (const b of this.batches.values()) b.count = 0;
    this.drawn = this.triangles = 0;
    const focal = how.pixels / 2 / Math.tan((camera.fov * Math.PI) / 360);
    const eye = camera.position;
    const frustum = new THREE.Frustum().setFromProjectionMatrix(
      new THREE.Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse),
    );
    const ball = new THREE.Sphere();
    const near = focal / 900;
    const scale = how.thin ? this.scale : 1;
    for (const { sown, kinds, hidden } of this.sown) {
      if (hidden) continue;
      const shapes = kinds.map((k) => this.shapes.get(k));
      const tallest = Math.max(...kinds.map((k) => this.facts(k)?.height_m ?? 1));
      const reach = ((tallest * focal) / how.least) * scale;
      const full = ((tallest * focal) / 26) * scale;
      const t = sown.table;
      for (const [c, r, from, to] of sown.tiles) {
        const cx = (c + 0.5) * sown.tile;
        const cy = (r + 0.5) * sown.tile;
        const away = Math.hypot(cx - eye.x, cy - eye.y);
        if (away - sown.tile * 0.71 > reach * 1.3) continue;
        ball.center.set(cx, cy, heightAt(field, cx, cy));
        ball.radius = sown.tile * 0.72 + sown.tile * 0.5 + tallest;
        if (!frustum.intersectsSphere(ball)) continue;
        // plants of a tile lie in order of their rank: a share of them is its beginning
        let keep = 1;
        if (how.thin) {
          const d = Math.max(0, away - sown.tile * 0.5);
          keep = d < full ? 1 : Math.pow(full / d, 1.35);
          if (d > reach * 0.7) keep *= Math.max(0, 1 - (d - reach * 0.7) / (reach * 0.6));
        }
        const end = from + Math.ceil((to - from) * keep);
        const wider = Math.min(1.5, Math.pow(keep, -0.28));
        for (let i = from; i < end; i++) {
          const o = i * 9;
          const code = t[o + 8];
          const k = code >> 4;
          const shape = shapes[k];
          if (!shape) continue;
          const dx = t[o] - eye.x;
          const dy = t[o + 1] - eye.y;
          const d = Math.sqrt(dx * dx + dy * dy);
          const size = t[o + 6];
          if (d * 1.0 > ((shape.height * size * focal) / how.least) * scale * 1.4 && !how.thin)
            continue;
          // each plant changes its level at a distance of its own, so that no ring of change shows
          let level = this.proxies && how.thin ? shape.far.length : 0;
          const at =
            size *
            near *
            (how.thin ? scale : 1.3) *
            (0.86 + 0.28 * ((t[o] * 7.31 + t[o + 1] * 3.17) % 1));
          while (level < shape.far.length && d > shape.far[level] * at) level++;
          this.triangles += shape.levels[0][level].triangles;
          this.push(
            this.batch(kinds[k], code & 15, level, shape),
            t[o],
            t[o + 1],
            sown.sinks[i],
            size * wider,
            (t[o + 3] * Math.PI) / 180,
            (t[o + 4] * Math.PI) / 180,
            (t[o + 5] * Math.PI) / 180,
            t[o + 7],
          );
          this.drawn++;
        }
      }
    }
    for (const p of this.pieces) {
      const shape = this.shapes.get(p.kind);
      if (!shape) continue;
      const d = Math.hypot(p.east - eye.x, p.north - eye.y);
      let level = 0;
      while (
        level < shape.far.length - (p.blend ? 1 : 0) &&
        d > shape.far[level] * p.size * near * 1.4
      )
        level++;
      this.triangles += shape.levels[0][level].triangles;
      this.push(
        this.batch(p.kind, p.variant, level, shape),
        p.east,
        p.north,
        p.sink,
        p.size * (p.mirrored ? -1 : 1),
        (p.turn * Math.PI) / 180,
        (p.lean * Math.PI) / 180,
        (p.bearing * Math.PI) / 180,
        0.5 + 2 * Math.round(p.blend * 100),
      );
    }
  }

  private commit() {
    for (const b of this.batches.values()) {
      const g = b.mesh.geometry as THREE.InstancedBufferGeometry;
      g.instanceCount = b.count;
      b.mesh.visible = b.count > 0;
      if (b.count)
        for (const name of ["spot", "stance"]) {
          const a = g.getAttribute(name) as THREE.InstancedBufferAttribute;
          a.clearUpdateRanges();
          a.addUpdateRange(0, b.count * 4);
          a.needsUpdate = true;
        }
    }
  }

  /** What casts shadows within a radius: everything of some height, at its middle level. */
  chooseForShadow(centre: THREE.Vector3, radius: number, least_m: number) {
    for (const b of this.batches.values()) b.count = 0;
    for (const { sown, kinds, hidden } of this.sown) {
      if (hidden) continue;
      const shapes = kinds.map((k) => this.shapes.get(k));
      const t = sown.table;
      if (!shapes.some((s) => s && s.height >= least_m)) continue;
      for (const [c, r, from, to] of sown.tiles) {
        if (
          Math.hypot((c + 0.5) * sown.tile - centre.x, (r + 0.5) * sown.tile - centre.y) >
          radius * 1.2 + sown.tile * 0.71
        )
          continue;
        for (let i = from; i < to; i++) {
          const o = i * 9;
          const code = t[o + 8];
          const k = code >> 4;
          const shape = shapes[k];
          if (!shape || shape.height * t[o + 6] < least_m) continue;
          const level =
            radius > 120 && this.families.get(shape.family)?.large
              ? 1
              : Math.min(1, shape.levels[0].length - 2);
          this.push(
            this.batch(kinds[k], code & 15, level, shape),
            t[o],
            t[o + 1],
            sown.sinks[i],
            t[o + 6],
            (t[o + 3] * Math.PI) / 180,
            (t[o + 4] * Math.PI) / 180,
            (t[o + 5] * Math.PI) / 180,
            0.5,
          );
        }
      }
    }
    for (const p of this.pieces) {
      const shape = this.shapes.get(p.kind);
      if (shape)
        this.push(
          this.batch(p.kind, p.variant, Math.min(1, shape.levels[0].length - 2), shape),
          p.east,
          p.north,
          p.sink,
          p.size * (p.mirrored ? -1 : 1),
          (p.turn * Math.PI) / 180,
          (p.lean * Math.PI) / 180,
          (p.bearing * Math.PI) / 180,
          0.5,
        );
    }
    this.commit();
  }

  /** The meshes that the last choice filled, each with its triangles. */
  shown(): { mesh: THREE.Mesh; triangles: number }[] {
    return [...this.batches.values()]
      .filter((b) => b.count > 0)
      .map((b) => ({ mesh: b.mesh, triangles: b.count * b.shape.levels[0][b.level].triangles }));
  }

  /** Swaps in the plain materials of the shadow pass, or the full ones. */
  plain(on: boolean) {
    for (const b of this.batches.values()) {
      const m = b.mesh;
      if (on) {
        m.userData.full ??= m.material;
        m.material = m.userData.depth;
      } else if (m.userData.full) m.material = m.userData.full;
    }
  }
}
