/**
 * Shader text shared by all that is drawn: one light, one air, one ground, so that everything
 * agrees.
 */
import { IN_AIR } from "./inAir";
import { AIR } from "./light";
import { UNDER_WATER } from "./underWater";

export const COMMON = /* glsl */ `
precision highp float;
precision highp int;
precision highp sampler2DArray;
precision highp sampler3D;
uniform vec3 uEye, uSun, uSunLight, uBounce, uDisc, uAirTakes, uShaded;
uniform vec3 uNumbers[9];
uniform vec4 uHaze; // extinction at its base (1/m), height over which it thins, base, beginning (m)
uniform sampler2D uSky;
uniform sampler2D uTone; // what haze shows by direction; alpha: what clouds let through of the sun
uniform float uShadeSide, uShadeLevel, uTime, uShafts, uGrain;
uniform sampler2D uNoise;
uniform sampler2D uHeights, uNormals, uFarHeights;
uniform sampler2D uLandLight; // height above which the sun is seen; part of the sky that is seen
uniform vec4 uGrid; // posts across, posts down, spacing, is there land
uniform vec4 uFarGrid; // posts across, west, south, spacing
uniform vec2 uPlot;
uniform sampler2D uShadow0, uShadow1;
uniform mat4 uShadowAt0, uShadowAt1;
uniform vec4 uShadowOn; // cascade 0, cascade 1, texel 0, texel 1
uniform float uSunBlur;

float post(ivec2 p) {
  return texelFetch(uHeights, clamp(p, ivec2(0), ivec2(uGrid.xy) - 1), 0).r;
}

/**
 * Height of the drawn ground: squares cut from north-west to south-east, as in the core.
 */
float groundAt(vec2 place) {
  vec2 p = vec2(place.x / uGrid.z, uGrid.y - 1.0 - place.y / uGrid.z);
  p = clamp(p, vec2(0.0), uGrid.xy - 1.0);
  ivec2 i = min(ivec2(p), ivec2(uGrid.xy) - 2);
  vec2 f = p - vec2(i);
  float nw = post(i);
  float se = post(i + 1);
  if (f.x > f.y) {
    float ne = post(i + ivec2(1, 0));
    return nw + f.x * (ne - nw) + f.y * (se - ne);
  }
  float sw = post(i + ivec2(0, 1));
  return nw + f.y * (sw - nw) + f.x * (se - sw);
}

vec2 plotUv(vec2 place) {
  return (vec2(place.x / uGrid.z, uGrid.y - 1.0 - place.y / uGrid.z) + 0.5) / uGrid.xy;
}

${AIR}

${IN_AIR}
float lit(sampler2D map, mat4 at, vec3 p, float texel) {
  vec4 q = at * vec4(p, 1.0);
  vec3 s = q.xyz * 0.5 + 0.5;
  if (any(lessThan(s.xy, vec2(0.01))) || any(greaterThan(s.xy, vec2(0.99)))
    || s.z > 1.0) return 1.0;
  float sum = 0.0;
  for (int i = 0; i < 4; i++) {
    vec2 o = (vec2(i & 1, i >> 1) - 0.5) * texel * (1.0 + uSunBlur);
    sum += step(s.z - 0.0006, texture(map, s.xy + o).r);
  }
  return sum * 0.25;
}

/**
 * Part of the sun that reaches a place: the land's own shadow, then those of things near by.
 */
float sunAt(vec3 p) {
  float open = 1.0;
  if (uGrid.w > 0.5 && p.x > -1.0 && p.y > -1.0 && p.x < uPlot.x + 1.0 && p.y < uPlot.y + 1.0) {
    float line = texture(uLandLight, plotUv(p.xy)).r;
    open = smoothstep(-1.6, 1.2, p.z - line);
  }
  if (open > 0.01 && uShadowOn.x > 0.5) open *= lit(uShadow0, uShadowAt0, p, uShadowOn.z);
  if (open > 0.01 && uShadowOn.y > 0.5) open *= lit(uShadow1, uShadowAt1, p, uShadowOn.w);
  return open * cloudShade(p);
}

${UNDER_WATER}
/** What haze shines with where something keeps the sun from it on the way: shafts of light. */
vec3 shafted(vec3 tone, vec3 ray, float d) {
  vec3 away = min(uShaded, tone);
  vec3 q = ray / max(d, 1e-3);
  float start = fract(sin(dot(q, vec3(1298.98, 7823.3, 3771.9))) * 437.585 + uGrain * 0.618);
  float sun = 0.0;
  for (int s = 0; s < 10; s++) {
    float t = (float(s) + start) / 10.0;
    sun += sunAt(uEye + ray * (min(d, 900.0) / d) * t * t);
  }
  return mix(tone, mix(away, tone, sun * 0.1), uShafts);
}

/** What haze and air let through from a place to the eye, and what they add (core/air/haze.py). */
void airTo(vec3 p, out vec3 passes, out vec3 adds) {
  vec3 ray = p - uEye;
  float d = length(ray);
  float a = (uEye.z - uHaze.z) / uHaze.y;
  float b = (p.z - uHaze.z) / uHaze.y;
  float ea = exp(-max(a, -4.0));
  float eb = exp(-max(b, -4.0));
  float thin = abs(b - a) < 1e-3 ? ea : (ea - eb) / (b - a);
  float deep = uHaze.x * max(d - uHaze.w, 0.0) * clamp(thin, 0.0, 4.0);
  passes = exp(-deep - uAirTakes * d);
  vec3 tone = hazeTone(ray / max(d, 1e-3));
#ifdef SHAFTS
  tone = shafted(tone, ray, d);
#endif
#ifdef MISTS
  passes *= exp(-mistDepth(uEye, p));
#endif
  adds = tone * (1.0 - passes);
}

/** A colour at a place, as it comes to the eye through haze and air, or water. */
vec3 hazed(vec3 colour, vec3 p) {
  vec3 passes;
  vec3 adds;
  airTo(p, passes, adds);
  vec3 seen = colour * passes + adds;
#ifdef UNDER
  if (under(normalize(p - uEye + 1e-5))) seen = inWater(colour, p);
#endif
  return seen;
}
`;

