/**
 * The water's shaders. Its surface is the core's (src/sow/core/water): waves on tiles (field.py),
 * waves that run in (surf.py), what it does with light (clear.py).
 */
import { COMMON } from "./glsl";
import { ICE } from "./iceShader";
import { WAKES } from "./wakeShader";
import { MOST_TILES, POSTS } from "./waveTiles";

/** Posts of the fan across and outward, less one. */
export const RAYS = 120;
export const RINGS = 150;

const WAVES = /* glsl */ `
uniform sampler2DArray uWaves;
uniform sampler2D uField; // time to the shore, share under water, openness, depth
uniform vec4 uTileAt[${MOST_TILES}]; // side, cosine and sine of its turn, mean square slope
uniform vec2 uTileBand[${MOST_TILES}];
uniform int uTiles;
uniform vec4 uSea; // height, length, omega by itself, omega as shown
uniform vec4 uShoreSet; // how much runs in, foam, waves until the first comes again, depth
uniform float uStream;

float resolved(vec2 band, float fine) {
  float most = 3.14159265 / max(fine, 1e-6);
  float low = max(band.x, band.y / 40.0);
  return clamp(log(most / low) / log(band.y / low), 0.0, 1.0);
}

vec3 onTile(int i, vec2 p) {
  vec4 t = uTileAt[i];
  vec2 uv = vec2(p.x * t.y + p.y * t.z, -p.x * t.z + p.y * t.y) / t.x;
  return vec3(uv + ${(0.5 / POSTS).toFixed(8)}, float(2 * i));
}

vec2 turned(int i, vec2 v) {
  return vec2(v.x * uTileAt[i].y - v.y * uTileAt[i].z, v.x * uTileAt[i].z + v.y * uTileAt[i].y);
}

float sets(float number) {
  if (uShoreSet.z > 0.5) number = mod(number, uShoreSet.z);
  return number;
}
float high(float number) { return 0.65 + 0.35 * sin(number * 0.9 + 1.7 * sin(number * 0.37)); }

float uneven(vec2 p, float l) {
  float a = sin(p.x / (l * 1.9) + 2.0 * sin(p.y / (l * 4.3)));
  float b = sin(p.y / (l * 1.7) + 2.0 * sin(p.x / (l * 3.1)) + 1.3);
  return 0.55 * (a + b);
}

/** Waves that run in: height, slope away from the shore, foam, what they leave of the others. */
vec4 surfAt(vec4 field, vec2 p) {
  float deep = max(field.w, 0.02);
  float near = 1.0 - smoothstep(0.08 * uSea.y, 0.3 * uSea.y, deep);
  near *= 1.0 - smoothstep(8.0, 14.0, field.x * uSea.z / 6.2831853);
  near *= min(uShoreSet.x, 1.0);
  if (near <= 0.0 || uSea.x <= 0.0) return vec4(0.0, 0.0, 0.0, 1.0);
  float phase = uSea.w * uTime + uSea.z * field.x + uneven(p, uSea.y);
  float number = floor(phase / 6.2831853);
  float turn = phase - 6.2831853 * number;
  float aside = uneven(p, 3.7 * uSea.y);
  float row = mix(high(sets(number) + aside), high(sets(number + 1.0) + aside),
    smoothstep(2.5132741, 3.7699112, turn));
  float grown = clamp(pow(0.12 * uSea.y / deep, 0.25), 1.0, 1.7);
  float free = uSea.x * grown * field.z * row * uShoreSet.x;
  float most = 0.78 * deep;
  float broken = smoothstep(0.75, 1.15, free / most);
  float tall = min(free, most) * near;
  float steep = smoothstep(0.25, 1.0, free / most);
  float trough = 3.14159265 * (1.0 + 0.6 * steep);
  float rate = turn < trough ? 3.14159265 / trough : 3.14159265 / (6.2831853 - trough);
  float bent = turn < trough ? turn * rate : 3.14159265 + (turn - trough) * rate;
  float sharp = 1.0 + 2.5 * steep;
  float up = max(0.5 + 0.5 * cos(bent), 1e-6);
  float surface = tall * (pow(up, sharp) - 0.5 / sqrt(sharp));
  float along = -0.5 * sharp * pow(up, sharp - 1.0) * sin(bent) * rate;
  float slope = tall * along * uSea.z / sqrt(9.81 * deep);
  float since = turn > 5.8119464 ? 0.0 : turn / uSea.w;
  float lasts = 0.24 * 6.2831853 / uSea.w + 0.5;
  float foam = broken * exp(-since / lasts) * near * row * field.z;
  foam *= smoothstep(0.06, 0.5, uSea.x * uShoreSet.x);
  return vec4(surface, slope, clamp(foam * 1.5, 0.0, 1.0), 1.0 - near);
}

/** The core's field at a place; beyond the plot the open sea. */
vec4 fieldAt(vec2 p) {
  if (uGrid.w < 0.5 || p.x < 0.0 || p.y < 0.0 || p.x > uPlot.x || p.y > uPlot.y)
    return vec4(1000.0, 1.0, 1.0, uShoreSet.w);
  return texture(uField, plotUv(p));
}

/** What the waves that run in leave of the open water's own. */
float calmed(float left, float deep) {
  if (deep > uSea.y * 0.5) return 1.0;
  return left * clamp(deep / (0.6 * uSea.x + 1e-6), 0.0, 1.0) + (1.0 - left) * 0.25;
}
`;

