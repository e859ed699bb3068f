/** The core's light, as the shaders ask for it. */
import * as THREE from "three";
import type { LightLine } from "../api/shapes";
import { inAirUniforms } from "./inAir";
import { noiseTexture } from "./noiseTexture";

/** One law of sky, haze, shade and ambient light for everything that is drawn. */
export const AIR = /* glsl */ `
vec2 aside(vec3 d) {
  float turn = atan(d.x, d.y) * ${(0.5 / Math.PI).toFixed(9)};
  return vec2(turn - floor(turn), acos(clamp(d.z, -1.0, 1.0)) * ${(1 / Math.PI).toFixed(9)});
}
vec3 skyAt(vec3 d) {
  return textureLod(uSky, aside(d), 0.0).rgb;
}
/** The same without the squares of its entries: a cubic of four looks (Sigg & Hadwiger 2005). */
vec3 skySmooth(vec3 d) {
  vec2 size = vec2(textureSize(uSky, 0));
  vec2 p = aside(d) * size - 0.5;
  vec2 f = fract(p);
  vec2 f2 = f * f;
  vec2 f3 = f2 * f;
  vec2 w0 = (1.0 - 3.0 * f + 3.0 * f2 - f3) / 6.0;
  vec2 w1 = (4.0 - 6.0 * f2 + 3.0 * f3) / 6.0;
  vec2 w3 = f3 / 6.0;
  vec2 low = w0 + w1;
  vec2 a = (floor(p) - 0.5 + w1 / low) / size;
  vec2 b = (floor(p) + 1.5 + w3 / (1.0 - low)) / size;
  return mix(
    mix(textureLod(uSky, b, 0.0).rgb, textureLod(uSky, vec2(a.x, b.y), 0.0).rgb, low.x),
    mix(textureLod(uSky, vec2(b.x, a.y), 0.0).rgb, textureLod(uSky, a, 0.0).rgb, low.x),
    low.y);
}
vec3 hazeTone(vec3 d) {
  // an octahedron unfolded: cheap to find a direction's place on (Engelhardt & Dachsbacher 2008)
  vec2 p = d.xy / (abs(d.x) + abs(d.y) + abs(d.z));
  if (d.z < 0.0) p = (1.0 - abs(p.yx)) * vec2(p.x < 0.0 ? -1.0 : 1.0, p.y < 0.0 ? -1.0 : 1.0);
  return textureLod(uTone, p * 0.496 + 0.5, 0.0).rgb;
}
/** The sun's disc, darker towards its rim (Neckel & Labs 1994, one term). */
vec3 sunDisc(vec3 d) {
  float s = dot(d, uSun);
  float inside = smoothstep(uDisc.x, uDisc.y, s);
  return uSunLight * (inside * uDisc.z);
}
/** Light from all sides on a surface, over pi (Ramamoorthi & Hanrahan 2001). */
vec3 skyLight(vec3 n) {
  vec3 e = uNumbers[0] * 0.282095
    + 0.488603 * (uNumbers[1] * n.y + uNumbers[2] * n.z + uNumbers[3] * n.x)
    + 1.092548 * (uNumbers[4] * n.x * n.y + uNumbers[5] * n.y * n.z + uNumbers[7] * n.x * n.z)
    + uNumbers[6] * 0.315392 * (3.0 * n.z * n.z - 1.0)
    + uNumbers[8] * 0.546274 * (n.x * n.x - n.y * n.y);
  return max(e, vec3(0.0));
}
/** Part of the sun that clouds let through at a place. */
float cloudShade(vec3 p) {
  if (uSun.z < 0.02) return 1.0;
  vec2 q = p.xy - uPlot * 0.5 - uSun.xy / uSun.z * (p.z - uShadeLevel);
  vec2 uv = 0.5 + vec2(q.x, -q.y) * (0.5 / uShadeSide);
  return textureLod(uTone, clamp(uv, 0.005, 0.995), 0.0).a;
}
/** Light in the shade: what is hidden of the sky is ground, lit as it is on the whole. */
vec3 ambientAt(vec3 p, vec3 n) {
  float open = 1.0;
  if (uGrid.w > 0.5 && p.x > 0.0 && p.y > 0.0 && p.x < uPlot.x && p.y < uPlot.y)
    open = texture(uLandLight, plotUv(p.xy)).g;
  return skyLight(n) * open + uBounce * (1.0 - open);
}
`;

