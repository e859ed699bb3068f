/** The ground: a quadtree of patches over a texture of heights, clothed in blended materials. */
import * as THREE from "three";
import { COMMON } from "./glsl";
import type { Field } from "./products";

const QUADS = 16;

const VERTEX = /* glsl */ `${COMMON}
in vec4 patch_; // column, row, posts a step, drop of the skirt in m
out vec3 vPlace; out float vFar;
#ifdef FAR
float farPost(ivec2 p) { return texelFetch(uFarHeights, clamp(p, ivec2(0), ivec2(int(uFarGrid.x) - 1)), 0).r; }
#endif
void main() {
  #ifdef FAR
  vec2 p = clamp(patch_.xy + position.xy * patch_.z, vec2(0.0), vec2(uFarGrid.x - 1.0));
  vec3 w = vec3(uFarGrid.y + p.x * uFarGrid.w, uFarGrid.z + (uFarGrid.x - 1.0 - p.y) * uFarGrid.w, farPost(ivec2(p)));
  #else
  vec2 p = clamp(patch_.xy + position.xy * patch_.z, vec2(0.0), uGrid.xy - 1.0);
  vec3 w = vec3(p.x * uGrid.z, (uGrid.y - 1.0 - p.y) * uGrid.z, post(ivec2(p)));
  #endif
  w.z -= position.z * patch_.w;
  vPlace = w;
  gl_Position = projectionMatrix * viewMatrix * vec4(w, 1.0);
}`;

