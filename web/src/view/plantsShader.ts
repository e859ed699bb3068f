import { COMMON } from "./glsl";

/**
 * A card from afar is lit at its corners. A renderer without a card shades what is cut out of a
 * picture as well, and most of it is.
 */
const CORNERS = "#if defined(CARD) && !defined(FINISH) && !defined(UNDER) && !defined(PLAIN)";

/** What light there is on a part of a plant or a stone, and how wet it is. */
const ON = /* glsl */ `
uniform sampler2D uShore;
uniform int uSpared;
#ifdef STONE
const vec3 FOOT = vec3(0.5, 0.62, 0.25); // how dark when wet, shade at the foot, and up to where
#else
const vec3 FOOT = vec3(0.3, 0.4, 0.55);
#endif
/** What water near by keeps wet is darker: stones, trunks, the foot of reeds. */
float dryAt(vec3 p) {
  float wet = 1.0 - smoothstep(0.0, 0.14, p.z - texture(uShore, plotUv(p.xy)).r
    + 0.1 * (texture(uNoise, p.xy * 0.8).r - 0.47));
  return 1.0 - FOOT.x * wet;
}
vec3 lightOn(vec3 p, vec3 n, vec3 eye, float leaf, float high, float joined, out float sun) {
  // even faces must not shade themselves by the steps of a coarse map of shadows
  float clear = 0.03 + 0.008 * (1.0 - leaf) * distance(uEye, p);
  sun = sunAt(p + n * clear);
  float d = dot(n, uSun);
  float wrap = mix(max(d, 0.0), clamp(d * 0.72 + 0.28, 0.0, 1.0), leaf);
  float through = leaf * (pow(clamp(dot(-eye, uSun), 0.0, 1.0), 5.0) * 0.5 + 0.1 * max(-d, 0.0));
  float foot = mix(FOOT.y, 1.0, smoothstep(0.0, FOOT.z, high));
  vec3 lamps = vec3(0.0);
#ifdef LAMPS
  lamps = lampsBut(p, n, uSpared);
#endif
  return (uSunLight * ((wrap + through) * sun + 0.075 * leaf * max(uSun.z, 0.0))
    + ambientAt(p, n) * foot + lamps) * mix(mix(foot, 1.0, 0.45), 1.0, joined);
}
/** The side of a leaf that is seen. */
vec3 turnedTo(vec3 n, vec3 eye, float leaf) {
  return leaf > 0.0 && dot(n, eye) < -0.25 ? n * vec3(-1.0, -1.0, 1.0) : n;
}
vec3 tinted(float tint) {
  float t = tint - 0.5;
  return vec3(1.0 + t * 0.45, 1.0 + t * 0.18, 1.0 - t * 0.28) * (1.0 + t * 0.5);
}
`;

/** One instance: how it stands is found once for it, since a renderer without a card is asked for
 * every corner of it. */
export const VERTEX = /* glsl */ `${COMMON}
${CORNERS}
${ON}
out vec3 vLight, vPasses, vAdds;
#endif
in vec4 spot; // east, north, height of its foot, size; mirrored below zero
in vec4 stance; // a quaternion
in vec4 form; // width, depth and height beside the size; tint with the cm that blend into the land
in vec3 tone;
in float leaf;
#ifdef FINISH
in vec3 finish;
out vec3 vFinish;
#endif
out vec3 vPlace, vNormal, vTone;
out vec2 vUv;
out float vFoot, vTint, vLeaf, vBlend;
uniform float uHeight;
uniform vec3 uLook;
uniform vec3 uWind; // where it blows to, strength
vec3 standing(vec3 p) {
  return p + 2.0 * cross(stance.xyz, cross(stance.xyz, p) + stance.w * p);
}
void main() {
  float size = abs(spot.w);
  vec3 side = vec3(spot.w < 0.0 ? -1.0 : 1.0, 1.0, 1.0);
  vec3 p = side * position * size * form.xyz;
  vec3 n = side * normalize(normal / form.xyz);
#ifdef CARD
  vec2 to = normalize(uLook.xy - spot.xy + 1e-4);
  p = vec3(-to.y * p.x, to.x * p.x, p.z);
  n = normalize(vec3(to * 0.55, 0.75));
#else
  p = standing(p);
  n = standing(n);
#endif
#ifdef WIND
  // sway as of a rod held at its foot, gusts running with the wind (after Habel and others 2009,
  // simplified)
  if (leaf > 0.0) {
    float h = max(position.z, 0.0) / uHeight;
    float gust = sin(uTime * 0.9 - dot(spot.xy, uWind.xy) * 0.11) * 0.5 + 0.5;
    float own = fract(spot.x * 0.37 + spot.y * 0.73) * 6.2832;
    float bend = uWind.z * h * h * (0.35 + 0.65 * gust) + uWind.z * 0.3 * h
      * sin(uTime * (2.6 - 0.9 * min(uHeight * size / 12.0, 1.0)) + own);
    p.xy += uWind.xy * bend * min(uHeight * size, 6.0) * 0.09;
    p += 0.012 * leaf * uWind.z * h * sin(uTime * 6.1 + position.yzx * 9.0 + own);
  }
#endif
  vPlace = spot.xyz + p;
  vUv = uv;
#ifdef FINISH
  vFinish = finish;
#endif
#ifndef PLAIN
  float cm = floor(form.w * 0.5);
  vFoot = position.z / uHeight;
  vLeaf = leaf;
  vBlend = cm * 0.01;
#ifdef STONE
  if (cm <= 0.0) vBlend = clamp(0.07 * uHeight * size, 0.015, 0.3);
#endif
  vNormal = n;
  vTone = tone;
  vTint = form.w - 2.0 * cm;
#endif
${CORNERS}
  vec3 eye = normalize(uEye - vPlace);
  float sun;
  vec3 light = lightOn(vPlace, turnedTo(n, eye, leaf), eye, leaf, vFoot, 0.0, sun);
  vLight = tone * tinted(vTint) * dryAt(vPlace) * light;
  airTo(vPlace, vPasses, vAdds);
#endif
  gl_Position = projectionMatrix * viewMatrix * vec4(vPlace, 1.0);
}
`;

