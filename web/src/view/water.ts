/**
 * Water: a sea to the horizon, pools kept within their hollows, streams as ribbons that fall along
 * their lines.
 */
import * as THREE from "three";
import { COMMON } from "./glsl";

const VERTEX = /* glsl */ `${COMMON}
out vec3 vPlace;
void main() { vPlace = (modelMatrix * vec4(position, 1.0)).xyz; gl_Position = projectionMatrix * viewMatrix * vec4(vPlace, 1.0); }`;

const FRAGMENT = /* glsl */ `${COMMON}
in vec3 vPlace; out vec4 outColour;
uniform sampler2D uMask, uCover; uniform vec4 uBounds; uniform float uMasked, uClear, uWaves; uniform vec3 uTint;
float bed(vec2 p) {
  if (uGrid.w > 0.5 && p.x >= 0.0 && p.y >= 0.0 && p.x <= uPlot.x && p.y <= uPlot.y) return groundAt(p);
  if (uFarGrid.x > 1.5) { vec2 uv = (vec2((p.x - uFarGrid.y) / uFarGrid.w, uFarGrid.x - 1.0 - (p.y - uFarGrid.z) / uFarGrid.w) + 0.5) / uFarGrid.x;
    if (uv.x > 0.0 && uv.y > 0.0 && uv.x < 1.0 && uv.y < 1.0) return texture(uFarHeights, uv).r; }
  return vPlace.z - 30.0;
}
void main() {
  if (uMasked > 0.5) {
    vec2 m = (vPlace.xy - uBounds.xy) / (uBounds.zw - uBounds.xy);
    if (any(lessThan(m, vec2(0.0))) || any(greaterThan(m, vec2(1.0))) || texture(uMask, vec2(m.x, 1.0 - m.y)).r < 0.4) discard;
  }
  vec3 ray = vPlace - uEye; float d = length(ray); ray /= d;
  float depth = vPlace.z - bed(vPlace.xy);
  if (depth < 0.0) discard;
  vec2 q = vPlace.xy; float t = uTime;
  vec2 a = texture(uNoise, q / 3.1 + vec2(t * 0.05, t * 0.03)).rg + texture(uNoise, q.yx / 1.3 - t * 0.06).ba - 0.94;
  vec2 b = texture(uNoise, q / 23.0 + t * 0.02).gb - 0.47;
  vec3 n = normalize(vec3((a * 0.55 + b * 0.8) * (0.012 + uWaves * 0.03) * (1.0 / (1.0 + d * 0.004)), 1.0));
  float look = max(dot(-ray, n), 0.0), fresnel = 0.02 + 0.98 * pow(1.0 - look, 5.0);
  // ripples too small to draw turn the mean up
  vec3 r = reflect(ray, n); r.z = abs(r.z) + (0.1 + uWaves) * (0.35 + 1.3 * texture(uNoise, q / 9.0 + t * 0.03).b) * (1.0 - look); r = normalize(r);
  vec3 mirrored = skyAt(r, true);
  // the land that stands in the way of the mirrored ray
  float step_ = max(uGrid.z * 0.7, 1.5), go = step_; vec3 p = vPlace;
  for (int i = 0; i < 34; i++) {
    vec3 s = vPlace + r * go;
    if (s.x < 0.0 || s.y < 0.0 || s.x > uPlot.x || s.y > uPlot.y) break;
    float over = s.z - texture(uHeights, plotUv(s.xy)).r;
    if (over < 0.25) {
      vec2 nn = texture(uNormals, plotUv(s.xy)).rg; vec3 ln = vec3(nn, sqrt(max(1.0 - dot(nn, nn), 0.01)));
      vec4 c = texture(uCover, plotUv(s.xy));
      vec3 albedo = mix(vec3(0.085, 0.08, 0.04), c.rgb * c.rgb, c.a);
      float open = smoothstep(-1.6, 1.2, s.z - texture(uSunLine, plotUv(s.xy)).r);
      mirrored = mix(mirrored, hazed(albedo * (uSunLight * max(dot(ln, uSun), 0.0) * open + skyLight(ln) * 0.85), s), 0.72);
      break;
    }
    go += max(max(step_, over * 0.55), go * 0.13);
  }
  vec3 h = normalize(uSun - ray);
  float sun = sunAt(vPlace + vec3(0.0, 0.0, 0.05));
  vec3 glint = uSunLight * pow(max(dot(n, h), 0.0), mix(1400.0, 160.0, clamp(uWaves * 4.0, 0.0, 1.0))) * 6.0 * fresnel * sun;
  float thick = 1.0 - exp(-depth / max(look, 0.12) * 1.6 / uClear);
  vec3 body = uTint * (uSunLight * max(uSun.z, 0.0) * sun * 0.42 + uSkyUp * 0.5);
  float edge = smoothstep(0.0, 0.05, depth);
  float alpha = (fresnel + (1.0 - fresnel) * thick) * edge;
  vec3 colour = mirrored * fresnel + body * (1.0 - fresnel) * thick + glint;
  colour = hazed(colour / max(fresnel + (1.0 - fresnel) * thick, 1e-3), vPlace);
  outColour = vec4(colour * alpha, alpha);
}`;

