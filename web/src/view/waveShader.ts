/**
 * Where a water's surface is, as the core has it (src/sow/core/water): waves on tiles (field.py),
 * waves that run in (surf.py).
 */
import { COMMON } from "./glsl";
import { ICE } from "./iceShader";
import { SETS } from "./swashShader";
import { WAKES } from "./wakeShader";
import { MOST_TILES, POSTS } from "./waveTiles";

/** Posts of the fan across and outward, less one. */
export const RAYS = 120;
export const RINGS = 150;

export const WAVES = /* glsl */ `
uniform sampler2DArray uWaves;
uniform sampler2D uField; // time to the shore, share under water, openness, depth
uniform vec4 uTileAt[${MOST_TILES}]; // side, cosine and sine of its turn, mean square slope
uniform vec2 uTileFades[${MOST_TILES}]; // how much of it shows: the first less the second times log
uniform int uTiles;
uniform vec4 uSea; // height, length, omega by itself, omega as shown
uniform vec4 uShoreSet; // how much runs in, foam, waves until the first comes again, depth

/** How much of a tile's waves shows between places that lie exp(sharp) m apart. */
float resolved(int i, float sharp) {
  return clamp(uTileFades[i].x - uTileFades[i].y * sharp, 0.0, 1.0);
}

vec3 onTile(int i, vec2 p) {
  vec4 t = uTileAt[i];
  vec2 uv = vec2(p.x * t.y + p.y * t.z, -p.x * t.z + p.y * t.y) / t.x;
  return vec3(uv + ${(0.5 / POSTS).toFixed(8)}, float(2 * i));
}

vec2 turned(int i, vec2 v) {
  return vec2(v.x * uTileAt[i].y - v.y * uTileAt[i].z, v.x * uTileAt[i].z + v.y * uTileAt[i].y);
}
${SETS}
/** Waves that run in: height, slope away from the shore, foam, what they leave of the others. */
vec4 surfAt(vec4 field, vec2 p) {
  float deep = max(field.w, 0.02);
  float near = 1.0 - smoothstep(0.08 * uSea.y, 0.3 * uSea.y, deep);
  near *= 1.0 - smoothstep(8.0, 14.0, field.x * uSea.z / 6.2831853);
  near *= min(uShoreSet.x, 1.0);
  vec4 surf = vec4(0.0, 0.0, 0.0, 1.0);
  if (near > 0.0 && uSea.x > 0.0) {
  float phase = uSea.w * uTime + uSea.z * field.x + uneven(p, uSea.y);
  float number = floor(phase / 6.2831853);
  float turn = phase - 6.2831853 * number;
  float aside = uneven(p, 3.7 * uSea.y);
  float one = high(sets(number, uShoreSet.z) + aside);
  float next = high(sets(number + 1.0, uShoreSet.z) + aside);
  float row = mix(one, next,
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
  float crest = pow(up, sharp - 1.0);
  float surface = tall * (crest * up - 0.5 / sqrt(sharp));
  float along = -0.5 * sharp * crest * sin(bent) * rate;
  float slope = tall * along * uSea.z / sqrt(9.81 * deep);
  float since = turn > 5.8119464 ? 0.0 : turn / uSea.w;
  float lasts = 0.24 * 6.2831853 / uSea.w + 0.5;
  float foam = broken * exp(-since / lasts) * near * row * field.z;
  foam *= smoothstep(0.06, 0.5, uSea.x * uShoreSet.x);
  surf = vec4(surface, slope, clamp(foam * 1.5, 0.0, 1.0), 1.0 - near);
  }
  return surf;
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
    float seen = resolved(i, log(fine));
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
uniform float uLevel;
in float side; // -1 and 1 at a stream's edges
in vec4 flow; // of a stream: east, north (m/s), whiteness, distance along it
out vec3 vPlace;
out vec2 vRest;
out vec4 vFlow;
out float vSide;
${FAN}
void main() {
#ifdef STREAM
  vPlace = position;
  vRest = position.xy;
  vFlow = flow;
  vSide = side;
#else
  vRest = fanPlace(position.xy);
  ivec2 post = ivec2((position.x + 1.0) * ${RAYS / 2}.0 + 0.5, position.y * ${RINGS}.0 + 0.5);
  vec3 moved = texelFetch(uShape, post, 0).xyz;
  vPlace = vec3(vRest + moved.xy, uLevel + moved.z);
  vFlow = vec4(0.0);
  vSide = 0.0;
#endif
  gl_Position = projectionMatrix * viewMatrix * vec4(vPlace, 1.0);
}
`;