/** An sRGB colour in linear light. */
export function linear(hex: string): THREE.Color {
  return new THREE.Color(hex); // three keeps colours linear
}

/** Uniforms shared by every material; one object, changed in place. */
export function airUniforms() {
  const v = () => ({ value: new THREE.Vector3() });
  const grey = halfTexture(new Uint16Array([0, 0, 0, 0x3c00]), 1, 1);
  return {
    uEye: v(),
    uSun: { value: new THREE.Vector3(0, 0, 1) },
    uSunLight: v(),
    uBounce: v(),
    uDisc: v(),
    uNumbers: { value: Array.from({ length: 9 }, () => new THREE.Vector3()) },
    uHaze: { value: new THREE.Vector4(0, 400, 0, 0) },
    uAirTakes: v(),
    uShaded: v(),
    uSky: { value: grey as THREE.DataTexture },
    uTone: { value: grey as THREE.DataTexture },
    uShadeSide: { value: 1 },
    uShadeLevel: { value: 0 }, // height on which the shade of clouds is told, m
    uTime: { value: 0 },
    uShafts: { value: 0 },
    ...inAirUniforms(),
    uSunBlur: { value: 0 },
    uNoise: { value: noiseTexture() },
  };
}

export type Air = ReturnType<typeof airUniforms>;

function halfTexture(data: Uint16Array, width: number, height: number): THREE.DataTexture {
  const t = new THREE.DataTexture(
    data as Uint16Array<ArrayBuffer>,
    width,
    height,
    THREE.RGBAFormat,
    THREE.HalfFloatType,
  );
  t.minFilter = t.magFilter = THREE.LinearFilter;
  t.wrapS = THREE.RepeatWrapping;
  t.needsUpdate = true;
  return t;
}

/** The pictures of a light, as they come from the core. */
export interface LightPictures {
  sky: ArrayBuffer;
  tone: ArrayBuffer;
}

const TONE_SIDE = 128;

/** A light over ground of this mean colour. */
export function setAir(u: Air, line: LightLine, pictures: LightPictures, ground: number[]) {
  const sun = u.uSun.value.fromArray(line.sun);
  u.uSunLight.value.fromArray(line.sunlight).divideScalar(Math.PI);
  line.numbers.forEach((c, i) => u.uNumbers.value[i].fromArray(c).divideScalar(Math.PI));
  const { k, top_m, base_m, from_m, air } = line.haze;
  u.uHaze.value.set(k, top_m, base_m, from_m);
  u.uAirTakes.value.fromArray(air);
  u.uShaded.value.fromArray(line.shaded);
  const half = (line.sun_size * Math.PI) / 360;
  const disc = 1 / (1 - Math.cos(half)) / 2; // of a beam of one, spread over the disc
  u.uDisc.value.set(Math.cos(half * 1.15), Math.cos(half * 0.85), Math.min(disc, 6000));
  u.uSunBlur.value = Math.min(6, Math.max(0, line.sun_size / 0.53 - 1));
  const flat = ground.map((g, i) => {
    const numbers = line.numbers;
    const sky = numbers[0][i] * 0.282095 + numbers[2][i] * 0.488603 + numbers[6][i] * 0.630784;
    return (g * (sky + line.sunlight[i] * Math.max(sun.z, 0))) / Math.PI;
  });
  u.uBounce.value.fromArray(flat);
  for (const t of [u.uSky, u.uTone]) t.value.dispose();
  u.uSky.value = halfTexture(new Uint16Array(pictures.sky), 2 * line.rows, line.rows);
  u.uTone.value = halfTexture(new Uint16Array(pictures.tone), TONE_SIDE, TONE_SIDE);
  u.uShadeSide.value = line.shade_m;
  u.uShafts.value = line.shafts;
}