export interface WaterSpec {
  level: number;
  clear: number;
  tint: THREE.Color;
  waves_m: number;
  bounds: number[] | null;
  mask: { data: Uint8Array; rows: number; columns: number } | null;
  ribbon?: Float32Array;
  width?: number;
}

/** A strip along points of east, north and level. */
function ribbon(points: Float32Array, width: number): THREE.BufferGeometry {
  const n = points.length / 3;
  const at = new Float32Array(n * 6);
  const index: number[] = [];
  for (let i = 0; i < n; i++) {
    const a = Math.max(0, i - 1) * 3;
    const b = Math.min(n - 1, i + 1) * 3;
    const dx = points[b] - points[a];
    const dy = points[b + 1] - points[a + 1];
    const l = Math.hypot(dx, dy) || 1;
    const x = (dy / l) * width * 0.5;
    const y = (-dx / l) * width * 0.5;
    at.set(
      [
        points[i * 3] + x,
        points[i * 3 + 1] + y,
        points[i * 3 + 2],
        points[i * 3] - x,
        points[i * 3 + 1] - y,
        points[i * 3 + 2],
      ],
      i * 6,
    );
    if (i) index.push(2 * i - 2, 2 * i, 2 * i - 1, 2 * i - 1, 2 * i, 2 * i + 1);
  }
  const g = new THREE.BufferGeometry();
  g.setAttribute("position", new THREE.BufferAttribute(at, 3));
  g.setIndex(index);
  return g;
}

export class Water {
  readonly group = new THREE.Group();
  constructor(private shared: Record<string, THREE.IUniform>) {}

  set(waters: WaterSpec[], centre: THREE.Vector2) {
    for (const child of [...this.group.children] as THREE.Mesh[]) {
      this.group.remove(child);
      child.geometry.dispose();
      (child.material as THREE.Material).dispose();
    }
    for (const w of waters) {
      let mask: THREE.DataTexture | null = null;
      if (w.mask) {
        const { data, rows, columns } = w.mask;
        mask = new THREE.DataTexture(data.slice(0, rows * columns), columns, rows, THREE.RedFormat);
        mask.minFilter = mask.magFilter = THREE.LinearFilter;
        mask.unpackAlignment = 1;
        mask.needsUpdate = true;
      }
      const b = w.bounds ?? [
        centre.x - 60000,
        centre.y - 60000,
        centre.x + 60000,
        centre.y + 60000,
      ];
      const material = new THREE.ShaderMaterial({
        glslVersion: THREE.GLSL3,
        vertexShader: VERTEX,
        fragmentShader: FRAGMENT,
        uniforms: {
          ...this.shared,
          uMask: { value: mask },
          uMasked: { value: mask ? 1 : 0 },
          uBounds: { value: new THREE.Vector4(...b) },
          uClear: { value: w.clear },
          uWaves: { value: w.waves_m },
          uTint: { value: new THREE.Vector3(w.tint.r, w.tint.g, w.tint.b) },
        },
        transparent: true,
        premultipliedAlpha: true,
        depthWrite: true,
        side: w.ribbon ? THREE.DoubleSide : THREE.FrontSide,
        blending: THREE.CustomBlending,
        blendSrc: THREE.OneFactor,
        blendDst: THREE.OneMinusSrcAlphaFactor,
      });
      const mesh = new THREE.Mesh(
        w.ribbon ? ribbon(w.ribbon, w.width!) : new THREE.PlaneGeometry(b[2] - b[0], b[3] - b[1]),
        material,
      );
      if (!w.ribbon) mesh.position.set((b[0] + b[2]) / 2, (b[1] + b[3]) / 2, w.level);
      mesh.frustumCulled = false;
      this.group.add(mesh);
    }
  }
}
