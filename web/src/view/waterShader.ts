/** What a water does with light, as the core has it (src/sow/core/water/clear.py). */
import { WATER_INDEX } from "../api/numbers";
import { COMMON } from "./glsl";
import { ICE } from "./iceShader";
import { WAKES } from "./wakeShader";
import { WAVES } from "./waveShader";

/** Height of the ground below a place of the surface. */
const BED = /* glsl */ `
float bed(vec3 place) {
  vec2 p = place.xy;
  if (uGrid.w > 0.5 && p.x >= 0.0 && p.y >= 0.0 && p.x <= uPlot.x
    && p.y <= uPlot.y) return groundAt(p);
  if (uFarGrid.x > 1.5) {
    vec2 uv =
      (vec2((p.x - uFarGrid.y) / uFarGrid.w, uFarGrid.x - 1.0 - (p.y - uFarGrid.z) / uFarGrid.w)
      + 0.5) / uFarGrid.x;
    if (uv.x > 0.0 && uv.y > 0.0 && uv.x < 1.0 && uv.y < 1.0) return texture(uFarHeights, uv).r;
  }
  return place.z - 30.0;
}
`;

const RUNS = 0.8; // of a stream's speed with which eddies go

const SKIN = /* glsl */ `${BED}
${ICE}
${WAKES}
in vec3 vPlace;
in vec2 vRest;
in vec4 vFlow;
in float vSide;
out vec4 outColour;
uniform vec3 uTakes; // what a metre down and up again takes of the light
uniform vec2 uShine; // how strongly it mirrors, and glitters

struct Skin {
  vec3 normal;
  float rough; // mean square of the slopes too small to show
  float foam;
  float depth;
  float bend; // how far the surface gathers light, about -1 to 1
  float white; // how bright its foam is
};

/** Slopes of the tiles at a place; the fold of the surface, and what is too small to show. */
vec4 slopes(vec2 p, float fine) {
  vec4 sum = vec4(0.0);
  float sharp = log(fine);
  for (int i = 0; i < uTiles; i++) {
    float seen = resolved(i, sharp);
    vec4 t = texture(uWaves, onTile(i, p));
    sum += vec4(seen * vec3(turned(i, t.yz), t.w), uTileAt[i].w * (1.0 - seen));
  }
  return sum;
}

/** Foam as it lies: lace that thins as it goes. */
float lace(vec2 p, float foam) {
  vec2 q = p + 0.9 * (texture(uNoise, p / 7.3).rg - 0.5);
  float a = 1.0 - abs(2.0 * texture(uNoise, q / 6.7).r - 0.94) * 2.6;
  float b = 1.0 - abs(2.0 * texture(uNoise, q.yx / 2.3).g - 0.94) * 2.6;
  float patches = 0.5 + 0.5 * texture(uNoise, p / 31.0).b;
  float c = max(a, 0.6 * b + 0.4 * a);
  return clamp((c - 1.0 + 1.5 * foam * patches) * 1.7, 0.0, 1.0) * smoothstep(0.0, 0.12, foam);
}

uniform vec3 uDrift; // east and north (m/s); seconds after which it is back, or 0

/** Foam as lace that drifts with the waves. */
float drifting(vec2 p, float foam) {
  float turn = 6.2831853 / max(uDrift.z, 0.1);
  float gone = uDrift.z > 0.0 ? sin(turn * uTime) / turn : uTime;
  return lace(p - uDrift.xy * gone, foam);
}

#ifdef STREAM
// along a stream: foam, rougher or calmer, moved aside (m), how far apart
uniform sampler2D uEddies;
uniform float uEddyLong;

/** A stream: ripples carried along, streaks of foam, eddies behind stones; gives its foam. */
float running(inout Skin s, out vec2 slope, float fine) {
  float fast = length(vFlow.xy);
  vec4 stirred = vec4(0.0, 0.0, 0.0, 1.0);
  if (uEddyLong > 0.0)
    stirred = texture(uEddies, vec2(0.5 + 0.5 * vSide, vFlow.w / uEddyLong));
  float white = max(vFlow.z, 0.9 * stirred.x);
  float round_ = 1.6;
  float t = uTime / round_;
  vec4 one = slopes(vRest - vFlow.xy * round_ * fract(t), fine);
  vec4 two = slopes(vRest - vFlow.xy * round_ * fract(t + 0.5) + 3.7, fine);
  float part = abs(2.0 * fract(t) - 1.0);
  vec4 w = mix(one, two, part);
  float rise = (0.6 + 1.4 * min(fast, 2.5) + 2.0 * white) * (1.0 + stirred.y);
  slope = w.xy * rise;
  s.rough = w.w * rise * rise + 0.02 * white;
  s.bend = w.z;
  float gone = 6.2831853 * (vFlow.w - ${RUNS} * fast * uTime) / stirred.w;
  float across = dot(vRest, vec2(-vFlow.y, vFlow.x)) / max(fast, 0.1) + stirred.z * sin(gone);
  vec2 streak = vec2(vFlow.w - uTime * fast, across);
  float streaks = texture(uNoise, streak / vec2(4.0, 0.8)).r
    + texture(uNoise, streak / vec2(1.3, 0.35) + 0.4).g;
  streaks += 0.7 * (texture(uNoise, vRest / 5.3).b - 0.5);
  s.white = 0.2 + 0.5 * clamp((streaks - 0.7) * 1.2, 0.0, 1.0);
  // what falls frays at its edges
  float frays = white * texture(uNoise, streak / vec2(7.0, 2.0)).b;
  if (abs(vSide) > 1.0 - 0.55 * frays) s.depth = -1.0;
  return clamp((streaks - 1.3 + 0.95 * white) * 1.7, 0.0, 1.0) * uShoreSet.y
    * smoothstep(0.03, 0.25, white);
}

#endif

/** A water that stands: its waves, those that run in, wakes, ice; gives its foam. */
float standing(inout Skin s, out vec2 slope, float fine) {
  vec4 field = fieldAt(vRest);
  vec4 surf = surfAt(field, vRest);
  float calm = calmed(surf.w, field.w);
  vec4 w = slopes(vRest, fine);
  slope = w.xy * calm;
  float e = uGrid.z;
  vec2 run = vec2(fieldAt(vRest + vec2(e, 0.0)).x, fieldAt(vRest + vec2(0.0, e)).x) - field.x;
  slope += surf.y * clamp(uSea.y * 0.15 / fine, 0.0, 1.0) * run / max(length(run), 1e-6);
  s.rough = w.w;
  s.bend = w.z;
  float foam = max(surf.z, clamp((w.z - 0.52) * 4.0, 0.0, 1.0) * calm);
#ifdef WAKES
  vec4 wake = wakesAt(vRest);
  slope += wake.yz;
  foam = max(foam, wake.w);
#endif
  foam = drifting(vRest, min(foam * uShoreSet.y, 1.0));
#ifdef ICE
  vec3 ice = iceAt(vRest);
  float free = 1.0 - ice.x;
  slope *= free;
  s.rough = mix(s.rough, 0.0004, ice.x);
  s.bend *= free;
  foam = max(foam * free, ice.y);
  if (ice.x > 0.5) s.white = mix(0.6, 0.86, ice.z);
#endif
  return foam;
}

Skin skinAt(float fine, float depth) {
  Skin s;
  s.white = 0.72;
  s.depth = depth;
  vec2 slope;
  float foam;
#ifdef STREAM
  foam = running(s, slope, fine);
#else
  foam = standing(s, slope, fine);
#endif
  s.normal = normalize(vec3(-slope, 1.0));
  s.foam = clamp(foam, 0.0, 1.0);
  return s;
}

/** Share of light that a rough sea mirrors (Bruneton, Neyret & Holzschuch 2010). */
float fresnel(float look, float rough) {
  float sigma = sqrt(rough);
  float power = 5.0 * exp(-2.69 * sigma);
  float f = 0.02 + 0.98 * pow(1.0 - look, power) / (1.0 + 22.7 * pow(sigma, 1.5));
  return min(f * uShine.x, 1.0);
}

/** Share of the bed's light that comes through, as the core has it (water/clear.py). */
vec3 passed(float depth, float look) {
  float inside = sqrt(1.0 - (1.0 - look * look) / ${(WATER_INDEX * WATER_INDEX).toFixed(6)});
  float ways = 0.5 * (1.0 + 1.0 / inside);
  return exp(-uTakes * max(depth, 0.0) * ways);
}

/** Water ends softly over the last centimetres. */
float edge(float depth) {
  return smoothstep(0.0, 0.03 + 0.02 * min(uSea.x, 1.0), depth);
}

`;

