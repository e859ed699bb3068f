/** The sky behind everything. */
import * as THREE from "three";
import { COMMON } from "./glsl";
import { BEARINGS, type Horizon } from "./horizon";

/**
 * The sky from the horizon to the zenith, in two: a quick one while something moves, and a fine one
 * at rest. What the land covers in any case is not worked out: haze alone lies there, as it shows
 * through the finest gaps between patches.
 */
export class Sky {
  readonly group = new THREE.Group();
  private readonly ways = new THREE.BufferAttribute(new Float32Array(3 * RINGS * BEARINGS), 3);
  private readonly dome = strips(this.ways, [...UPWARD, ...DOWNWARD]);
  private readonly quick: THREE.Mesh;
  private readonly fine: THREE.Mesh;
  private readonly below: THREE.Mesh;

  constructor(shared: Record<string, THREE.IUniform>) {
    this.ways.setUsage(THREE.DynamicDrawUsage);
    this.quick = skyMesh(this.dome, shared, OPEN);
    this.fine = skyMesh(this.dome, shared, `#define FINE\n${OPEN}`);
    this.below = skyMesh(strips(this.ways, DOWNWARD), shared, COVERED);
    this.group.add(this.below, this.quick, this.fine);
    this.over(null);
    this.moves(false);
  }

  /** All is drawn where there is no horizon. */
  over(horizon: Horizon | null) {
    laid(this.ways.array as Float32Array, horizon?.skyline() ?? null);
    this.ways.needsUpdate = true;
    const whole = this.dome.index!.count;
    this.dome.setDrawRange(0, horizon ? whole / 2 : whole);
    this.below.visible = !!horizon;
  }

  /** Which of the two is drawn from now on. */
  moves(on: boolean) {
    this.quick.visible = on;
    this.fine.visible = !on;
  }
}

/**
 * Rings between the skyline and either pole. A direction at right angles to the eye's has no place
 * on its picture, and what reaches there is not drawn: with so many it is out of sight.
 */
const STEPS = 5;
const RINGS = 2 * STEPS + 1; // the skyline first, then upward, then downward
const UPWARD = Array.from({ length: STEPS }, (_, k) => [k, k + 1]);
const DOWNWARD = Array.from({ length: STEPS }, (_, k) => [k ? STEPS + k : 0, STEPS + k + 1]);

/** Fills in the directions of all rings about a skyline, or about a level one. */
function laid(ways: Float32Array, skyline: Float32Array | null) {
  for (let i = 0; i < BEARINGS; i++) {
    const all = (2 * Math.PI * i) / (BEARINGS - 1);
    const bearing = skyline ? Math.atan2(skyline[3 * i], skyline[3 * i + 1]) : all;
    const line = skyline ? Math.atan(skyline[3 * i + 2]) : 0;
    for (let ring = 0; ring < RINGS; ring++) {
      const k = ring <= STEPS ? ring : STEPS - ring;
      const up = line + (Math.abs(k) / STEPS) * ((k < 0 ? -1 : 1) * (Math.PI / 2) - line);
      const at = 3 * (ring * BEARINGS + i);
      ways[at] = Math.sin(bearing) * Math.cos(up);
      ways[at + 1] = Math.cos(bearing) * Math.cos(up);
      ways[at + 2] = Math.sin(up);
    }
  }
}

/** Squares between rings of directions. */
function strips(ways: THREE.BufferAttribute, pairs: number[][]): THREE.BufferGeometry {
  const index: number[] = [];
  for (const [one, other] of pairs)
    for (let i = 0; i < BEARINGS - 1; i++) {
      const [a, b] = [one * BEARINGS + i, other * BEARINGS + i];
      index.push(a, a + 1, b, b, a + 1, b + 1);
    }
  return new THREE.BufferGeometry().setAttribute("position", ways).setIndex(index);
}

const OPEN = /* glsl */ `
in vec3 vRay;
out vec4 outColour;
void main() {
  vec3 d = normalize(vRay);
#ifdef FINE
  vec3 c = skySmooth(d);
#else
  vec3 c = skyAt(d);
#endif
  if (d.z > 0.0) c += sunDisc(d) * exp(-uHaze.x * uHaze.y / sqrt(d.z * d.z + 0.002));
#ifdef MISTS
  float clear = exp(-mistDepth(uEye, uEye + d * 6000.0));
  c = c * clear + hazeTone(d) * (1.0 - clear);
#endif
#ifdef SHAFTS
  float passes = exp(-uHaze.x * uHaze.y / sqrt(max(d.z, 0.0) * max(d.z, 0.0) + 0.002));
  vec3 tone = hazeTone(d);
  c += (shafted(tone, d * 900.0, 900.0) - tone) * (1.0 - passes);
#endif
#ifdef UNDER
  if (under(d)) c = ownUnder(d);
#endif
  outColour = vec4(c, 60000.0); // farther than anything
}
`;

const COVERED = /* glsl */ `
in vec3 vRay;
out vec4 outColour;
void main() {
  outColour = vec4(hazeTone(normalize(vRay)), 60000.0);
}
`;

function skyMesh(
  dome: THREE.BufferGeometry,
  shared: Record<string, THREE.IUniform>,
  fragment: string,
): THREE.Mesh {
  const material = new THREE.ShaderMaterial({
    glslVersion: THREE.GLSL3,
    uniforms: shared,
    depthWrite: false,
    depthTest: true,
    side: THREE.DoubleSide,
    vertexShader: /* glsl */ `
out vec3 vRay;
void main() {
  vRay = position;
  gl_Position = (projectionMatrix * vec4(mat3(viewMatrix) * position, 0.0)).xyww;
}
`,
    fragmentShader: COMMON + fragment,
  });
  const mesh = new THREE.Mesh(dome, material);
  mesh.frustumCulled = false;
  mesh.renderOrder = 5; // after the ground, so that hidden sky costs nothing
  return mesh;
}
