/** Mists and lamps: what stands in the air, as the core gives it. */
import * as THREE from "three";
import type { Manifest } from "../api/shapes";

export const MOST_MISTS = 4;
export const MOST_LAMPS = 8;
const SIDE = 128;
const STEPS = 14;

/** Optical depth of mist on the way to a place, and the light of lamps on it. */
export const IN_AIR = /* glsl */ `
uniform sampler2DArray uMistMaps; // cover 0..1 and height of the top in m
uniform vec4 uMistBounds[${MOST_MISTS}]; // west, south, east, north
uniform vec3 uMistMore[${MOST_MISTS}]; // base, softness (m), extinction (1/m)
uniform int uMistCount;
uniform vec4 uLampPlace[${MOST_LAMPS}]; // place, radius
uniform vec4 uLampAim[${MOST_LAMPS}]; // aim, where its cone begins to fall (cosine)
uniform vec4 uLampLight[${MOST_LAMPS}]; // intensity over pi, where its cone ends (cosine)
uniform float uLampShades[${MOST_LAMPS}];
uniform int uLampCount;

float mistDepth(vec3 from, vec3 to) {
  float total = 0.0;
  vec3 way = to - from;
  float whole = length(way);
  for (int m = 0; m < uMistCount; m++) {
    vec4 b = uMistBounds[m];
    vec2 safe = mix(way.xy, vec2(1e-6), lessThan(abs(way.xy), vec2(1e-6)));
    vec2 t0 = (b.xy - from.xy) / safe;
    vec2 t1 = (b.zw - from.xy) / safe;
    vec2 low = min(t0, t1);
    vec2 high = max(t0, t1);
    float enter = max(0.0, max(low.x, low.y));
    float leave = min(1.0, min(high.x, high.y));
    vec3 more = uMistMore[m];
    float part = (leave - enter) / ${STEPS.toFixed(1)};
    for (int s = 0; s < ${STEPS} && leave > enter; s++) {
      vec3 p = from + way * (enter + (float(s) + 0.5) * part);
      vec2 uv = vec2(p.x - b.x, b.w - p.y) / (b.zw - b.xy);
      uv = (uv * ${(SIDE - 1).toFixed(1)} + 0.5) / ${SIDE.toFixed(1)};
      vec2 map = textureLod(uMistMaps, vec3(uv, float(m)), 0.0).rg;
      float above = clamp((map.g - p.z) / more.y, 0.0, 1.0);
      float below = clamp((p.z - more.x) / more.y + 0.5, 0.0, 1.0);
      total += map.r * above * above * (3.0 - 2.0 * above) * below * more.z * part * whole;
    }
  }
  return total;
}

/** Light of the lamps on a surface; the land hides them where they cast shadows. */
vec3 lampsBut(vec3 p, vec3 n, int spared) {
  vec3 sum = vec3(0.0);
  for (int i = 0; i < uLampCount; i++) {
    if ((spared >> i & 1) == 1) continue;
    vec3 way = uLampPlace[i].xyz - p;
    float r = uLampPlace[i].w;
    float d2 = dot(way, way) + r * r;
    float d = sqrt(d2);
    vec3 to = way / d;
    float turn = dot(-to, uLampAim[i].xyz);
    float cone = smoothstep(uLampLight[i].w, uLampAim[i].w, turn);
    vec3 arrives = uLampLight[i].rgb * (cone * max(dot(n, to), 0.0) / d2);
    float open = 1.0;
    if (max(arrives.r, arrives.g) > 1e-4 && uLampShades[i] > 0.5 && uGrid.w > 0.5)
      for (int s = 1; s < 12; s++) {
        vec3 q = p + n * 0.05 + way * (float(s) / 12.0);
        open = min(open, clamp(0.5 + (q.z - groundAt(q.xy)) / (0.1 + r), 0.0, 1.0));
      }
    sum += arrives * open;
  }
  return sum;
}

vec3 lampsAt(vec3 p, vec3 n) {
  return lampsBut(p, n, 0);
}
`;

export function inAirUniforms() {
  const many = <T>(count: number, one: () => T) => ({ value: Array.from({ length: count }, one) });
  return {
    uMistMaps: { value: mistMaps([]) },
    uMistBounds: many(MOST_MISTS, () => new THREE.Vector4(0, 0, 1, 1)),
    uMistMore: many(MOST_MISTS, () => new THREE.Vector3(0, 1, 0)),
    uMistCount: { value: 0 },
    uLampPlace: many(MOST_LAMPS, () => new THREE.Vector4()),
    uLampAim: many(MOST_LAMPS, () => new THREE.Vector4()),
    uLampLight: many(MOST_LAMPS, () => new THREE.Vector4()),
    uLampShades: { value: new Float32Array(MOST_LAMPS) },
    uLampCount: { value: 0 },
  };
}

function mistMaps(maps: Float32Array[]): THREE.DataArrayTexture {
  const layers = Math.max(1, maps.length);
  const all = new Float32Array(layers * SIDE * SIDE * 2);
  maps.forEach((map, i) => all.set(map, i * SIDE * SIDE * 2));
  const t = new THREE.DataArrayTexture(all, SIDE, SIDE, layers);
  t.format = THREE.RGFormat;
  t.type = THREE.FloatType;
  t.minFilter = t.magFilter = THREE.LinearFilter;
  t.needsUpdate = true;
  return t;
}

type InAirUniforms = ReturnType<typeof inAirUniforms>;

/** New mists; those beyond the most are left out of the view. */
export function setMists(u: InAirUniforms, mists: Manifest["mists"], maps: Float32Array[]) {
  const shown = mists.slice(0, MOST_MISTS);
  u.uMistMaps.value.dispose();
  u.uMistMaps.value = mistMaps(maps.slice(0, MOST_MISTS));
  shown.forEach((m, i) => {
    u.uMistBounds.value[i].fromArray(m.bounds);
    u.uMistMore.value[i].set(m.base_m, m.soft_m, m.k);
  });
  u.uMistCount.value = shown.length;
}

function strongest(lamps: Manifest["lamps"]): Manifest["lamps"] {
  const strength = (l: Manifest["lamps"][number]) => Math.max(...l.kcd);
  return [...lamps].sort((a, b) => strength(b) - strength(a)).slice(0, MOST_LAMPS);
}

/** Which of the lamps that are shown leave a sowing or a piece dark, one bit for each. */
export function sparedBy(lamps: Manifest["lamps"], id: string): number {
  return strongest(lamps).reduce((bits, l, i) => bits | (l.spares?.includes(id) ? 1 << i : 0), 0);
}

/** The strongest lamps in a light whose unit is so many kcd/m2. */
export function setLamps(u: InAirUniforms, lamps: Manifest["lamps"], unit_kcd: number) {
  const shown = strongest(lamps);
  shown.forEach((l, i) => {
    const [x, y, z] = l.place;
    const [ax, ay, az] = l.aim;
    const k = 1 / (unit_kcd * Math.PI); // kcd at a metre are klux, as those of the sun
    const [r, g, b] = l.kcd.map((v) => v * k);
    u.uLampPlace.value[i].set(x, y, z, l.radius_m);
    u.uLampAim.value[i].set(ax, ay, az, l.inner);
    u.uLampLight.value[i].set(r, g, b, l.outer);
    u.uLampShades.value[i] = l.shadow ? 1 : 0;
  });
  u.uLampCount.value = shown.length;
}