const FRAGMENT = /* glsl */ `${COMMON}
in vec3 vPlace; out vec4 outColour;
uniform sampler2DArray uWeights, uColours, uDetails;
uniform sampler2D uCover, uFarColour;
uniform int uCount;
uniform float uSizes[8];
uniform vec3 uTints[8];
uniform float uGrounds[8];
uniform vec4 uPools[4]; uniform float uPoolLevels[4]; uniform int uPoolCount;
uniform float uCoverNear;
uniform vec4 uRing; // east, north, radius, on
uniform sampler2D uWash; uniform vec4 uWashTone; // colour, strength: 1 hatches a share, 2 lays a measure as an ink wash with isolines
uniform vec4 uInner, uWashScale; // lowest, highest, isolines between them, is it a scale of ratios

vec2 turnBy(vec2 p, float a) { float c = cos(a), s = sin(a); return vec2(c * p.x - s * p.y, s * p.x + c * p.y); }

/** One material at a place: two scales, one turned, mixed by slow noise, so that the repeat does not show. */
void sampleGround(float layer, vec2 p, float size, float far_, float lost, float slow, out vec4 colour, out vec4 detail) {
  vec2 a = p / size, b = turnBy(p, 1.1) / (size * 4.3) + 0.37;
  float share = clamp(smoothstep(0.32, 0.68, slow) * 0.55 + far_ * 0.6, 0.0, 0.92);
  colour = mix(texture(uColours, vec3(a, layer)), texture(uColours, vec3(b, layer)), share);
  detail = texture(uDetails, vec3(far_ > 0.6 ? b : a, layer));
  // from afar the repeat gives way to the mean, which slower noise then varies
  colour.rgb = mix(colour.rgb, textureLod(uColours, vec3(0.5, 0.5, layer), 8.0).rgb, smoothstep(0.5, 3.0, far_ + lost) * 0.85);
}

void main() {
  #ifdef FAR
  if (vPlace.x > uInner.x && vPlace.y > uInner.y && vPlace.x < uInner.z && vPlace.y < uInner.w) discard;
  vec3 dx = dFdx(vPlace), dy = dFdy(vPlace);
  vec3 n = normalize(cross(dx, dy)); if (n.z < 0.0) n = -n;
  vec2 fuv = (vec2((vPlace.x - uFarGrid.y) / uFarGrid.w, uFarGrid.x - 1.0 - (vPlace.y - uFarGrid.z) / uFarGrid.w) + 0.5) / uFarGrid.x;
  // slopes from the heights, smooth between posts
  float e = 1.0 / uFarGrid.x;
  float hw = texture(uFarHeights, fuv - vec2(e, 0.0)).r, he = texture(uFarHeights, fuv + vec2(e, 0.0)).r;
  float hn = texture(uFarHeights, fuv - vec2(0.0, e)).r, hs = texture(uFarHeights, fuv + vec2(0.0, e)).r;
  n = normalize(vec3((hw - he) / (2.0 * uFarGrid.w), (hs - hn) / (2.0 * uFarGrid.w), 1.0));
  vec3 albedo = texture(uFarColour, fuv).rgb; albedo *= albedo;
  float m = texture(uNoise, vPlace.xy / 900.0).g * 0.6 + texture(uNoise, vPlace.xy / 190.0).r * 0.4;
  float fine = texture(uNoise, vPlace.xy / 41.0).b;
  albedo *= 0.62 + 0.5 * m + 0.32 * (fine - 0.4);
  n = normalize(n + vec3(texture(uNoise, vPlace.xy / 97.0).rg - 0.47, 0.0) * 0.35);
  float sun = 1.0, occlusion = 1.0;
  #else
  vec2 uv = plotUv(vPlace.xy);
  vec2 nn = texture(uNormals, uv).rg;
  vec3 n = vec3(nn, sqrt(max(1.0 - dot(nn, nn), 0.01)));
  vec3 flat_ = n;
  float d = distance(vPlace, uEye);
  float slow = texture(uNoise, vPlace.xy / 61.0).r, macro = texture(uNoise, vPlace.xy / 331.0).g;
  vec4 w0 = texture(uWeights, vec3(uv, 0.0)), w1 = uCount > 4 ? texture(uWeights, vec3(uv, 1.0)) : vec4(0.0);
  float ws[8] = float[8](w0.r, w0.g, w0.b, w0.a, w1.r, w1.g, w1.b, w1.a);
  // edges break up by noise, then by the height of each material's own relief
  float crumble = texture(uNoise, vPlace.xy / 7.3).b * 0.6 + texture(uNoise, vPlace.xy / 1.9).a * 0.4 - 0.46;
  vec3 albedo = vec3(0.0), bump = vec3(0.0); float total = 0.0, occlusion = 0.0, rough = 0.0;
  float steep = smoothstep(0.8, 0.62, n.z);
  for (int i = 0; i < 8; i++) {
    if (i >= uCount) break;
    float w = ws[i];
    w = clamp(w + crumble * 1.1 * w * (1.0 - w) * 2.0, 0.0, 1.0);
    if (w < 0.015) continue;
    float size = uSizes[i], far_ = smoothstep(size * 5.0, size * 34.0, d), lost = 2.0 * smoothstep(size * 20.0, size * 90.0, d);
    vec4 c, t; vec3 push;
    sampleGround(uGrounds[i], vPlace.xy, size, far_, lost, slow, c, t);
    push = vec3(t.xy * 2.0 - 1.0, 0.0);
    if (steep > 0.01) {
      vec4 cs, ts; bool ew = abs(n.x) > abs(n.y);
      vec2 side = ew ? vec2(vPlace.y, vPlace.z) : vec2(vPlace.x, vPlace.z);
      sampleGround(uGrounds[i], side, size, far_, lost, slow, cs, ts);
      vec2 b = ts.xy * 2.0 - 1.0;
      c = mix(c, cs, steep); t = mix(t, ts, steep);
      push = mix(push, ew ? vec3(0.0, b) : vec3(b.x, 0.0, b.y), steep);
    }
    float keep = w * mix(clamp(0.35 + c.a * 1.6 * w + w * 0.4, 0.05, 2.0), 1.0, smoothstep(60.0, 160.0, d));
    albedo += c.rgb * uTints[i] * keep; bump += push * keep; occlusion += t.a * keep; rough += t.b * keep; total += keep;
  }
  if (total > 0.0) { albedo /= total; bump /= total; occlusion /= total; rough /= total; } else { albedo = vec3(0.23, 0.22, 0.19); occlusion = 1.0; rough = 1.0; }
  float mid = texture(uNoise, vPlace.xy / 13.7).a;
  albedo *= 0.7 + 0.42 * macro + 0.45 * (slow - 0.45) + 0.5 * (mid - 0.47) * smoothstep(40.0, 200.0, d);
  n = normalize(n + bump * mix(0.95, 0.35, smoothstep(8.0, 120.0, d)));
  // the plants, seen from afar as colour, relief and shade
  vec4 cover = texture(uCover, uv); cover.rgb *= cover.rgb;
  float fade = smoothstep(uCoverNear * 0.25, uCoverNear, d);
  float clump = texture(uNoise, vPlace.xy / 2.3).b * 0.36 + texture(uNoise, vPlace.xy / 6.7).r * 0.34 + texture(uNoise, vPlace.xy / 29.0).g * 0.3;
  clump = clamp((clump - 0.5) * 1.5 + 0.5, 0.0, 1.0);
  albedo = mix(albedo, cover.rgb * (0.32 + 1.3 * clump), cover.a * fade * (0.72 + 0.28 * smoothstep(0.35, 0.6, clump)));
  vec2 rough2 = (texture(uNoise, vPlace.xy / 6.1).rg - texture(uNoise, vPlace.xy / 6.1 + 0.31).gr) * cover.a
    + (texture(uNoise, vPlace.xy / 27.0).ba - texture(uNoise, vPlace.xy / 27.0 + 0.43).ab) * (0.45 + 0.55 * cover.a);
  n = normalize(n + vec3(rough2, 0.0) * 1.0 * fade);
  occlusion *= 1.0 - 0.38 * cover.a * (1.0 - fade);
  float wet = 0.0;
  for (int i = 0; i < 4; i++) {
    if (i >= uPoolCount) break;
    vec4 b = uPools[i];
    if (vPlace.x > b.x && vPlace.y > b.y && vPlace.x < b.z && vPlace.y < b.w)
      wet = max(wet, 1.0 - smoothstep(0.06, 0.4 + 0.5 * slow, vPlace.z - uPoolLevels[i]));
  }
  albedo *= 1.0 - 0.52 * wet;
  float sun = sunAt(vPlace + flat_ * 0.05);
  #endif
  float up = max(dot(n, uSun), 0.0);
  vec3 light = uSunLight * up * sun + skyLight(n) * occlusion;
  vec3 colour = albedo * light;
  #ifndef FAR
  vec3 h = normalize(uSun + normalize(uEye - vPlace));
  float gloss = mix(pow(max(dot(n, h), 0.0), 24.0) * 0.05 * (1.0 - rough), pow(max(dot(n, h), 0.0), 90.0) * 0.5, wet);
  colour += uSunLight * gloss * sun * smoothstep(0.0, 0.1, up);
  if (uWashTone.a > 0.0) {
    float wash = texture(uWash, uv).r;
    if (uWashTone.a > 1.5) {
      float t = uWashScale.w > 0.5 ? (log(max(wash, 1e-4)) - log(max(uWashScale.x, 1e-4))) / (log(uWashScale.y) - log(max(uWashScale.x, 1e-4))) : (wash - uWashScale.x) / (uWashScale.y - uWashScale.x);
      t = clamp(t, 0.0, 1.0);
      float k = t * uWashScale.z, line = smoothstep(1.1, 0.3, abs(fract(k + 0.5) - 0.5) / max(fwidth(k), 1e-4));
      vec3 paper = vec3(0.86, 0.82, 0.72), shade = vec3(clamp(dot(light, vec3(0.42)), 0.25, 1.5));
      colour = mix(paper, uWashTone.rgb, t) * shade * (1.0 - 0.5 * line * step(0.5, k) * step(k, uWashScale.z - 0.5));
    } else {
    float hatch = smoothstep(0.35, 0.65, abs(fract((gl_FragCoord.x + gl_FragCoord.y) / 7.0) - 0.5) * 2.0);
    colour = mix(colour, uWashTone.rgb * dot(light, vec3(0.4)), wash * uWashTone.a * (0.35 + 0.5 * hatch));
    }
  }
  #endif
  colour = hazed(colour, vPlace);
  #ifndef FAR
  if (uRing.w > 0.5) {
    float r = distance(vPlace.xy, uRing.xy);
    float line = smoothstep(1.6, 0.6, abs(r - uRing.z) / max(fwidth(r), 1e-4));
    colour = mix(colour, vec3(0.85, 0.4, 0.03), line * 0.9);
  }
  #endif
  outColour = vec4(colour, 1.0);
}`;