/**
 * Where a picture of leaves is larger than a texel a pixel its edge is sharp; where it is smaller,
 * its mean cover decides by a hash of its own place, so a crown keeps its density and its grain
 * (hashed alpha testing; Wyman & McGuire 2017). Summed frames take another hash each.
 */
const CUT = /* glsl */ `
float cut(vec2 uv, float sharp) {
  vec2 t = uv * vec2(1024.0, 512.0);
  vec2 a = dFdx(t);
  vec2 b = dFdy(t);
  float size = sqrt(max(dot(a, a), dot(b, b)));
  float cell = exp2(floor(log2(max(size, 1.0)) + 0.5));
  // after Hoskins 2014
  vec3 q = fract(vec3(floor(t / cell), uGrain) * vec3(0.1031, 0.11369, 0.13787));
  q += dot(q, q.yzx + 19.19);
  return mix(sharp, 0.06 + 0.88 * fract((q.x + q.y) * q.z), smoothstep(1.2, 2.6, size));
}
`;

/**
 * A surface that is rough, metallic or clear: sun and sky by Fresnel (Schlick 1994) and the slopes
 * of its facets (Walter and others 2007). Of what is clear as many pixels are left out as light
 * goes through; summed frames leave out others each.
 */
const FINISH = /* glsl */ `
#ifdef FINISH
vec3 aroundAt(vec3 way, float rough) {
  vec3 sky = mix(skyAt(way), skyLight(way), smoothstep(0.1, 0.7, rough));
  return mix(uBounce, sky, smoothstep(-0.2 * rough - 0.02, 0.2 * rough + 0.02, way.z));
}
vec3 finished(vec3 lit, vec3 albedo, vec3 n, vec3 eye, vec3 finish, float sun) {
  if (dot(n, eye) < 0.0) n = -n;
  float facing = clamp(dot(n, eye), 0.0, 1.0);
  vec3 straight = mix(vec3(0.04), albedo, finish.y);
  vec3 mirrors = straight + (max(vec3(1.0 - finish.x), straight) - straight)
    * pow(1.0 - facing, 5.0);
  float a2 = pow(max(finish.x, 0.05), 4.0);
  vec3 h = normalize(eye + uSun);
  float nh = max(dot(n, h), 0.0);
  float spread = nh * nh * (a2 - 1.0) + 1.0;
  float lobe = a2 / (spread * spread) * 0.25 / max(dot(h, uSun) * dot(h, uSun), 0.1);
  vec3 shine = mirrors * (aroundAt(reflect(-eye, n), finish.x)
    + uSunLight * lobe * max(dot(n, uSun), 0.0) * sun);
  float clear = finish.z * (1.0 - max(mirrors.r, max(mirrors.g, mirrors.b)));
  float kept = 1.0 - clear;
  vec2 at = gl_FragCoord.xy + 61.7 * uGrain;
  if (fract(52.9829189 * fract(dot(at, vec2(0.06711056, 0.00583715)))) > kept) discard;
  return (shine + lit * (1.0 - mirrors) * (1.0 - finish.y) * (1.0 - finish.z)) / max(kept, 0.02);
}
#endif
`;