/** Where the posts of the fan lie: a middle bearing, half a width, a first distance and a last. */
const FAN = /* glsl */ `
uniform vec4 uFan;
uniform float uFanStep; // ratio of one distance to the next
vec2 fanPlace(vec2 at) {
  float bearing = uFan.x + at.x * uFan.y;
  float d = at.y <= 0.0 ? 0.0 : uFan.z * pow(uFan.w / uFan.z, at.y);
  return uEye.xy + d * vec2(sin(bearing), cos(bearing));
}
`;

/**
 * How the waves move each post of the fan, found once for an eye and a time: a picture with a texel
 * for each, since the fan is drawn again for every band of a frame.
 */
export const SHAPE = /* glsl */ `${COMMON}
${WAVES}
${ICE}
${WAKES}
${FAN}
in vec2 vUv;
out vec4 outColour;
void main() {
  vec2 post = floor(gl_FragCoord.xy);
  vec2 p = fanPlace(vec2(2.0 * post.x / ${RAYS}.0 - 1.0, post.y / ${RINGS}.0));
  float fine = max(distance(p, uEye.xy), uFan.z) * uFanStep;
  vec4 field = fieldAt(p);
  vec4 surf = surfAt(field, p);
  float free = 1.0 - iceAt(p).x;
  float calm = calmed(surf.w, field.w) * free;
  vec3 moved = vec3(0.0);
  for (int i = 0; i < uTiles; i++) {
    float seen = resolved(uTileBand[i], fine);
    if (seen <= 0.0) continue;
    vec3 at = onTile(i, p);
    vec2 shift = textureLod(uWaves, at + vec3(0.0, 0.0, 1.0), 0.0).rg;
    moved += seen * vec3(turned(i, shift), textureLod(uWaves, at, 0.0).r);
  }
  moved *= calm;
  if (uWakes > 0) moved.z += wakesAt(p).x * free;
  moved.z += surf.x * free * clamp(uSea.y * 0.15 / fine, 0.0, 1.0);
  outColour = vec4(moved, 1.0);
}
`;

export const VERTEX = /* glsl */ `
precision highp float;
precision highp sampler2D;
uniform vec3 uEye;
uniform sampler2D uShape;
uniform float uStream, uLevel;
in float side; // -1 and 1 at a stream's edges
in vec4 flow; // of a stream: east, north (m/s), whiteness, distance along it
out vec3 vPlace;
out vec2 vRest;
out vec4 vFlow;
out float vSide;
${FAN}
void main() {
  if (uStream > 0.5) {
    vPlace = position;
    vRest = position.xy;
    vFlow = flow;
    vSide = side;
  } else {
    vRest = fanPlace(position.xy);
    ivec2 post = ivec2((position.x + 1.0) * ${RAYS / 2}.0 + 0.5, position.y * ${RINGS}.0 + 0.5);
    vec3 moved = texelFetch(uShape, post, 0).xyz;
    vPlace = vec3(vRest + moved.xy, uLevel + moved.z);
    vFlow = vec4(0.0);
    vSide = 0.0;
  }
  gl_Position = projectionMatrix * viewMatrix * vec4(vPlace, 1.0);
}
`;

