/**
 * Plants, stones and figures: instances chosen by distance, near ones as meshes, far ones as cards.
 */
import * as THREE from "three";
import { bytesOf } from "../api/client";
import { COMMON } from "./glsl";
import { heightAt, type Field, type Sown } from "./products";

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

const VERTEX = /* glsl */ `${COMMON}
in vec4 spot;   // east, north, sink, size
// turn, lean, bearing (radians), tint with the cm that blend into the land before it
in vec4 stance;
in vec3 tone; in float leaf;
out vec3 vPlace, vNormal, vTone; out vec2 vUv; out float vFoot, vTint, vLeaf, vBlend;
// where it blows to, strength, is it played
uniform float uCard, uHeight, uStone; uniform vec3 uLook; uniform vec4 uWind;
void main() {
  float size = abs(spot.w), cm = floor(stance.w * 0.5);
  vec3 p = position * size, n = normal;
  if (spot.w < 0.0) { p.x = -p.x; n.x = -n.x; } // mirrored
  float base = groundAt(spot.xy) - spot.z;
  vec3 root = vec3(spot.xy, base);
  if (uCard > 0.5) {
    vec2 to = normalize(uLook.xy - spot.xy + 1e-4);
    p = vec3(-to.y * p.x, to.x * p.x, p.z);
    n = normalize(vec3(to * 0.55, 0.75));
  } else {
    float c = cos(stance.x), s = sin(stance.x);
    p.xy = vec2(c * p.x + s * p.y, -s * p.x + c * p.y);
    n.xy = vec2(c * n.x + s * n.y, -s * n.x + c * n.y);
    vec3 axis = vec3(cos(stance.z), -sin(stance.z), 0.0);
    float cl = cos(stance.y), sl = sin(stance.y);
    p = p * cl - cross(axis, p) * sl + axis * dot(axis, p) * (1.0 - cl);
    n = n * cl - cross(axis, n) * sl + axis * dot(axis, n) * (1.0 - cl);
  }
  // sway as of a rod held at its foot, gusts running with the wind (after Habel and others 2009,
  // simplified)
  if (uWind.w > 0.5 && leaf > 0.0) {
    float h = max(position.z, 0.0) / uHeight, gust = sin(uTime * 0.9 - dot(spot.xy, uWind.xy) * 0.11) * 0.5 + 0.5, own = fract(spot.x * 0.37 + spot.y * 0.73) * 6.2832;
    float bend = uWind.z * h * h * (0.35 + 0.65 * gust) + uWind.z * 0.3 * h * sin(uTime * (2.6 - 0.9 * min(uHeight * size / 12.0, 1.0)) + own);
    p.xy += uWind.xy * bend * min(uHeight * size, 6.0) * 0.09;
    p += 0.012 * leaf * uWind.z * h * sin(uTime * 6.1 + position.yzx * 9.0 + own);
  }
  vFoot = position.z / uHeight; vLeaf = leaf;
  vBlend = uCard > 0.5 ? 0.0 : cm > 0.0 ? cm * 0.01 : uStone > 0.5 ? clamp(0.07 * uHeight * size, 0.015, 0.3) : 0.0;
  vPlace = root + p; vNormal = n; vTone = tone; vUv = uv; vTint = stance.w - 2.0 * cm;
  gl_Position = projectionMatrix * viewMatrix * vec4(vPlace, 1.0);
}`;

/** Where a picture of leaves is larger than a texel a pixel its edge is sharp; where it is smaller, its mean cover decides by a hash of its own place,
    so that a crown keeps its density and its grain (hashed alpha testing; Wyman & McGuire 2017). Summed frames take another hash each. */
const CUT = /* glsl */ `
uniform float uGrain;
float cut(vec2 uv, float sharp) {
  vec2 t = uv * vec2(1024.0, 512.0), a = dFdx(t), b = dFdy(t);
  float size = sqrt(max(dot(a, a), dot(b, b))), cell = exp2(floor(log2(max(size, 1.0)) + 0.5));
  // after Hoskins 2014
  vec3 q = fract(vec3(floor(t / cell), uGrain) * vec3(0.1031, 0.11369, 0.13787));
  q += dot(q, q.yzx + 19.19);
  return mix(sharp, 0.06 + 0.88 * fract((q.x + q.y) * q.z), smoothstep(1.2, 2.6, size));
}`;