export const FRAGMENT = /* glsl */ `${COMMON}${CUT}${FINISH}
#ifdef FINISH
in vec3 vFinish;
#endif
in vec3 vPlace, vNormal, vTone;
in vec2 vUv;
in float vFoot, vTint, vLeaf, vBlend;
out vec4 outColour;
uniform sampler2D uSheet, uGroundTone;
uniform float uChosen;
uniform vec3 uWorn;
#ifdef CARD
const vec3 SHEET = vec3(0.0, 0.3, 0.8); // bias, where it is cut, how bright
#else
const vec3 SHEET = vec3(-1.3, 0.42, 1.0); // leaves keep their grain; summed frames smooth it
#endif
${CORNERS}
in vec3 vLight, vPasses, vAdds;
void main() {
  vec4 c = texture(uSheet, vUv, SHEET.x);
  if (c.a < cut(vUv, SHEET.y)) discard;
  vec3 colour = c.rgb * SHEET.z * uWorn * vLight;
  if (uChosen > 0.5) colour = mix(colour, vec3(0.7, 0.35, 0.04), 0.35);
  outColour = vec4(colour * vPasses + vAdds, distance(vPlace, uEye));
}
#else
${ON}
void main() {
  vec3 albedo = vTone * uWorn;
  if (vUv.x >= 0.0) {
    vec4 c = texture(uSheet, vUv, SHEET.x);
    if (c.a < cut(vUv, SHEET.y)) discard;
    albedo *= c.rgb * SHEET.z;
  }
  vec3 n = normalize(vNormal);
  vec3 eye = normalize(uEye - vPlace);
#ifdef STONE
  vec3 q = abs(n);
  vec2 p = q.z > 0.6 ? vPlace.xy : (q.x > q.y ? vPlace.yz : vPlace.xz);
  vec4 a = texture(uNoise, p * 0.21);
  vec4 b = texture(uNoise, p * 1.7);
  vec4 e = texture(uNoise, p * 7.3);
  albedo *= 0.5 + 0.5 * a.r + 0.42 * b.g + 0.1 * (b.b - 0.5) + 0.32 * (e.r - 0.47);
  // pale crusts with a ragged rim
  float lichen = smoothstep(0.56, 0.62, 0.55 * b.a + 0.3 * a.b + 0.2 * e.g)
    * smoothstep(-0.1, 0.6, n.z);
  albedo = mix(albedo, vec3(0.33, 0.335, 0.27) * (0.6 + 0.7 * e.b), 0.6 * lichen);
  // dark grains and pits
  albedo *= 1.0 - 0.5 * smoothstep(0.6, 0.66, texture(uNoise, p.yx * 0.6 + 0.3).r)
    * smoothstep(0.5, 0.6, e.a) * (1.0 - smoothstep(6.0, 22.0, distance(uEye, vPlace)));
  n = normalize(n + (vec3(b.r, b.a, a.g) - 0.46) * 0.55 + (vec3(e.g, e.b, e.r) - 0.46) * 0.45);
#else
  n = turnedTo(n, eye, vLeaf);
  albedo *= tinted(vTint);
#endif
  albedo *= dryAt(vPlace);
  float joined = 0.0;
#ifdef BLENDS
  if (vBlend > 0.0) { // the ground's own colour and lie at the foot, along an uneven rim
    float over = vPlace.z - groundAt(vPlace.xy);
    joined = 1.0 - smoothstep(0.0, vBlend, over + (texture(uNoise, vPlace.xy * 0.9).g - 0.5)
      * vBlend * 0.9);
    vec4 ground = texture(uGroundTone, plotUv(vPlace.xy));
    albedo = mix(albedo, ground.rgb * ground.rgb
      * (0.62 + 0.8 * texture(uNoise, vPlace.xy * 1.9).b), joined * ground.a);
    vec2 gn = texture(uNormals, plotUv(vPlace.xy)).rg;
    n = normalize(mix(n, vec3(gn, sqrt(max(1.0 - dot(gn, gn), 0.01))), 0.8 * joined));
  }
#endif
  float sun;
  vec3 colour = albedo * lightOn(vPlace, n, eye, vLeaf, vFoot, joined, sun);
#ifdef FINISH
  colour = finished(colour, albedo, n, eye, vFinish, sun);
#endif
  if (uChosen > 0.5) colour = mix(colour, vec3(0.7, 0.35, 0.04), 0.35);
  outColour = vec4(hazed(colour, vPlace), distance(vPlace, uEye));
}
#endif
`;

export const DEPTH = /* glsl */ `
precision highp float;
in vec2 vUv;
uniform sampler2D uSheet;
out vec4 outColour;
uniform float uGrain;
#ifdef FINISH
in vec3 vFinish;
#endif
${CUT}
void main() {
#ifdef FINISH
  if (vFinish.z > 0.5) discard; // a pane casts no shadow
#endif
  if (vUv.x >= 0.0 && texture(uSheet, vUv).a < cut(vUv, 0.4)) discard;
  outColour = vec4(1.0);
}
`;
