import { COMMON } from "./glsl";

export const VERTEX = /* glsl */ `${COMMON}
out vec3 vPlace;
void main() {
  vPlace = (modelMatrix * vec4(position, 1.0)).xyz;
  gl_Position = projectionMatrix * viewMatrix * vec4(vPlace, 1.0);
}
`;

export const FRAGMENT = /* glsl */ `${COMMON}
in vec3 vPlace;
out vec4 outColour;
uniform sampler2D uMask, uCover;
uniform vec4 uBounds;
uniform float uMasked, uClear, uWaves;
uniform vec3 uTint;
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
void main() {
  if (uMasked > 0.5) {
    vec2 m = (vPlace.xy - uBounds.xy) / (uBounds.zw - uBounds.xy);
    if (any(lessThan(m, vec2(0.0))) || any(greaterThan(m, vec2(1.0)))
      || texture(uMask, vec2(m.x, 1.0 - m.y)).r < 0.4) discard;
  }
  vec3 ray = vPlace - uEye;
  float d = length(ray);
  ray /= d;
  float depth = vPlace.z - bed(vPlace.xy);
  if (depth < 0.0) discard;
  vec2 q = vPlace.xy;
  float t = uTime;
  vec2 a = texture(uNoise, q / 3.1 + vec2(t * 0.05, t * 0.03)).rg
    + texture(uNoise, q.yx / 1.3 - t * 0.06).ba - 0.94;
  vec2 b = texture(uNoise, q / 23.0 + t * 0.02).gb - 0.47;
  vec3 n = normalize(vec3((a * 0.55 + b * 0.8) * (0.012 + uWaves * 0.03)
    * (1.0 / (1.0 + d * 0.004)), 1.0));
  float look = max(dot(-ray, n), 0.0);
  float fresnel = 0.02 + 0.98 * pow(1.0 - look, 5.0);
  // ripples too small to draw turn the mean up
  vec3 r = reflect(ray, n);
  r.z = abs(r.z) + (0.1 + uWaves) * (0.35 + 1.3 * texture(uNoise, q / 9.0 + t * 0.03).b)
    * (1.0 - look);
  r = normalize(r);
  vec3 mirrored = skyAt(r);
  // the land that stands in the way of the mirrored ray
  float step_ = max(uGrid.z * 0.7, 1.5);
  float go = step_;
  vec3 p = vPlace;
  for (int i = 0; i < 34; i++) {
    vec3 s = vPlace + r * go;
    if (s.x < 0.0 || s.y < 0.0 || s.x > uPlot.x || s.y > uPlot.y) break;
    float over = s.z - texture(uHeights, plotUv(s.xy)).r;
    if (over < 0.25) {
      vec2 nn = texture(uNormals, plotUv(s.xy)).rg;
      vec3 ln = vec3(nn, sqrt(max(1.0 - dot(nn, nn), 0.01)));
      vec4 c = texture(uCover, plotUv(s.xy));
      vec3 albedo = mix(vec3(0.085, 0.08, 0.04), c.rgb * c.rgb, c.a);
      float open = smoothstep(-1.6, 1.2, s.z - texture(uLandLight, plotUv(s.xy)).r);
      mirrored =
        mix(mirrored,
        hazed(albedo * (uSunLight * max(dot(ln, uSun), 0.0) * open + skyLight(ln) * 0.85), s),
        0.72);
      break;
    }
    go += max(max(step_, over * 0.55), go * 0.13);
  }
  vec3 h = normalize(uSun - ray);
  float sun = sunAt(vPlace + vec3(0.0, 0.0, 0.05));
  vec3 glint =
    uSunLight * pow(max(dot(n, h), 0.0), mix(1400.0, 160.0, clamp(uWaves * 4.0, 0.0, 1.0))) * 6.0
    * fresnel * sun;
  float thick = 1.0 - exp(-depth / max(look, 0.12) * 1.6 / uClear);
  vec3 above = skyLight(vec3(0.0, 0.0, 1.0));
  vec3 body = uTint * (uSunLight * max(uSun.z, 0.0) * sun * 0.42 + above * 0.5);
  float edge = smoothstep(0.0, 0.05, depth);
  float alpha = (fresnel + (1.0 - fresnel) * thick) * edge;
  vec3 colour = mirrored * fresnel + body * (1.0 - fresnel) * thick + glint;
  colour = hazed(colour / max(fresnel + (1.0 - fresnel) * thick, 1e-3), vPlace);
  outColour = vec4(colour * alpha, alpha);
}
`;
