/**
 * Shader text shared by all that is drawn: one light, one air, one ground, so that everything
 * agrees.
 */
import { AIR } from "./light";

export const COMMON = /* glsl */ `
precision highp float;
precision highp int;
precision highp sampler2DArray;
uniform vec3 uEye, uSun, uSunLight, uSkyUp, uSkySide, uGroundLight, uHazeColour;
uniform float uHazeK, uHazeTop, uHazeBase, uClouds, uCloudShift, uTime;
uniform sampler2D uNoise;
uniform sampler2D uHeights, uNormals, uSunLine, uFarHeights;
uniform vec4 uGrid; // posts across, posts down, spacing, is there land
uniform vec4 uFarGrid; // posts across, west, south, spacing
uniform vec2 uPlot;
uniform sampler2D uShadow0, uShadow1;
uniform mat4 uShadowAt0, uShadowAt1;
uniform vec4 uShadowOn; // cascade 0, cascade 1, texel 0, texel 1
uniform float uSunBlur;

${AIR}

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
    float line = texture(uSunLine, plotUv(p.xy)).r;
    open = smoothstep(-1.6, 1.2, p.z - line);
  }
  if (open > 0.01 && uShadowOn.x > 0.5) open *= lit(uShadow0, uShadowAt0, p, uShadowOn.z);
  if (open > 0.01 && uShadowOn.y > 0.5) open *= lit(uShadow1, uShadowAt1, p, uShadowOn.w);
  return open;
}

vec3 skyLight(vec3 n) {
  return n.z > 0.0 ? mix(uSkySide, uSkyUp, n.z) : mix(uSkySide, uGroundLight, -n.z);
}

/** Haze between the eye and a place (Koschmieder 1924, thinning with height). */
vec3 hazed(vec3 colour, vec3 p) {
  vec3 ray = p - uEye;
  float d = length(ray);
  float a = (uEye.z - uHazeBase) / uHazeTop;
  float b = (p.z - uHazeBase) / uHazeTop;
  float thin = abs(b - a) < 1e-3 ? exp(-a) : (exp(-a) - exp(-b)) / (b - a);
  float share = 1.0 - exp(-uHazeK * d * clamp(thin, 0.0, 4.0));
  vec3 tone = hazeTone(ray / max(d, 1e-3));
  return mix(colour, tone, share);
}
`;

export const QUAD = /* glsl */ `
out vec2 vUv;
uniform vec2 uPart;
void main() {
  vUv = (position.xy * 0.5 + 0.5) * uPart;
  gl_Position = vec4(position.xy, 0.0, 1.0);
}
`;

/** Scene light to the screen: exposure, a filmic curve with a soft shoulder, sRGB. */
export const DEVELOP = /* glsl */ `
precision highp float;
in vec2 vUv;
out vec4 outColour;
uniform sampler2D uPicture;
uniform float uExposure, uFrames;
vec3 film(vec3 x) { // after J. Hable, 2010
  x *= 1.9;
  return ((x * (0.22 * x + 0.03) + 0.002) / (x * (0.22 * x + 0.3) + 0.06)) - 0.0333;
}
void main() {
  vec3 c = texture(uPicture, vUv).rgb / uFrames * uExposure;
  vec3 m = film(c) / film(vec3(9.0));
  float grey = dot(m, vec3(0.2126, 0.7152, 0.0722));
  m = clamp(mix(vec3(grey), m, 1.12), 0.0, 1.0);
  outColour = vec4(mix(m * 12.92, 1.055 * pow(m, vec3(1.0 / 2.4)) - 0.055, step(0.0031308, m)),
    1.0);
}
`;
