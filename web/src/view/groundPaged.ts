/**
 * Pages of the ground's look: squares of PAGE texels, each laid once for its place and its fineness
 * and kept while the eye turns. A table tells for each square of each level where its page lies.
 */

/** Texels a side of a page; the outermost on each side belong to its neighbours. */
export const PAGE = 64;
export const INNER = PAGE - 2;
/** Squares of a level that the table holds, each way; it runs round where the eye goes on. */
export const CELLS = 32;
/** Metres that a page of the finest level covers. */
export const FINEST_M = 0.5;
export const LEVELS = 15;
/** Levels by which what is drawn is finer than a pixel asks: halves of a pixel are summed. */
const SHARPER = 0.8;

export const PAGED = /* glsl */ `
struct Look {
  vec3 albedo;
  vec3 bump;
  float rough;
  float occlusion;
};
uniform sampler2D uPages0, uPages1; // square root of colour with roughness; bump with occlusion
uniform sampler2D uTable; // page column + 1, page row, the square's place above the table's
uniform sampler2D uGroundTone;
uniform float uAtlas; // texels a side

bool pageAt(int level, vec2 p, out vec2 at) {
  vec2 b = p / (${FINEST_M.toFixed(1)} * exp2(float(level)));
  ivec2 block = ivec2(floor(b));
  ivec2 cell = block & ${CELLS - 1};
  vec4 e = floor(texelFetch(uTable, ivec2(cell.x, cell.y + ${CELLS} * level), 0) * 255.0 + 0.5);
  ivec2 above = (block >> 5) & 255;
  if (e.x < 0.5 || int(e.z) != above.x || int(e.w) != above.y) return false;
  vec2 inside = 1.0 + fract(b) * ${INNER.toFixed(1)};
  at = (vec2(e.x - 1.0, e.y) * ${PAGE.toFixed(1)} + inside) / uAtlas;
  return true;
}

Look readPage(vec2 at) {
  vec4 c = textureLod(uPages0, at, 0.0);
  vec4 b = textureLod(uPages1, at, 0.0);
  return Look(c.rgb * c.rgb, b.rgb * 2.0 - 1.0, c.a, b.a);
}

/** The look at a place, where a pixel is \`fine\` m wide; the mean tone where no page is there. */
Look pagedLook(vec2 place, vec2 uv, float fine) {
  float lod = log2(fine * ${(INNER / FINEST_M).toFixed(1)}) - ${SHARPER.toFixed(1)};
  lod = clamp(lod, 0.0, ${(LEVELS - 1).toFixed(1)});
  int wanted = int(lod);
  vec2 at;
  int k = wanted;
  for (; k < ${LEVELS}; k++) if (pageAt(k, place, at)) break;
  Look look;
  if (k >= ${LEVELS}) {
    vec3 tone = texture(uGroundTone, uv).rgb;
    float m = strewn(drifted(place), 61.0, log2(fine * 256.0)).r;
    look = Look(tone * tone * (0.75 + 0.5 * m), vec3(0.0), 0.9, 1.0);
  }
  if (k < ${LEVELS}) look = readPage(at);
  float more = lod - float(wanted);
  if (k == wanted && more > 0.02 && k + 1 < ${LEVELS} && pageAt(k + 1, place, at)) {
    Look other = readPage(at);
    look.albedo = mix(look.albedo, other.albedo, more);
    look.bump = mix(look.bump, other.bump, more);
    look.rough = mix(look.rough, other.rough, more);
    look.occlusion = mix(look.occlusion, other.occlusion, more);
  }
  return look;
}
`;