/** Patch of QUADS x QUADS squares cut from north-west to south-east, with a skirt (z = 1) around it. */
function patchGeometry(): THREE.InstancedBufferGeometry {
  const n = QUADS + 1, pos: number[] = [], index: number[] = [];
  for (let r = 0; r < n; r++) for (let c = 0; c < n; c++) pos.push(c, r, 0);
  for (let r = 0; r < QUADS; r++)
    for (let c = 0; c < QUADS; c++) {
      const i = r * n + c;
      index.push(i, i + n, i + n + 1, i, i + n + 1, i + 1);
    }
  const rim: number[] = [];
  for (let c = 0; c < QUADS; c++) rim.push(c);
  for (let r = 0; r < QUADS; r++) rim.push(r * n + QUADS);
  for (let c = QUADS; c > 0; c--) rim.push(QUADS * n + c);
  for (let r = QUADS; r > 0; r--) rim.push(r * n);
  const base = pos.length / 3;
  rim.forEach((v) => pos.push(pos[v * 3], pos[v * 3 + 1], 1));
  rim.forEach((v, k) => {
    const next = (k + 1) % rim.length;
    index.push(v, rim[next], base + k, rim[next], base + next, base + k);
  });
  const g = new THREE.InstancedBufferGeometry();
  g.setAttribute("position", new THREE.Float32BufferAttribute(pos, 3));
  g.setIndex(index);
  return g;
}

