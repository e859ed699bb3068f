/**
 * What the ground looks like at a place, whatever the light: its materials laid over each other by
 * their weights, as in the core.
 */

const UNIFORMS = /* glsl */ `
uniform sampler2DArray uWeights, uColours, uDetails;
uniform int uCount;
uniform mat3 uTunes[16]; // tint, lightness, hue and saturation
uniform vec4 uLies[16]; // cosine and sine of the turn, depth of relief, roughness
uniform float uDarkens[16];
// pictures of whole grounds: centre and size, then cosine, sine, relief in m and its material
uniform sampler2DArray uPictures;
uniform int uPictureCount;
uniform vec4 uPictureAt[8], uPictureTurn[8];
uniform vec4 uEdges[16]; // blend by height, breakup, size in m, is it directed
uniform float uGrounds[16];
uniform vec4 uMeans[16], uMeanDetails[16];
// part of the strongest corner below which one is left out; nearly 1 while moving
uniform float uSpare;
// level of the water near by, falling with the distance to it; far below where there is none
uniform sampler2D uShore;
`;

/** A place set aside by a slow drift, and noise that never comes back in rows. */
export const STREWN = /* glsl */ `
/**
 * A place set aside by a slow drift, so that what is looked up there in a small picture does not
 * come back in rows.
 */
vec2 drifted(vec2 p) {
  return p + (textureLod(uNoise, p.yx / 1270.0, 4.0).rg - 0.47) * 130.0;
}

/**
 * The noise over a place in m, its picture \`size\` m across but never twice the same: which of
 * its parts lies here changes with a slower one (after Quilez 2015). \`lod\` is that of a picture
 * 1 m across.
 */
vec4 strewn(vec2 p, float size, float lod) {
  vec2 q = p / size;
  float l = max(lod - log2(size), 0.0);
  float k = textureLod(uNoise, q.yx * 0.217 + 0.37, max(l - 2.2, 0.0)).b * 9.0;
  float i = floor(k);
  vec2 a = sin(vec2(3.1, 7.3) * i);
  vec2 b = sin(vec2(3.1, 7.3) * (i + 1.0));
  return mix(textureLod(uNoise, q + a, l), textureLod(uNoise, q + b, l),
    smoothstep(0.15, 0.85, k - i));
}
`;

const LAYING = /* glsl */ `
uint hashOf(int i, int j) {
  uint h = (uint(i) * 0x27D4EB2Du) ^ (uint(j) * 0x165667B1u);
  h = (h ^ (h >> 15)) * 0x85EBCA6Bu;
  h = (h ^ (h >> 13)) * 0xC2B2AE35u;
  return h ^ (h >> 16);
}

/**
 * A repeating texture without visible repeat, as in src/sow/core/surface/tiling.py: hexagonal
 * tiling (Heitz & Neyret 2018). \`lost\` is how far its grain is finer than a pixel.
 */
#ifdef SOFT
#define TAP(map, place) textureLod(map, place, lod)
#else
#define TAP(map, place) textureGrad(map, place, ux, uy)
#endif
void layGround(float layer, vec4 mean, vec4 meanDetail, vec2 p, vec4 lie, vec4 edge, vec2 px,
  vec2 py, float lod, float lost, out vec4 colour, out vec4 detail) {
  colour = mean;
  detail = meanDetail;
  if (lost <= 0.99) {
  mat2 turn = mat2(lie.x, lie.y, -lie.y, lie.x) / edge.z;
  vec2 q = turn * p;
  vec2 ab = vec2(q.x - 0.57735027 * q.y, 1.15470054 * q.y) * 1.7;
  vec2 low = floor(ab);
  ivec2 cell = ivec2(low);
  vec3 f = vec3(ab - low, 0.0);
  f.z = 1.0 - f.x - f.y;
  bool up = f.z > 0.0;
  vec3 w = up ? f.zyx : vec3(-f.z, 1.0 - f.y, 1.0 - f.x);
  vec3 w2 = w * w;
  w = w2 * w2 * w;
  float most = max(w.x, max(w.y, w.z));
  w = max(w - uSpare * most, vec3(0.0)); // the weakest corners are spared, without a step
  vec4 c = vec4(0.0);
  vec4 t = vec4(0.0);
  float total = 0.0;
  float square = 0.0;
  for (int k = 0; k < 3; k++) {
    float own = w[k];
    if (own > 0.0) {
    ivec2 at = cell + (up ? ivec2(k == 2, k == 1) : ivec2(k != 2, k != 1));
    uint h = hashOf(at.x, at.y);
    float spin = edge.w > 0.5 ? 0.0 : float(hashOf(int(h), 7) >> 8) / 16777216.0 * 6.2831853;
    float cs = cos(spin);
    float sn = sin(spin);
    vec2 corner = vec2(float(at.x) + 0.5 * float(at.y), float(at.y) * 0.8660254) / 1.7;
    mat2 turned = mat2(cs, sn, -sn, cs);
    vec2 uv = turned * (q - corner) + vec2(float(h & 0xFFFFu), float(h >> 16)) / 65536.0;
    vec3 place = vec3(uv.x, -uv.y, layer);
#ifndef SOFT
    vec2 ux = turned * (turn * px);
    vec2 uy = turned * (turn * py);
    ux.y = -ux.y;
    uy.y = -uy.y;
#endif
    c += own * (TAP(uColours, place) - mean);
    vec4 s = TAP(uDetails, place);
    vec2 b = s.xy * 2.0 - 1.0;
    s.xy = vec2(cs * b.x + sn * b.y, -sn * b.x + cs * b.y);
    t += own * s;
    total += own;
    square += own * own;
    }
  }
  colour = max(mean + c * inversesqrt(square), vec4(0.0));
  detail = t / total;
  detail.xy = vec2(lie.x * detail.x + lie.y * detail.y, -lie.y * detail.x + lie.x * detail.y);
  colour.rgb = mix(colour.rgb, mean.rgb, lost);
  }
}
`;