/** What was drawn before the water: the picture is the water's own, seen through and mirrored. */
const BEHIND = /* glsl */ `
uniform sampler2D uBehind; // alpha: how far it is
uniform vec4 uBehindIs; // a texel across and down, width and height in texels of what is drawn
uniform mat4 uSees;
vec3 behindAt(vec2 px) { return textureLod(uBehind, px * uBehindIs.xy, 0.0).rgb; }

/**
 * The bed where a bent look meets it, and how deep it lies there; straight on where something that
 * stands before the water hides it.
 */
vec3 seenBelow(vec3 ray, vec3 normal, float d, float fine, inout float depth, vec3 straight) {
  vec3 bed_ = straight;
  float least = min(uTakes.r, min(uTakes.g, uTakes.b));
  if (fine < 0.6 && depth * least < 5.0) {
  vec3 inside = refract(ray, normal, 1.0 / ${WATER_INDEX});
  float down = max(-inside.z, 0.3);
  vec3 place = vPlace + inside * (depth / down);
  float there = clamp(vPlace.z - bed(place), 0.0, 2.0 * depth);
  there = 0.5 * (there + depth);
  place = vPlace + inside * (there / down);
  vec4 q = uSees * vec4(place, 1.0);
  vec2 px = (q.xy / q.w * 0.5 + 0.5) * uBehindIs.zw;
  vec4 seen = textureLod(uBehind, clamp(px, vec2(0.5), uBehindIs.zw - 0.5) * uBehindIs.xy, 0.0);
  float share = smoothstep(d - 0.3, d, seen.a) * smoothstep(0.6, 0.3, fine);
  depth = mix(depth, there, share);
  bed_ = mix(straight, seen.rgb, share);
  }
  return bed_;
}
`;