export class Land {
  readonly mesh: THREE.Mesh;
  private geometry = patchGeometry();
  private patches = new Float32Array(4 * 2048);
  private field: Field | null = null;
  private ranges: Float32Array[] = []; // lowest and highest height of each node, by level

  constructor(readonly material: THREE.ShaderMaterial) {
    const attribute = new THREE.InstancedBufferAttribute(this.patches, 4);
    attribute.setUsage(THREE.DynamicDrawUsage);
    this.geometry.setAttribute("patch_", attribute);
    this.mesh = new THREE.Mesh(this.geometry, material);
    this.mesh.frustumCulled = false;
    this.mesh.visible = false;
  }

  /** `ring` holds the uniforms of one ring of far land. */
  static material(shared: Record<string, THREE.IUniform>, own: Record<string, THREE.IUniform>, ring?: Record<string, THREE.IUniform>): THREE.ShaderMaterial {
    return new THREE.ShaderMaterial({ glslVersion: THREE.GLSL3, vertexShader: VERTEX, fragmentShader: FRAGMENT, side: THREE.DoubleSide,
      uniforms: { ...shared, ...own, ...ring }, defines: ring ? { FAR: 1 } : {} });
  }

  set(field: Field) {
    this.field = field;
    this.mesh.visible = true;
    // heights of nodes of QUADS, 2 QUADS, ... posts
    this.ranges = [];
    let step = 1;
    for (;;) {
      const size = QUADS * step, nx = Math.max(1, Math.ceil((field.nx - 1) / size)), ny = Math.max(1, Math.ceil((field.ny - 1) / size));
      const out = new Float32Array(nx * ny * 2);
      if (step === 1) {
        for (let r = 0; r < ny; r++)
          for (let c = 0; c < nx; c++) {
            let lo = Infinity, hi = -Infinity;
            for (let y = r * size; y <= Math.min(field.ny - 1, (r + 1) * size); y++)
              for (let x = c * size; x <= Math.min(field.nx - 1, (c + 1) * size); x++) {
                const h = field.values[y * field.nx + x];
                if (h < lo) lo = h;
                if (h > hi) hi = h;
              }
            out[(r * nx + c) * 2] = lo;
            out[(r * nx + c) * 2 + 1] = hi;
          }
      } else {
        const below = this.ranges[this.ranges.length - 1], bx = Math.max(1, Math.ceil((field.nx - 1) / (size / 2))), by = Math.max(1, Math.ceil((field.ny - 1) / (size / 2)));
        for (let r = 0; r < ny; r++)
          for (let c = 0; c < nx; c++) {
            let lo = Infinity, hi = -Infinity;
            for (let k = 0; k < 4; k++) {
              const y = 2 * r + (k >> 1), x = 2 * c + (k & 1);
              if (y >= by || x >= bx) continue;
              lo = Math.min(lo, below[(y * bx + x) * 2]);
              hi = Math.max(hi, below[(y * bx + x) * 2 + 1]);
            }
            out[(r * nx + c) * 2] = lo;
            out[(r * nx + c) * 2 + 1] = hi;
          }
      }
      this.ranges.push(out);
      if (nx === 1 && ny === 1) break;
      step *= 2;
    }
  }