export const QUAD = /* glsl */ `
out vec2 vUv;
out vec2 vAt;
uniform vec2 uPart;
void main() {
  vAt = position.xy * 0.5 + 0.5;
  vUv = vAt * uPart;
  gl_Position = vec4(position.xy, 0.0, 1.0);
}
`;

/** Corners that darken, and grain, of one grade at most. */
export const MOST_SPREAD = 4;

/**
 * Scene light to the screen: exposed, darkened to the corners, by the core's film, read between its
 * entries, with grain (core/picture/grade/steps).
 */
export const DEVELOP = /* glsl */ `
precision highp float;
precision highp sampler3D;
in vec2 vUv;
out vec4 outColour;
uniform sampler2D uPicture;
uniform sampler3D uFilm;
uniform vec3 uExposure;
uniform float uFrames;
in vec2 vAt;
uniform vec2 uFrame; // pixels across and down
uniform vec2 uVignettes[${MOST_SPREAD}]; // stops, where it begins
uniform vec2 uGrains[${MOST_SPREAD}]; // amount, size as a part of the width
uniform ivec2 uSpread; // how many of either
uniform sampler2D uBloom; // light that was spread
uniform vec2 uBloomSet; // the part that is taken, from what brightness on
float chance(vec2 p) {
  float sum = 0.0;
  for (int i = 0; i < 4; i++)
    sum += fract(sin(dot(p, vec2(127.1 + float(i), 311.7))) * (43758.5453 + float(i) * 91.7));
  return (sum - 2.0) * 1.732; // of variance one
}
float grain(vec2 p) {
  vec2 i = floor(p);
  vec2 f = p - i;
  f = f * f * (3.0 - 2.0 * f);
  return mix(mix(chance(i), chance(i + vec2(1.0, 0.0)), f.x),
    mix(chance(i + vec2(0.0, 1.0)), chance(i + 1.0), f.x), f.y);
}
void main() {
  vec3 c = texture(uPicture, vUv).rgb / uFrames * uExposure;
  if (uBloomSet.x > 0.0)
    c += texture(uBloom, vAt).rgb - uBloomSet.x * max(c - uBloomSet.y, vec3(0.0));
  float tall = uFrame.y / uFrame.x;
  float far = length((vAt * 2.0 - 1.0) * vec2(1.0, tall)) / length(vec2(1.0, tall));
  for (int k = 0; k < uSpread.x; k++)
    c *= exp2(-uVignettes[k].x * smoothstep(uVignettes[k].y, 1.0, far));
  vec3 stops = log2(max(c, vec3(1e-7)) * ${(2.4 / 0.18).toFixed(6)});
  vec3 at = clamp((stops + 9.5) / 16.5, 0.0, 1.0);
  vec3 shown = texture(uFilm, at * (64.0 / 65.0) + 0.5 / 65.0).rgb;
  for (int k = 0; k < uSpread.y; k++) {
    float cell = max(uGrains[k].y * uFrame.x, 1.0);
    float grey = dot(shown, vec3(1.0 / 3.0));
    shown += grain(vAt * uFrame / cell) * 4.0 * grey * (1.0 - grey) * uGrains[k].x * 0.35;
  }
  outColour = vec4(clamp(shown, 0.0, 1.0), 1.0);
}
`;
