/** Seen from under the surface of a water: shader text that all that is drawn shares. */
import * as THREE from "three";
import { WATER_INDEX } from "../api/numbers";
import type { Uniforms } from "./uniforms";
import type { WaterSpec } from "./waterSpec";

/** As far ahead of the eye the picture is cut by the surface, when it stands half in it, m. */
const LENS_M = 0.3;
const REACH_M = 0.12; // so near over the surface the picture may be half in it
const OWN = 2.2; // of its own colour: level looks meet five times the light that comes straight up

const SQUARED = (WATER_INDEX * WATER_INDEX).toFixed(6);

export const UNDER_WATER = /* glsl */ `
uniform vec4 uUnder; // level, is the eye in water, height of its waves, length
uniform vec3 uUnderTakes; // what a metre of water takes of the light
uniform vec3 uUnderOwn; // its own colour

/** Whether a look begins under water: the surface cuts the picture a little ahead of the eye. */
bool under(vec3 ray) {
  vec2 p = uEye.xy + ray.xy * ${LENS_M.toFixed(1)};
  float wave = sin(p.x * 9.0 + uTime * 2.1) + sin(p.y * 11.0 - p.x * 4.0 + uTime * 1.7);
  return uUnder.y > 0.5 && uEye.z + ray.z * ${LENS_M.toFixed(1)} < uUnder.x + 0.008 * wave;
}

/** What lights the water at a height, from above. */
vec3 litUnder(float z) {
  vec3 lit = uSunLight * max(uSun.z, 0.0) + skyLight(vec3(0.0, 0.0, 1.0));
  return lit * exp(-0.5 * uUnderTakes * max(uUnder.x - z, 0.0));
}

/** The water's own light along a look, with shafts of the sun in it. */
vec3 ownUnder(vec3 ray) {
  vec3 down = normalize(vec3(uSun.xy / ${WATER_INDEX}, sqrt(1.0 - dot(uSun.xy, uSun.xy) / ${SQUARED})));
  vec3 side = normalize(cross(down, vec3(0.3, 1.0, 0.1)));
  float around = atan(dot(ray, side), dot(ray, cross(down, side)));
  float n = texture(uNoise, vec2(around * 0.9, 0.03 * uTime)).r
    + texture(uNoise, vec2(around * 2.3 + 0.5, 0.05 * uTime)).g - 0.94;
  float toward = max(dot(ray, down), 0.0);
  float bright = 0.7 + 0.9 * max(ray.z, 0.0) + toward * toward * (0.5 + 2.2 * n);
  return uUnderOwn * ${OWN} * litUnder(uEye.z - 1.0) * max(bright, 0.2);
}

/** Light that waves gather on what lies under them. */
float gathered(vec3 p) {
  float deep = uUnder.x - p.z;
  vec2 q = p.xy + uSun.xy / ${WATER_INDEX} * deep;
  float size = 0.5 + 0.12 * sqrt(uUnder.w);
  vec2 bend = 0.35 * size * (texture(uNoise, q / (size * 9.0) + 0.02 * uTime).rg - 0.47);
  float one = texture(uNoise, (q + bend) / (size * 5.0) + 0.013 * uTime).r;
  float two = texture(uNoise, (q.yx - bend) / (size * 4.0) - 0.017 * uTime).g;
  float a = 1.0 - abs(2.0 * one - 0.94) * 2.0;
  float b = 1.0 - abs(2.0 * two - 0.94) * 2.0;
  float lines = pow(clamp(min(a, b) + 0.3, 0.0, 1.0), 4.0);
  return mix(0.8, 2.2, lines) * exp(-deep * 0.08) + 1.0 - exp(-deep * 0.08);
}

/** Water between the eye and a place. */
vec3 inWater(vec3 colour, vec3 p) {
  vec3 way = p - uEye;
  float d = length(way);
  vec3 ray = way / max(d, 1e-4);
  if (p.z > uUnder.x) d *= clamp((uUnder.x - uEye.z) / max(p.z - uEye.z, 1e-4), 0.0, 1.0);
  else colour *= gathered(p) * exp(-0.5 * uUnderTakes * (uUnder.x - p.z));
  vec3 passes = exp(-uUnderTakes * d);
  return colour * passes + ownUnder(ray) * (1.0 - passes);
}
`;

export function underUniforms(): Uniforms {
  return {
    uUnder: { value: new THREE.Vector4(0, 0, 0, 1) },
    uUnderTakes: { value: new THREE.Vector3() },
    uUnderOwn: { value: new THREE.Vector3() },
  };
}

/** Tells the shaders in which of the waters an eye is; gives whether it is in any. */
export function goUnder(
  shared: Uniforms,
  waters: WaterSpec[],
  eye: THREE.Vector3,
  spacing: number,
): boolean {
  const in_ = waters.find((w) => holds(w, eye, spacing));
  const u = shared.uUnder.value as THREE.Vector4;
  u.set(in_?.level ?? 0, in_ ? 1 : 0, in_?.sea.high_m ?? 0, in_?.sea.long_m ?? 1);
  if (!in_) return false;
  const takes = (c: number) => (-Math.log(Math.min(Math.max(c, 1e-4), 0.999)) * 0.6) / in_.clear;
  const { r, g, b } = in_.through;
  (shared.uUnderTakes.value as THREE.Vector3).set(takes(r), takes(g), takes(b));
  (shared.uUnderOwn.value as THREE.Vector3).set(in_.tint.r, in_.tint.g, in_.tint.b);
  return true;
}

function holds(w: WaterSpec, eye: THREE.Vector3, spacing: number): boolean {
  if (w.stream || eye.z > w.level + REACH_M) return false;
  if (!w.field) return !w.pool;
  const { nx, ny, data } = w.field;
  const column = Math.round(eye.x / spacing);
  const row = Math.round(ny - 1 - eye.y / spacing);
  if (column < 0 || row < 0 || column >= nx || row >= ny) return !w.pool;
  return data[(row * nx + column) * 4 + 1] !== 0;
}