  /** Heights in a rectangle have changed: the nodes above it learn of their new lowest and highest. */
  widen(r0: number, c0: number, rows: number, columns: number) {
    const f = this.field;
    if (!f) return;
    let lo = Infinity, hi = -Infinity;
    for (let r = r0; r < r0 + rows; r++) for (let c = c0; c < c0 + columns; c++) { const h = f.values[r * f.nx + c]; if (h < lo) lo = h; if (h > hi) hi = h; }
    this.ranges.forEach((range, level) => {
      const size = QUADS << level, nx = Math.max(1, Math.ceil((f.nx - 1) / size)), ny = Math.max(1, Math.ceil((f.ny - 1) / size));
      for (let r = Math.floor(r0 / size); r <= Math.min(ny - 1, Math.floor((r0 + rows) / size)); r++)
        for (let c = Math.floor(c0 / size); c <= Math.min(nx - 1, Math.floor((c0 + columns) / size)); c++) { const i = (r * nx + c) * 2; range[i] = Math.min(range[i], lo); range[i + 1] = Math.max(range[i + 1], hi); }
    });
  }

  /** Chooses the patches for an eye; `fine` is the distance, in patch lengths, under which a patch is divided. */
  choose(camera: THREE.PerspectiveCamera, fine: number): number {
    const f = this.field;
    if (!f) return 0;
    const frustum = new THREE.Frustum().setFromProjectionMatrix(new THREE.Matrix4().multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse));
    const eye = camera.position, box = new THREE.Box3();
    let count = 0;
    const visit = (level: number, c: number, r: number) => {
      const size = QUADS << level, nx = Math.max(1, Math.ceil((f.nx - 1) / size)), ny = Math.max(1, Math.ceil((f.ny - 1) / size));
      if (c >= nx || r >= ny) return;
      const at = (r * nx + c) * 2, low = this.ranges[level][at], high = this.ranges[level][at + 1], length = size * f.spacing;
      box.min.set(f.east + c * length, f.north + (f.ny - 1 - (r + 1) * size) * f.spacing, low - 1);
      box.max.set(f.east + (c + 1) * length, f.north + (f.ny - 1 - r * size) * f.spacing, high + 1);
      if (!frustum.intersectsBox(box)) return;
      if (level > 0 && box.distanceToPoint(eye) < length * fine) {
        for (let k = 0; k < 4; k++) visit(level - 1, 2 * c + (k & 1), 2 * r + (k >> 1));
      } else if (count < 2048) {
        const step = 1 << level;
        this.patches.set([c * size, r * size, step, Math.max(0.4, (high - low) * 0.12 + step * f.spacing * 0.25)], count * 4);
        count++;
      }
    };
    visit(this.ranges.length - 1, 0, 0);
    this.geometry.instanceCount = count;
    this.geometry.getAttribute("patch_").needsUpdate = true;
    return count * QUADS * QUADS * 2;
  }
}