const SKIN = /* glsl */ `
${ICE}
${WAKES}
in vec3 vPlace;
in vec2 vRest;
in vec4 vFlow;
in float vSide;
out vec4 outColour;
uniform float uMasked, uClear;
uniform vec3 uThrough;
uniform vec2 uShine; // how strongly it mirrors, and glitters

float bed(vec2 p) {
  if (uGrid.w > 0.5 && p.x >= 0.0 && p.y >= 0.0 && p.x <= uPlot.x
    && p.y <= uPlot.y) return groundAt(p);
  if (uFarGrid.x > 1.5) {
    vec2 uv =
      (vec2((p.x - uFarGrid.y) / uFarGrid.w, uFarGrid.x - 1.0 - (p.y - uFarGrid.z) / uFarGrid.w)
      + 0.5) / uFarGrid.x;
    if (uv.x > 0.0 && uv.y > 0.0 && uv.x < 1.0 && uv.y < 1.0) return texture(uFarHeights, uv).r;
  }
  return vPlace.z - 30.0;
}

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
  for (int i = 0; i < uTiles; i++) {
    float seen = resolved(uTileBand[i], fine);
    sum.w += uTileAt[i].w * (1.0 - seen);
    if (seen <= 0.004) continue;
    vec4 t = texture(uWaves, onTile(i, p));
    sum.xyz += seen * vec3(turned(i, t.yz), t.w);
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

Skin skinAt(float fine, float depth) {
  Skin s;
  s.white = 0.72;
  s.depth = depth;
  vec2 slope;
  float foam;
  if (uStream > 0.5) {
    float fast = length(vFlow.xy);
    float round_ = 1.6;
    float t = uTime / round_;
    vec4 one = slopes(vRest - vFlow.xy * round_ * fract(t), fine);
    vec4 two = slopes(vRest - vFlow.xy * round_ * fract(t + 0.5) + 3.7, fine);
    float part = abs(2.0 * fract(t) - 1.0);
    vec4 w = mix(one, two, part);
    float rise = 0.6 + 1.4 * min(fast, 2.5) + 2.0 * vFlow.z;
    slope = w.xy * rise;
    s.rough = w.w * rise * rise + 0.02 * vFlow.z;
    s.bend = w.z;
    float across = dot(vRest, vec2(-vFlow.y, vFlow.x)) / max(fast, 0.1);
    vec2 streak = vec2(vFlow.w - uTime * fast, across);
    float streaks = texture(uNoise, streak / vec2(4.0, 0.8)).r
      + texture(uNoise, streak / vec2(1.3, 0.35) + 0.4).g;
    streaks += 0.7 * (texture(uNoise, vRest / 5.3).b - 0.5);
    s.white = 0.34 + 0.42 * clamp((streaks - 0.55) * 1.25, 0.0, 1.0);
    // what falls frays at its edges
    float frays = vFlow.z * texture(uNoise, streak / vec2(7.0, 2.0)).b;
    if (abs(vSide) > 1.0 - 0.55 * frays) s.depth = -1.0;
    foam = clamp((streaks - 1.3 + 1.15 * vFlow.z) * 2.0, 0.0, 1.0) * uShoreSet.y
      * smoothstep(0.03, 0.25, vFlow.z);
  } else {
    vec4 field = fieldAt(vRest);
    vec4 surf = surfAt(field, vRest);
    float calm = calmed(surf.w, field.w);
    vec4 w = slopes(vRest, fine);
    slope = w.xy * calm;
    if (abs(surf.y) > 1e-5) {
      float e = uGrid.z;
      vec2 run = vec2(fieldAt(vRest + vec2(e, 0.0)).x, fieldAt(vRest + vec2(0.0, e)).x) - field.x;
      slope += surf.y * clamp(uSea.y * 0.15 / fine, 0.0, 1.0) * run / max(length(run), 1e-6);
    }
    s.rough = w.w;
    s.bend = w.z;
    vec4 wake = uWakes > 0 ? wakesAt(vRest) : vec4(0.0);
    slope += wake.yz;
    foam = max(surf.z, clamp((w.z - 0.52) * 4.0, 0.0, 1.0) * calm);
    foam = max(foam, wake.w) * uShoreSet.y;
    foam = lace(vRest, min(foam, 1.0));
    vec3 ice = iceAt(vRest);
    if (ice.x > 0.0) {
      float free = 1.0 - ice.x;
      slope *= free;
      s.rough = mix(s.rough, 0.0004, ice.x);
      s.bend *= free;
      foam = max(foam * free, ice.y);
      if (ice.x > 0.5) s.white = mix(0.6, 0.86, ice.z);
    }
  }
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
  float inside = sqrt(1.0 - (1.0 - look * look) / 1.777);
  float ways = 0.5 * (1.0 + 1.0 / inside);
  return exp(log(clamp(uThrough, 1e-4, 0.999)) * max(depth, 0.0) * ways / uClear);
}

/** Water ends softly over the last centimetres. */
float edge(float depth) {
  return smoothstep(0.0, 0.03 + 0.02 * min(uSea.x, 1.0), depth);
}

/** Whether the surface is seen from below; what belongs to the other half of a picture is gone. */
bool fromBelow(vec3 ray) {
  bool below = uEye.z < vPlace.z;
  if (uUnder.y < 0.5) return false;
  if (under(ray) != below) discard;
  return below;
}

void outside() {
  if (uMasked > 0.5 && fieldAt(vRest).y < 0.4) discard;
}
`;