/** The scene as a still surface mirrors it, by an eye below: what waves turn to is found in it. */
const MIRROR = /* glsl */ `
uniform sampler2D uMirror; // alpha: how far it is from the eye below
uniform mat4 uMirrorAt;
uniform float uMirrorOn, uMirrorIs; // this water shows it; it is there
vec3 mirroredAlong(vec3 r, vec3 sky);

vec4 inMirror(vec3 p) {
  vec4 q = uMirrorAt * vec4(p, 1.0);
  vec2 uv = q.xy / q.w * 0.5 + 0.5;
  if (q.w <= 0.0 || any(lessThan(uv, vec2(0.0))) || any(greaterThan(uv, vec2(1.0))))
    return vec4(0.0);
  return textureLod(uMirror, uv, 0.0);
}

/** What a look that is turned up at the surface shows, as it comes to the eye. */
vec3 mirrored(vec3 r, float d, vec3 passes, vec3 adds) {
  vec4 seen = vec4(0.0);
  vec3 level = vec3(vPlace.xy, uLevel);
  float far = uMirrorOn * uMirrorIs > 0.5 ? inMirror(level).a : 0.0;
  if (far > 0.0) seen = inMirror(level + r * max(far - d, 0.5));
  if (seen.a <= 0.0) {
    vec3 colour = skyAt(r);
    if (far <= 0.0 && r.z < 0.4) colour = mirroredAlong(r, colour);
    seen.rgb = colour * passes + adds;
  }
  return seen.rgb;
}
`;

