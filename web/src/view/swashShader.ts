/** Waves in sets, and the film that they leave on the shore (core/water: surf.py, swash.py). */
import * as THREE from "three";
import { RUN_UP, RUN_UP_LEAST_M, SWASH_DRAINS_S, SWASH_RISES } from "../api/numbers";
import type { Uniforms } from "./uniforms";
import type { WaterSpec } from "./waterSpec";

/** How far a crest is ahead along the shore, and how high each wave of a row is. */
export const SETS = /* glsl */ `
float sets(float number, float back) { return back > 0.5 ? mod(number, back) : number; }
float high(float number) { return 0.65 + 0.35 * sin(number * 0.9 + 1.7 * sin(number * 0.37)); }

float uneven(vec2 p, float l) {
  float a = sin(p.x / (l * 1.9) + 2.0 * sin(p.y / (l * 4.3)));
  float b = sin(p.y / (l * 1.7) + 2.0 * sin(p.x / (l * 3.1)) + 1.3);
  return 0.55 * (a + b);
}
`;

const RISES = (2 * Math.PI * SWASH_RISES).toFixed(7); // of a turn

export const SWASH = /* glsl */ `${SETS}
uniform vec4 uSwash; // omega, length, how high waves run up, level; no length where there is none
uniform float uSwashBack; // waves until the first comes again

/** How wet a place on the shore shines, 0..1. */
float filmAt(vec3 p) {
  float over = p.z - uSwash.w;
  if (uSwash.y <= 0.0 || over > uSwash.z || over < -2.0) return 0.0;
  float phase = uSwash.x * uTime + uneven(p.xy, uSwash.y) - ${RISES};
  float number = floor(phase / 6.2831853);
  float since = (phase - 6.2831853 * number) / uSwash.x;
  float aside = uneven(p.xy, 3.7 * uSwash.y);
  float film = 0.0;
  for (int k = 0; k < 3; k++) {
    float reach = uSwash.z * high(sets(number - float(k), uSwashBack) + aside);
    float wet = exp(-(since + float(k) * 6.2831853 / uSwash.x) / ${SWASH_DRAINS_S.toFixed(3)});
    film = max(film, step(over, reach) * wet);
  }
  return film;
}
`;

export function swashUniforms() {
  return {
    uSwash: { value: new THREE.Vector4() },
    uSwashBack: { value: 0 },
  };
}

/** The film is that of the water whose waves run highest up its shore. */
export function setSwash(u: Uniforms, waters: WaterSpec[]) {
  const shores = waters.filter((w) => !w.stream && w.surf > 0 && w.sea.high_m > 0.04);
  const [w] = shores.sort((a, b) => b.sea.high_m - a.sea.high_m);
  if (!w) {
    u.uSwash.value.set(1, 0, 0, 0);
    return;
  }
  const up = RUN_UP_LEAST_M + RUN_UP * w.sea.high_m * w.surf;
  u.uSwash.value.set((2 * Math.PI) / w.sea.period_s, w.sea.long_m, up, w.level);
  u.uSwashBack.value = w.sea.comes_back;
}
