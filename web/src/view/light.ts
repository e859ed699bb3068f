/** Sun, sky and haze: the document's light turned into what the shaders need. */
import * as THREE from "three";
import type { Light } from "../api/shapes";
import { noiseTexture } from "./noiseTexture";

/**
 * Single scattering with a term for the rest, over air mass (Kasten & Young 1989); clouds on a
 * plane.
 */
export const AIR = /* glsl */ `
const vec3 RAYLEIGH = vec3(0.046, 0.105, 0.245);
float airMass(float up) {
  float h = degrees(asin(clamp(up, 0.0, 1.0)));
  return 1.0 / (max(up, 0.0) + 0.15 * pow(h + 3.885, -1.253));
}
vec3 clearSky(vec3 d) {
  float up = max(d.z, 0.012);
  float c = dot(d, uSun);
  float m = airMass(up);
  float ms = airMass(max(uSun.z, 0.0));
  float mie = 0.035 + uHazeK * 60.0;
  vec3 total = RAYLEIGH + mie;
  float g = 0.76;
  float pr = 0.75 * (1.0 + c * c);
  float pm = 1.5 * (1.0 - g * g) / (2.0 + g * g) * (1.0 + c * c) / pow(1.0 + g * g - 2.0 * g * c,
    1.5);
  vec3 through = exp(-(RAYLEIGH * 0.9 + mie * 0.5) * min(ms, 12.0) * 0.75);
  vec3 once = (RAYLEIGH * pr + mie * pm * 0.55) / total * (1.0 - exp(-total * m));
  vec3 rest = RAYLEIGH * vec3(0.9, 1.0, 1.06) * (1.0 - exp(-total * m * 0.7)) * 1.3;
  float day = smoothstep(-0.12, 0.12, uSun.z);
  return (once * through * 0.62 + rest * (0.4 + 0.6 * through)) * 2.1 * day
    + vec3(0.004, 0.006, 0.012);
}
float cloudField(vec2 p) {
  float n = 0.0;
  float a = 0.5;
  for (int i = 0; i < 5; i++) {
    n += a * texture(uNoise, p).r;
    p = p * 2.03 + vec2(0.137, 0.291);
    a *= 0.5;
  }
  return n / 0.96875;
}
vec4 clouds(vec3 d) {
  if (uClouds < 0.005 || d.z < 0.008) return vec4(0.0);
  vec2 p = d.xy / (d.z + 0.06) * 0.085 + uCloudShift;
  float edge = mix(0.74, 0.24, uClouds);
  float n = cloudField(p);
  float cover = smoothstep(edge, edge + 0.2, n);
  float toSun = cloudField(p + uSun.xy / max(length(uSun.xy), 0.01) * 0.012);
  float bright = clamp(0.62 + (n - toSun) * 3.2 - 0.35 * smoothstep(edge + 0.1, edge + 0.5, n),
    0.12, 1.15);
  float c = max(dot(d, uSun), 0.0);
  vec3 pale = mix(uSunLight, vec3(dot(uSunLight, vec3(0.33))), 0.6);
  vec3 tone = pale * (0.27 * bright + 0.25 * pow(c, 12.0) * (1.0 - cover))
    + uSkyUp * (0.28 + 0.3 * bright);
  return vec4(tone, cover * smoothstep(0.008, 0.14, d.z) * 0.94);
}
vec3 hazeTone(vec3 d) {
  float c = max(dot(normalize(vec3(d.xy, 0.0) + 1e-5), normalize(vec3(uSun.xy, 0.0) + 1e-5)),
    0.0);
  return uHazeColour + uSunLight * 0.075 * pow(c, 5.0) * smoothstep(0.6, 0.0, uSun.z);
}
vec3 skyAt(vec3 d, bool withClouds) {
  vec3 up = vec3(d.xy, max(d.z, 0.0));
  up /= max(length(up), 1e-4);
  vec3 c = clearSky(up);
  if (withClouds) {
    vec4 k = clouds(up);
    c = mix(c, k.rgb, k.a);
  }
  float low = exp(-max(d.z, 0.0) * mix(26.0, 5.0, clamp(uHazeK * 900.0, 0.0, 1.0)));
  return mix(c, hazeTone(up), low * clamp(0.35 + uHazeK * 700.0, 0.0, 1.0));
}
`;

const RAYLEIGH = [0.046, 0.105, 0.245];

const airMass = (up: number) =>
  1 /
  (Math.max(up, 0) +
    0.15 * Math.pow((Math.asin(Math.min(1, Math.max(0, up))) * 180) / Math.PI + 3.885, -1.253));

export function linear(hex: string): THREE.Color {
  return new THREE.Color(hex); // three keeps colours linear
}

/** Uniforms shared by every material; one object, changed in place. */
export function airUniforms() {
  const v = () => ({ value: new THREE.Vector3() });
  return {
    uEye: v(),
    uSun: v(),
    uSunLight: v(),
    uSkyUp: v(),
    uSkySide: v(),
    uGroundLight: v(),
    uHazeColour: v(),
    uHazeK: { value: 0 },
    uHazeTop: { value: 400 },
    uHazeBase: { value: 0 },
    uClouds: { value: 0.3 },
    uCloudShift: { value: 0 },
    uTime: { value: 0 },
    uSunBlur: { value: 0 },
    uNoise: { value: noiseTexture() },
  };
}

export type Air = ReturnType<typeof airUniforms>;

export function setAir(u: Air, light: Light, lowest: number) {
  const b = (light.sun_bearing * Math.PI) / 180;
  const h = (light.sun_height * Math.PI) / 180;
  const sun = u.uSun.value.set(Math.sin(b) * Math.cos(h), Math.cos(b) * Math.cos(h), Math.sin(h));
  const k = 3.912 / light.haze_m;
  const mass = Math.min(airMass(sun.z), 14);
  const day = THREE.MathUtils.smoothstep(sun.z, -0.05, 0.03);
  const shade = 1 - (0.55 * Math.max(0, light.clouds / 100 - 0.45)) / 0.55;
  const sunlight = RAYLEIGH.map(
    (r) =>
      3.1 *
      Math.exp(-(r * 0.85 + 0.05 + Math.min(k * 25, 0.12)) * mass) *
      day *
      shade *
      (light.sun_strength / 100),
  );
  u.uSunLight.value.fromArray(sunlight);
  const sky = light.sky_strength / 100;
  const dim = 0.12 + 0.88 * THREE.MathUtils.smoothstep(sun.z, -0.1, 0.5);
  const grey = light.clouds / 100;
  const up = [0.3, 0.42, 0.66].map((c) => (c * (1 - grey) + 0.52 * grey) * dim * sky * 0.95);
  u.uSkyUp.value.fromArray(up);
  u.uSkySide.value.fromArray(up.map((c, i) => c * 0.62 + sunlight[i] * 0.045));
  u.uGroundLight.value.fromArray(
    up.map((c, i) => [0.1, 0.095, 0.06][i] * (sunlight[i] * 0.7 * Math.max(sun.z, 0) + c)),
  );
  const tint = linear(light.haze_tint);
  const lum = 0.15 + 0.85 * dim;
  u.uHazeColour.value
    .set(tint.r, tint.g, tint.b)
    .multiplyScalar(lum * (0.55 + 0.25 * sky))
    .add(new THREE.Vector3().fromArray(sunlight).multiplyScalar(0.05));
  u.uHazeK.value = k;
  u.uHazeTop.value = light.haze_top_m;
  u.uHazeBase.value = lowest;
  u.uClouds.value = light.clouds / 100;
  u.uCloudShift.value = (light.cloud_seed * 0.37) % 1;
}