/** What the water lets through of what lies behind it: the picture is multiplied by it. */
/** What lies under land is not shaded: most of a fan is hidden so. */
const MAIN = /* glsl */ `
void main() {
  float fine = max(length(fwidth(vRest)) * 0.5, 0.004);
  float depth = vPlace.z - bed(vPlace.xy);
  if (depth < 0.0) {
    discard;
  } else {
    outside();
    shade(fine, depth);
  }
}
`;

export const THROUGH = /* glsl */ `${COMMON}
${WAVES}
${SKIN}
void shade(float fine, float depth) {
  vec3 ray = vPlace - uEye;
  float d = length(ray);
  ray /= d;
  bool below = fromBelow(ray);
  Skin s = skinAt(fine, depth);
  if (s.depth < 0.0) discard;
  if (below) {
    outColour = vec4(0.0, 0.0, 0.0, 1.0);
    return;
  }
  float look = max(dot(-ray, s.normal), 0.02);
  // waves gather the sun's light on a shallow bed, and part it
  float share = smoothstep(0.02, 0.3, s.depth) * exp(-s.depth * 0.7);
  float light = 1.0 + clamp(s.bend * 4.0, -0.45, 1.2) * share * sunAt(vPlace) * max(uSun.z, 0.0)
    * smoothstep(0.25, 0.02, fine);
  vec3 through = passed(s.depth, look) * light * (1.0 - fresnel(look, s.rough));
  through *= 1.0 - s.foam;
  outColour = vec4(mix(vec3(1.0), through, edge(s.depth)), 1.0);
}
${MAIN}`;

export const FRAGMENT = /* glsl */ `${COMMON}
${WAVES}
uniform sampler2D uCover;
uniform vec3 uTint;
${SKIN}

/** The land that stands in the way of a mirrored ray, or the sky. */
vec3 mirroredAlong(vec3 r) {
  vec3 sky = skyAt(r);
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

/** The surface from below: all of the sky in a round window, and around it the water mirrored. */
vec3 window(vec3 ray, Skin s, float d) {
  vec3 n = -s.normal;
  vec3 r = refract(ray, n, 1.333);
  vec3 back = ownUnder(reflect(ray, n)) * 1.15;
  vec3 seen = back;
  if (dot(r, r) > 0.0) {
    float out_ = max(dot(r, s.normal), 0.0);
    float f = 0.02 + 0.98 * pow(1.0 - out_, 5.0);
    float sun = pow(max(dot(r, uSun), 0.0), 900.0) * 60.0;
    seen = mix(mirroredAlong(r) + uSunLight * sun, back, f);
  }
  seen = mix(seen, 0.35 * litUnder(uUnder.x), s.foam * 0.7);
  vec3 passes = exp(-uUnderTakes * d);
  return seen * passes + ownUnder(ray) * (1.0 - passes);
}

void shade(float fine, float depth) {
  vec3 ray = vPlace - uEye;
  float d = length(ray);
  ray /= d;
  bool below = fromBelow(ray);
  Skin s = skinAt(fine, depth);
  if (s.depth < 0.0) discard;
  if (below) {
    outColour = vec4(window(ray, s, d), 0.0);
    return;
  }
  float look = max(dot(-ray, s.normal), 0.02);
  float f = fresnel(look, s.rough);
  // slopes too small to show turn what is mirrored up in the mean, most at a low look
  vec3 r = reflect(ray, s.normal);
  r.z = abs(r.z) + 0.9 * sqrt(s.rough) * (1.0 - look);
  r = normalize(r);
  float sun = sunAt(vPlace + vec3(0.0, 0.0, 0.05));
  vec3 above = skyLight(vec3(0.0, 0.0, 1.0));
  vec3 lit = uSunLight * max(uSun.z, 0.0) * sun + above;
  vec3 through = passed(s.depth, look);
  vec3 body = uTint * 0.45 * lit;
  vec3 colour = (f > 0.04 ? mirroredAlong(r) : skyAt(r)) * f + body * (1.0 - f) * (1.0 - through)
    + glitter(ray, s, look, sun);
  vec3 white = s.white * (uSunLight * max(dot(s.normal, uSun), 0.0) * sun + above);
  colour = mix(colour, white, s.foam);
  float on = edge(s.depth);
  // what lies behind is hazed already, and keeps its haze as far as it is let through
  vec3 kept = through * (1.0 - f) * (1.0 - s.foam);
  vec3 haze = hazed(vec3(0.0), vPlace);
  outColour = vec4((hazed(colour, vPlace) - haze * kept) * on, 0.0);
}
${MAIN}`;
