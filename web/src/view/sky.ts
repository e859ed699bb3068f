/** The sky behind everything. */
import * as THREE from "three";
import { COMMON } from "./glsl";
import { BEARINGS, type Horizon } from "./horizon";

/**
 * The sky as a fan from the horizon to the zenith, in two: a quick one while something moves, and a
 * fine one at rest. What the land covers in any case is not worked out: haze alone lies there, as
 * it shows through the finest gaps between patches.
 */
export class Sky {
  readonly group = new THREE.Group();
  private readonly ways = new THREE.BufferAttribute(new Float32Array(3 * (BEARINGS + 2)), 3);
  private readonly dome = fans(this.ways, [BEARINGS, BEARINGS + 1]);
  private readonly quick: THREE.Mesh;
  private readonly fine: THREE.Mesh;
  private readonly below: THREE.Mesh;

  constructor(shared: Record<string, THREE.IUniform>) {
    this.ways.setUsage(THREE.DynamicDrawUsage);
    this.ways.setXYZ(BEARINGS, 0, 0, 1);
    this.ways.setXYZ(BEARINGS + 1, 0, 0, -1);
    this.quick = skyMesh(this.dome, shared, OPEN);
    this.fine = skyMesh(this.dome, shared, `#define FINE\n${OPEN}`);
    this.below = skyMesh(fans(this.ways, [BEARINGS + 1]), shared, COVERED);
    this.group.add(this.below, this.quick, this.fine);
    this.over(null);
    this.moves(false);
  }

  /** All is drawn where there is no horizon. */
  over(horizon: Horizon | null) {
    (this.ways.array as Float32Array).set(horizon?.skyline() ?? AROUND);
    this.ways.needsUpdate = true;
    this.dome.setDrawRange(0, 3 * (BEARINGS - 1) * (horizon ? 1 : 2));
    this.below.visible = !!horizon;
  }

  /** Which of the two is drawn from now on. */
  moves(on: boolean) {
    this.quick.visible = on;
    this.fine.visible = !on;
  }
}

/** Directions all around, level. */
const AROUND = new Float32Array(
  Array.from({ length: BEARINGS }, (_, i) => (2 * Math.PI * i) / (BEARINGS - 1)).flatMap((a) => [
    Math.sin(a),
    Math.cos(a),
    0,
  ]),
);

/** Triangles from each of these directions to the next, and to each tip. */
function fans(ways: THREE.BufferAttribute, tips: number[]): THREE.BufferGeometry {
  const index: number[] = [];
  for (const tip of tips) for (let i = 0; i < BEARINGS - 1; i++) index.push(i, i + 1, tip);
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
