/** Ice on standing water, as the core has it (src/sow/core/water/ice.py). */
export const ICE = /* glsl */ `
uniform sampler2D uIce; // thickness in m
uniform vec4 uIceSet; // thickness at the shore (m), snow, cracks, is there any

/** Whether it is frozen, how white the ice is, how much of that is snow. */
vec3 iceAt(vec2 p) {
  vec3 ice = vec3(0.0);
  if (uIceSet.w > 0.5) {
  float thick = uGrid.w > 0.5 ? texture(uIce, plotUv(p)).r : uIceSet.x;
  float frays = 0.5 * uIceSet.x * (texture(uNoise, p / 9.0).g - 0.47);
  float frozen = smoothstep(0.0, 0.06 * uIceSet.x, thick + (thick > 0.0 ? frays : 0.0));
  vec2 q = p + 0.4 * texture(uNoise, p / 3.7).rg;
  float wide = abs(2.0 * texture(uNoise, q / 53.0).r - 0.94);
  float narrow = abs(2.0 * texture(uNoise, q / 19.0).g - 0.94);
  float cracks = max(1.0 - smoothstep(0.0, 0.012, wide),
    0.7 * (1.0 - smoothstep(0.0, 0.016, narrow)));
  float bubbles = smoothstep(0.6, 0.7, texture(uNoise, p / 0.9).b)
    * smoothstep(0.45, 0.6, texture(uNoise, p / 6.3).a);
  vec2 drawn = vec2(0.825 * p.x + 0.565 * p.y, 0.825 * p.y - 0.565 * p.x);
  vec2 turned = vec2(0.825 * p.x - 0.565 * p.y, 0.565 * p.x + 0.825 * p.y);
  float drift = 0.4 * texture(uNoise, turned / 171.0).a
    + 0.38 * texture(uNoise, drawn / vec2(93.0, 31.0)).b + 0.22 * texture(uNoise, p / 5.3).r;
  float bare = 0.78 - 0.6 * uIceSet.y;
  float snow = uIceSet.y > 0.0 ? smoothstep(bare, bare + 0.09, drift) : 0.0;
  float grey = 0.34 * clamp(thick / 0.9, 0.0, 1.0);
  float white = max(grey, uIceSet.z * max(0.75 * cracks, 0.5 * bubbles));
  ice = vec3(frozen, max(white, snow) * frozen, snow * frozen);
  }
  return ice;
}
`;