/** `composed`: `place` on the ground of normal `n`, seen by steps of `dpx` and `dpy` from `d` m. */
const COMPOSED = /* glsl */ `
struct Look {
  vec3 albedo;
  vec3 bump; // what is added to the normal
  float rough;
  float occlusion;
};
Look composed(vec3 place, vec3 n, vec2 uv, vec3 dpx, vec3 dpy, float d, float stretch) {
  vec2 q = drifted(place.xy);
  float foot = max(length(dpx), length(dpy));
  float thin = min(length(dpx), length(dpy));
  float fine_ = sqrt(foot * min(foot, max(thin, foot / 16.0)));
  float lod0 = log2(max(fine_, 1e-4) * 256.0);
  float slow = strewn(q, 61.0, lod0).r;
  float macro = strewn(q, 331.0, lod0).g;
  vec4 w0 = texture(uWeights, vec3(uv, 0.0));
  vec4 w1 = vec4(0.0);
  vec4 w2 = vec4(0.0);
  vec4 w3 = vec4(0.0);
  if (uCount > 4) w1 = texture(uWeights, vec3(uv, 1.0));
  if (uCount > 8) w2 = texture(uWeights, vec3(uv, 2.0));
  if (uCount > 12) w3 = texture(uWeights, vec3(uv, 3.0));
  float all_ = dot(w0 + w1 + w2 + w3, vec4(1.0));
  // between posts edges break up by noise finer than the posts, then by the height of what lies
  // below (the core's own formulas)
  float crumble =
    (texture(uNoise, place.xy / (uGrid.z * 19.0)).b * 0.6
    + texture(uNoise, place.yx / (uGrid.z * 4.3)).a * 0.4 - 0.46) * 4.0;
  vec3 albedo = vec3(0.0);
  vec3 bump = vec3(0.0);
  float occlusion = 1.0;
  float rough = 1.0;
  float darkens = 1.0;
  float below = 0.5;
  float left = all_ > 0.0 ? 1.0 : 0.0;
  float steep = smoothstep(0.8, 0.62, n.z);
  float ew = smoothstep(0.4, 0.6, abs(n.x) / max(abs(n.x) + abs(n.y), 1e-4));
  foot = min(foot * stretch, 6.0 * thin);
  if (all_ <= 0.0) albedo = vec3(0.23, 0.22, 0.19);
  float under = 0.0; // shares of the materials so far
  bool first = true;
  for (int i = 0; i < uCount; i++) {
    vec4 four = i < 4 ? w0 : i < 8 ? w1 : i < 12 ? w2 : w3;
    float w = four[i & 3] / max(all_, 1e-4);
    under += w;
    if (w >= 0.012) {
    // its cover over what lies so far, from the shares
    float c = first ? 1.0 : clamp(w / under, 0.0, 1.0);
    vec4 edge = uEdges[i];
    vec4 lie = uLies[i];
    float lod = max(log2(fine_ * 512.0 / edge.z) - 0.7, 0.0);
    float lost = smoothstep(edge.z * 0.012, edge.z * 0.09, foot);
    if (!first) {
      c = clamp(c + edge.y * 0.7 * crumble * c * (1.0 - c), 0.0, 1.0);
      float level = c < 0.15 ? sqrt(0.6 * c) : c <= 0.85 ? c + 0.15 : 1.3 - sqrt(0.6 * (1.0 - c));
      float t = clamp((level - below) / 0.3, 0.0, 1.0);
      c = mix(c, t, edge.x * (1.0 - lost));
    }
    if (c >= 0.012) {
    // from above and from two sides by the slope, then the same ground at a larger scale where
    // its grain is lost: one call for all, which compiles sooner
    float side = edge.w > 0.5 ? smoothstep(0.94, 0.82, n.z) : steep;
    float wide = edge.z * 6.3;
    float k_ = lost * (1.0 - smoothstep(wide * 0.02, wide * 0.12, foot));
    vec4 colour = vec4(0.0);
    vec4 t = vec4(0.0);
    vec3 push = vec3(0.0);
    for (int view = 0; view < 4; view++) {
      float part = view == 0 ? 1.0 - side : view == 1 ? side * ew : view == 2 ? side * (1.0 - ew)
        : k_;
      if (part >= 0.01) {
      bool flat2 = view == 0 || (view == 3 && side < 0.5);
      bool east = view == 1 || (view == 3 && ew > 0.5);
      vec2 p = flat2 ? place.xy : east ? place.yz : place.xz + 31.7;
      vec2 px = flat2 ? dpx.xy : east ? dpx.yz : dpx.xz;
      vec2 py = flat2 ? dpy.xy : east ? dpy.yz : dpy.xz;
      vec4 c1, t1;
      layGround(uGrounds[i], uMeans[i], uMeanDetails[i], p, lie, view == 3
        ? vec4(edge.xy, wide, edge.w) : edge, px, py, view == 3 ? max(lod - 2.65, 0.0)
        : lod, view == 3 ? 0.0 : lost, c1, t1);
      vec3 leans = flat2 ? vec3(t1.xy, 0.0) : east ? vec3(0.0, t1.xy) : vec3(t1.x, 0.0, t1.y);
      if (view < 3) {
        colour += part * c1;
        t += part * t1;
        push += part * leans;
      } else {
        colour.rgb *= mix(vec3(1.0), c1.rgb / max(uMeans[i].rgb, vec3(0.004)), 0.55 * k_);
        t.zw = mix(t.zw, t1.zw, k_);
        push = mix(push, 0.8 * leans, k_);
      }
      }
    }
    for (int k = 0; k < uPictureCount; k++) {
      vec4 spun = uPictureTurn[k];
      vec4 at = uPictureAt[k];
      if (int(spun.w) == i) {
      vec2 o = place.xy - at.xy;
      vec2 l = vec2(o.x * spun.x - o.y * spun.y, o.x * spun.y + o.y * spun.x) / at.zw;
      vec2 texel = 1.0 / vec2(textureSize(uPictures, 0).xy);
      vec3 pu = vec3(l.x + 0.5, 0.5 - l.y, float(k));
      vec3 across = vec3(texel.x, 0.0, 0.0);
      vec3 along = vec3(0.0, texel.y, 0.0);
      vec2 g = vec2(texture(uPictures, pu + across).a - texture(uPictures, pu - across).a,
        texture(uPictures, pu - along).a - texture(uPictures, pu + along).a);
      g *= spun.z / (2.0 * texel * at.zw);
      push.xy -= vec2(g.x * spun.x + g.y * spun.y, -g.x * spun.y + g.y * spun.x);
      vec3 grain = colour.rgb / max(uMeans[i].rgb, vec3(0.01));
      colour.rgb = texture(uPictures, pu).rgb * mix(vec3(1.0), grain, 0.5 * (1.0 - lost));
      }
    }
    if (first) {
      albedo = uTunes[i] * colour.rgb;
      bump = push * lie.z;
      occlusion = t.a;
      rough = t.b * lie.w;
      darkens = uDarkens[i];
      below = colour.a;
      first = false;
    } else {
      albedo = mix(albedo, uTunes[i] * colour.rgb, c);
      bump = mix(bump, push * lie.z, c);
      occlusion = mix(occlusion, t.a, c);
      rough = mix(rough, t.b * lie.w, c);
      darkens = mix(darkens, uDarkens[i], c);
      below = mix(below, colour.a, c);
    }
    }
    }
  }
  albedo = max(albedo, vec3(0.0));
  rough = clamp(rough, 0.02, 1.0);
  float mid = strewn(q, 13.7, lod0).a;
  albedo *= 0.7 + 0.42 * macro + 0.45 * (slow - 0.45) + 0.5 * (mid - 0.47)
    * smoothstep(40.0, 200.0, d);
  float wet = 1.0 - smoothstep(0.06, 0.4 + 0.5 * slow, place.z - texture(uShore, uv).r);
  albedo *= 1.0 - clamp(0.52 * darkens, 0.0, 0.95) * wet;
  rough = mix(rough, 0.3, wet);
  return Look(albedo, bump, rough, occlusion);
}
`;

export const LOOK = UNIFORMS + STREWN + LAYING + COMPOSED;
