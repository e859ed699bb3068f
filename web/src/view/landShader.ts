/** How the ground is drawn: the plot by its look and the light, the far land by its mean colour. */
import { SWASH } from "./swashShader";
import { COMMON } from "./glsl";
import { LOOK, STREWN } from "./groundLook";
import { PAGED } from "./groundPaged";

export const VERTEX = /* glsl */ `${COMMON}
in vec4 patch_; // column, row, posts a step, drop of the skirt in m
out vec3 vPlace;
out float vFar;
#ifdef FAR
float farPost(ivec2 p) {
  return texelFetch(uFarHeights, clamp(p, ivec2(0), ivec2(int(uFarGrid.x) - 1)), 0).r;
}
#endif
void main() {
#ifdef FAR
  vec2 p = clamp(patch_.xy + position.xy * patch_.z, vec2(0.0), vec2(uFarGrid.x - 1.0));
  vec3 w = vec3(uFarGrid.y + p.x * uFarGrid.w, uFarGrid.z + (uFarGrid.x - 1.0 - p.y) * uFarGrid.w,
    farPost(ivec2(p)));
#else
  vec2 p = clamp(patch_.xy + position.xy * patch_.z, vec2(0.0), uGrid.xy - 1.0);
  vec3 w = vec3(p.x * uGrid.z, (uGrid.y - 1.0 - p.y) * uGrid.z, post(ivec2(p)));
#endif
  w.z -= position.z * patch_.w;
  vPlace = w;
  gl_Position = projectionMatrix * viewMatrix * vec4(w, 1.0);
}
`;

const LIT_UNIFORMS = /* glsl */ `
in vec3 vPlace;
out vec4 outColour;
uniform sampler2D uCover;
uniform float uCoverNear;
uniform vec4 uRing; // east, north, radius, on
// colour, strength: 1 hatches a share, 2 lays a measure as an ink wash with isolines
uniform sampler2D uWash;
uniform vec4 uWashTone;
uniform vec4 uWashScale; // lowest, highest, isolines between them, is it a scale of ratios
`;

/** The eye's steps over the ground from pixel to pixel, and how fine they are. */
const STEPS = /* glsl */ `
  vec2 uv = plotUv(vPlace.xy);
  vec2 nn = texture(uNormals, uv).rg;
  vec3 n = vec3(nn, sqrt(max(1.0 - dot(nn, nn), 0.01)));
  float d = distance(vPlace, uEye);
  vec3 dpx = dFdx(vPlace);
  vec3 dpy = dFdy(vPlace);
  float foot = max(length(dpx), length(dpy));
  float thin = min(length(dpx), length(dpy));
  float fine_ = sqrt(foot * min(foot, max(thin, foot / 16.0)));
  float lod0 = log2(max(fine_, 1e-4) * 256.0);
`;