export const FRAGMENT = /* glsl */ `${COMMON}
${WAVES}
uniform sampler2D uCover;
uniform vec3 uTint;
uniform float uLevel;
${SKIN}
${BEHIND}
${MIRROR}

/** The land that stands in the way of a mirrored ray, or the sky. */
vec3 mirroredAlong(vec3 r, vec3 sky) {
  float step_ = max(uGrid.z * 0.7, 1.5);
  float go = step_;
  for (int i = 0; i < 20; i++) {
    vec3 s = vPlace + r * go;
    if (s.x < 0.0 || s.y < 0.0 || s.x > uPlot.x || s.y > uPlot.y) break;
    float over = s.z - texture(uHeights, plotUv(s.xy)).r;
    if (over < 0.25) {
      vec2 nn = texture(uNormals, plotUv(s.xy)).rg;
      vec3 ln = vec3(nn, sqrt(max(1.0 - dot(nn, nn), 0.01)));
      vec4 c = texture(uCover, plotUv(s.xy));
      vec3 albedo = mix(vec3(0.085, 0.08, 0.04), c.rgb * c.rgb, c.a);
      float open = smoothstep(-1.6, 1.2, s.z - texture(uLandLight, plotUv(s.xy)).r);
      vec3 lit = albedo * (uSunLight * max(dot(ln, uSun), 0.0) * open + skyLight(ln) * 0.85);
      return mix(sky, hazed(lit, s), 0.9);
    }
    go += max(max(step_, over * 0.55), go * 0.3);
  }
  return sky;
}

/** The sun in the slopes of the waves (Cox & Munk 1954). */
vec3 glitter(vec3 ray, Skin s, float look, float sun) {
  vec3 h = normalize(uSun - ray);
  if (h.z <= 0.05) return vec3(0.0);
  vec2 off = h.xy / h.z - s.normal.xy / s.normal.z;
  float wide = s.rough + 2e-5;
  float p = exp(-dot(off, off) / wide) / (3.14159265 * wide);
  float f = 0.02 + 0.98 * pow(1.0 - max(dot(h, -ray), 0.0), 5.0);
  float back = 3.14159265 * f * p / (4.0 * max(look, 0.06) * h.z * h.z * h.z * h.z);
  return uSunLight * min(back, 4000.0) * sun * uShine.y;
}

#ifdef UNDER
/** The surface from below: all of the sky in a round window, and around it the water mirrored. */
vec3 window(vec3 ray, Skin s, float d) {
  vec3 n = -s.normal;
  vec3 r = refract(ray, n, ${WATER_INDEX});
  vec3 back = ownUnder(reflect(ray, n)) * 1.15;
  vec3 seen = back;
  if (dot(r, r) > 0.0) {
    float out_ = max(dot(r, s.normal), 0.0);
    float f = 0.02 + 0.98 * pow(1.0 - out_, 5.0);
    float sun = pow(max(dot(r, uSun), 0.0), 900.0) * 60.0;
    seen = mix(mirroredAlong(r, skyAt(r)) + uSunLight * sun, back, f);
  }
  seen = mix(seen, 0.35 * litUnder(uUnder.x), s.foam * 0.7);
  vec3 passes = exp(-uUnderTakes * d);
  return seen * passes + ownUnder(ray) * (1.0 - passes);
}
#endif

/** Light that waves gather on a shallow bed, or part. */
float gatheredOn(float depth, float bend, float sun, float fine) {
  float share = smoothstep(0.02, 0.3, depth) * exp(-depth * 0.7);
  return 1.0 + clamp(bend * 4.0, -0.45, 1.2) * share * sun * max(uSun.z, 0.0)
    * smoothstep(0.25, 0.02, fine);
}

/** The surface from above. */
vec3 above(vec3 ray, Skin s, float d, float fine) {
  float look = max(dot(-ray, s.normal), 0.02);
  float f = fresnel(look, s.rough) * (1.0 - s.foam);
  // slopes too small to show turn what is mirrored up in the mean, most at a low look
  vec3 r = reflect(ray, s.normal);
  r.z = abs(r.z) + 0.9 * sqrt(s.rough) * (1.0 - look);
  r = normalize(r);
  float sun = sunAt(vPlace + vec3(0.0, 0.0, 0.05));
  vec3 high_ = skyLight(vec3(0.0, 0.0, 1.0));
  vec3 lit = uSunLight * max(uSun.z, 0.0) * sun + high_;
  float deep = s.depth;
  vec3 straight = behindAt(gl_FragCoord.xy);
  vec3 bed_ = seenBelow(ray, s.normal, d, fine, deep, straight);
  vec3 through = passed(deep, look);
  vec3 body = uTint * 0.45 * lit * (1.0 - f) * (1.0 - through);
  vec3 own = (body + glitter(ray, s, look, sun)) * (1.0 - s.foam);
  own += s.white * (uSunLight * max(dot(s.normal, uSun), 0.0) * sun + high_) * s.foam;
  vec3 passes;
  vec3 adds;
  airTo(vPlace, passes, adds);
  vec3 kept = through * (1.0 - f) * (1.0 - s.foam);
  // what lies behind is hazed already, and keeps its haze as far as it is let through
  vec3 colour = own * passes + adds * (1.0 - f - kept);
  colour += kept * bed_ * gatheredOn(deep, s.bend, sun, fine);
  if (f > 0.04) colour += f * mirrored(r, d, passes, adds);
  if (f <= 0.04) colour += f * (skyAt(r) * passes + adds);
  return mix(straight, colour, edge(s.depth));
}

void shade(float fine, float depth) {
  vec3 ray = vPlace - uEye;
  float d = length(ray);
  ray /= d;
  Skin s = skinAt(fine, depth);
  if (s.depth < 0.0) discard;
#ifdef UNDER
  bool below = uEye.z < vPlace.z;
  if (under(ray) != below) discard; // it belongs to the other half of the picture
  outColour = vec4(below ? window(ray, s, d) : above(ray, s, d, fine), d);
#else
  outColour = vec4(above(ray, s, d, fine), d);
#endif
}

void main() {
  float fine = max(length(fwidth(vRest)) * 0.5, 0.004);
  float depth = vPlace.z - bed(vPlace);
  if (depth < 0.0) discard;
#ifdef POOL
  if (fieldAt(vRest).y < 0.4) discard;
#endif
  shade(fine, depth);
}
`;

/**
 * A water as a frame before had it: a renderer without a card runs every branch of a shader for
 * every pixel, so that shading anew costs less only where another shader is drawn with.
 */
export const KEPT = /* glsl */ `${COMMON}
${WAVES}
${BED}
uniform sampler2D uKept; // alpha: how far it is
in vec3 vPlace;
in vec2 vRest;
out vec4 outColour;
void main() {
  if (vPlace.z < bed(vPlace)) discard;
#ifdef POOL
  if (fieldAt(vRest).y < 0.4) discard;
#endif
  float d = distance(vPlace, uEye);
  ivec2 px = ivec2(gl_FragCoord.xy);
  ivec2 last = textureSize(uKept, 0) - 1;
  vec4 best = vec4(0.0);
  // at the rim of what stands before it, from beside
  for (int i = 0; i < 5; i++) {
    ivec2 aside = ivec2(i == 1 ? 1 : i == 2 ? -1 : 0, i == 3 ? 1 : i == 4 ? -1 : 0);
    vec4 kept = texelFetch(uKept, clamp(px + aside, ivec2(0), last), 0);
    if (abs(kept.a - d) < 0.7 * abs(best.a - d)) best = kept;
  }
  outColour = vec4(best.rgb, d);
}
`;