const FRAGMENT = /* glsl */ `${COMMON}${CUT}
in vec3 vPlace, vNormal, vTone; in vec2 vUv; in float vFoot, vTint, vLeaf, vBlend; out vec4 outColour;
uniform sampler2D uSheet, uGroundTone; uniform float uStone, uChosen, uCard; uniform vec3 uWorn;
void main() {
  vec3 albedo = vTone * uWorn;
  if (vUv.x >= 0.0) {
    // leaves keep their grain; summed frames smooth it
    vec4 c = texture(uSheet, vUv, uCard > 0.5 ? 0.0 : -1.3);
    if (c.a < cut(vUv, uCard > 0.5 ? 0.3 : 0.42)) discard;
    albedo *= c.rgb * (uCard > 0.5 ? 0.8 : 1.0);
  }
  vec3 n = normalize(vNormal), eye = normalize(uEye - vPlace);
  if (uStone > 0.5) {
    vec3 q = abs(n); vec2 p = q.z > 0.6 ? vPlace.xy : (q.x > q.y ? vPlace.yz : vPlace.xz);
    vec4 a = texture(uNoise, p * 0.21), b = texture(uNoise, p * 1.7), e = texture(uNoise, p * 7.3);
    albedo *= 0.5 + 0.5 * a.r + 0.42 * b.g + 0.1 * (b.b - 0.5) + 0.32 * (e.r - 0.47);
    // pale crusts with a ragged rim
    float lichen = smoothstep(0.56, 0.62, 0.55 * b.a + 0.3 * a.b + 0.2 * e.g) * smoothstep(-0.1, 0.6, n.z);
    albedo = mix(albedo, vec3(0.33, 0.335, 0.27) * (0.6 + 0.7 * e.b), 0.6 * lichen);
    // dark grains and pits
    albedo *= 1.0 - 0.5 * smoothstep(0.6, 0.66, texture(uNoise, p.yx * 0.6 + 0.3).r) * smoothstep(0.5, 0.6, e.a) * (1.0 - smoothstep(6.0, 22.0, distance(uEye, vPlace)));
    n = normalize(n + (vec3(b.r, b.a, a.g) - 0.46) * 0.55 + (vec3(e.g, e.b, e.r) - 0.46) * 0.45);
  } else {
    if (vLeaf > 0.0 && dot(n, eye) < -0.25) n = -n * vec3(1.0, 1.0, -1.0);
    float t = vTint - 0.5;
    albedo *= vec3(1.0 + t * 0.85, 1.0 + t * 0.3, 1.0 - t * 0.55) * (1.0 + t * 0.5);
  }
  float joined = 0.0;
  if (vBlend > 0.0) { // the ground's own colour and lie at the foot, along an uneven rim
    float over = vPlace.z - groundAt(vPlace.xy);
    joined = 1.0 - smoothstep(0.0, vBlend, over + (texture(uNoise, vPlace.xy * 0.9).g - 0.5) * vBlend * 0.9);
    vec4 ground = texture(uGroundTone, plotUv(vPlace.xy));
    albedo = mix(albedo, ground.rgb * ground.rgb * (0.62 + 0.8 * texture(uNoise, vPlace.xy * 1.9).b), joined * ground.a);
    vec2 gn = texture(uNormals, plotUv(vPlace.xy)).rg;
    n = normalize(mix(n, vec3(gn, sqrt(max(1.0 - dot(gn, gn), 0.01))), 0.8 * joined));
  }
  float sun = sunAt(vPlace + n * 0.03);
  float d = dot(n, uSun);
  float wrap = mix(max(d, 0.0), clamp(d * 0.72 + 0.28, 0.0, 1.0), vLeaf);
  float through = vLeaf * (pow(clamp(dot(-eye, uSun), 0.0, 1.0), 5.0) * 0.5 + 0.1 * max(-d, 0.0));
  float foot = mix(uStone > 0.5 ? 0.62 : 0.4, 1.0, smoothstep(0.0, uStone > 0.5 ? 0.25 : 0.55, vFoot));
  vec3 colour = albedo * (uSunLight * ((wrap + through) * sun + 0.075 * vLeaf * max(uSun.z, 0.0)) + skyLight(n) * foot) * mix(mix(foot, 1.0, 0.45), 1.0, joined);
  if (uChosen > 0.5) colour = mix(colour, vec3(0.7, 0.35, 0.04), 0.35);
  outColour = vec4(hazed(colour, vPlace), 1.0);
}`;

const DEPTH = /* glsl */ `precision highp float; in vec2 vUv; uniform sampler2D uSheet; out vec4 outColour;${CUT}
void main() { if (vUv.x >= 0.0 && texture(uSheet, vUv).a < cut(vUv, 0.4)) discard; outColour = vec4(1.0); }`;

interface Batch {
  mesh: THREE.Mesh;
  spots: Float32Array;
  stances: Float32Array;
  count: number;
  level: number;
  shape: Shape;
}

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
  private heights = new Map<string, { height_m: number; reach_m: number; family: string }>();
  private scale = 1;

  constructor(
    private shared: Record<string, THREE.IUniform>,
    private changed: () => void,
  ) {}

  setCabinet(kinds: { name: string; height_m: number; reach_m: number; family: string }[]) {
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
        bytesOf(`/api/cabinet/kinds/${kind}/shape${wears}`),
        new THREE.TextureLoader().loadAsync(`/api/cabinet/kinds/${kind}/sheet.png${wears}`),
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
        uStone: { value: shape.family === "stone" && !card ? 1 : 0 },
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
            radius > 120 && shape.family === "tree" ? 1 : Math.min(1, shape.levels[0].length - 2);
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