/** A look in the light, with plants from afar and what is laid over the ground. */
const LIT = /* glsl */ `${SWASH}
vec4 inLight(Look look, vec3 n, vec2 uv, float d, float lod0) {
  float sun = sunAt(vPlace + n * 0.05);
  // the plants, seen from afar as colour, relief and shade
  vec4 cover = texture(uCover, uv);
  cover.rgb *= cover.rgb;
  float fade = smoothstep(uCoverNear * 0.25, uCoverNear, d);
  float clump = 0.5;
  vec3 leaning = vec3(0.0);
  if (fade > 0.01) {
    vec2 q = drifted(vPlace.xy);
    vec4 small = texture(uNoise, q / 2.3);
    vec4 middle = texture(uNoise, q / 6.4);
    vec4 large = textureLod(uNoise, q / 28.0, max(lod0 - 4.8, 0.0));
    clump = small.b * 0.36 + middle.r * 0.34 + large.g * 0.3;
    clump = clamp((clump - 0.5) * 1.5 + 0.5, 0.0, 1.0);
    vec2 lean = (middle.gb - small.rg) * cover.a + (large.ba - 0.47) * (0.45 + 0.55 * cover.a);
    leaning = vec3(lean * fade, 0.0);
  }
  vec3 albedo = mix(look.albedo, cover.rgb * (0.32 + 1.3 * clump),
    cover.a * fade * (0.72 + 0.28 * smoothstep(0.35, 0.6, clump)));
  n = normalize(n + look.bump * mix(0.95, 0.35, smoothstep(8.0, 120.0, d)) + leaning);
  float occlusion = look.occlusion * (1.0 - 0.38 * cover.a * (1.0 - fade));
  float rough = look.rough;
#ifdef FILM
  float film = filmAt(vPlace);
  rough = mix(rough, 0.08, film * step(rough, 0.6));
  albedo *= 1.0 - 0.15 * film;
#endif
  float up = max(dot(n, uSun), 0.0);
  vec3 light = uSunLight * up * sun + ambientAt(vPlace, n) * occlusion;
#ifdef LAMPS
  light += lampsAt(vPlace, n);
#endif
  vec3 colour = albedo * light;
  vec3 h = normalize(uSun + normalize(uEye - vPlace));
  // sun on grains and wet faces (Blinn & Phong, with the exponent from the roughness), and the
  // sky on smooth ground by Schlick's Fresnel
  float a2 = rough * rough * rough * rough;
  float power = clamp(2.0 / max(a2, 1e-3) - 2.0, 2.0, 600.0);
  vec3 eye = normalize(uEye - vPlace);
  float fresnel = 0.04 + 0.96 * pow(1.0 - max(dot(n, eye), 0.0), 5.0);
  float gloss = pow(max(dot(n, h), 0.0), power) * (power + 2.0) * 0.125 * 0.04;
  colour += uSunLight * gloss * sun * smoothstep(0.0, 0.1, up) * (1.0 - 0.7 * rough);
  float sheen = (1.0 - rough) * (1.0 - rough) * fresnel;
  colour = mix(colour, skyLight(reflect(-eye, n)) * occlusion, clamp(0.8 * sheen, 0.0, 0.7));
#ifdef WASH
  float wash = texture(uWash, uv).r;
  if (uWashTone.a > 1.5) {
    float t = uWashScale.w > 0.5 ? (log(max(wash, 1e-4)) - log(max(uWashScale.x, 1e-4)))
      / (log(uWashScale.y) - log(max(uWashScale.x, 1e-4)))
      : (wash - uWashScale.x) / (uWashScale.y - uWashScale.x);
    t = clamp(t, 0.0, 1.0);
    float k = t * uWashScale.z;
    float line = smoothstep(1.1, 0.3, abs(fract(k + 0.5) - 0.5) / max(fwidth(k), 1e-4));
    vec3 paper = vec3(0.86, 0.82, 0.72);
    vec3 shade = vec3(clamp(dot(light, vec3(0.42)), 0.25, 1.5));
    colour = mix(paper, uWashTone.rgb, t) * shade
      * (1.0 - 0.5 * line * step(0.5, k) * step(k, uWashScale.z - 0.5));
  } else {
    float hatch =
      smoothstep(0.35, 0.65, abs(fract((gl_FragCoord.x + gl_FragCoord.y) / 7.0) - 0.5) * 2.0);
    colour = mix(colour, uWashTone.rgb * dot(light, vec3(0.4)), wash * uWashTone.a
      * (0.35 + 0.5 * hatch));
  }
#endif
  colour = hazed(colour, vPlace);
  if (uRing.w > 0.5) {
    float r = distance(vPlace.xy, uRing.xy);
    float line = smoothstep(1.6, 0.6, abs(r - uRing.z) / max(fwidth(r), 1e-4));
    colour = mix(colour, vec3(0.85, 0.4, 0.03), line * 0.9);
  }
  return vec4(colour, d);
}
`;

/** The plot, its materials laid at every pixel: for stills. */
export const DIRECT = /* glsl */ `${COMMON}${LOOK}${LIT_UNIFORMS}${LIT}
void main() {
${STEPS}
  Look look = composed(vPlace, n, uv, dpx, dpy, d, 1.0);
  outColour = inLight(look, n, uv, d, lod0);
}
`;

/** The plot, its look taken from the pages that were laid before. */
export const KEPT = /* glsl */ `${COMMON}${STREWN}${PAGED}${LIT_UNIFORMS}${LIT}
void main() {
${STEPS}
  outColour = inLight(pagedLook(vPlace.xy, uv, fine_), n, uv, d, lod0);
}
`;

/** Land beyond the plot. */
export const FAR = /* glsl */ `${COMMON}${STREWN}
in vec3 vPlace;
out vec4 outColour;
uniform sampler2D uFarColour, uFarNormals;
uniform vec4 uInner;
void main() {
#ifdef CUT
  if (vPlace.x > uInner.x && vPlace.y > uInner.y && vPlace.x < uInner.z
    && vPlace.y < uInner.w) discard;
#endif
  vec2 fuv =
    (vec2((vPlace.x - uFarGrid.y) / uFarGrid.w, uFarGrid.x - 1.0
    - (vPlace.y - uFarGrid.z) / uFarGrid.w) + 0.5) / uFarGrid.x;
  vec2 lean = texture(uFarNormals, fuv).rg;
  vec3 n = vec3(lean, sqrt(max(1.0 - dot(lean, lean), 0.01)));
  vec3 albedo = texture(uFarColour, fuv).rgb;
  albedo *= albedo;
  vec2 q = drifted(vPlace.xy);
  float m = texture(uNoise, q / 900.0).g * 0.6 + texture(uNoise, q / 190.0).r * 0.4;
  float fine = texture(uNoise, q / 41.0).b;
  albedo *= 0.62 + 0.5 * m + 0.32 * (fine - 0.4);
  n = normalize(n + vec3(texture(uNoise, q / 97.0).rg - 0.47, 0.0) * 0.35);
  vec3 light = uSunLight * max(dot(n, uSun), 0.0) * cloudShade(vPlace) + skyLight(n);
  outColour = vec4(hazed(albedo * light, vPlace), distance(vPlace, uEye));
}
`;
