/** The sky behind everything. */
import * as THREE from "three";
import { COMMON } from "./glsl";

/** Two of the sky: a quick one while something moves, and a fine one at rest. */
export class Sky {
  readonly group = new THREE.Group();
  private readonly quick: THREE.Mesh;
  private readonly fine: THREE.Mesh;

  constructor(shared: Record<string, THREE.IUniform>) {
    this.quick = skyMesh(shared, {});
    this.fine = skyMesh(shared, { FINE: 1 });
    this.group.add(this.quick, this.fine);
    this.moves(false);
  }

  /** Which of the two is drawn from now on. */
  moves(on: boolean) {
    this.quick.visible = on;
    this.fine.visible = !on;
  }
}

function skyMesh(
  shared: Record<string, THREE.IUniform>,
  defines: Record<string, number>,
): THREE.Mesh {
  const material = new THREE.ShaderMaterial({
    glslVersion: THREE.GLSL3,
    uniforms: shared,
    defines,
    depthWrite: false,
    depthTest: true,
    vertexShader: /* glsl */ `
out vec3 vRay;
void main() {
  mat4 m = projectionMatrix;
  vec2 aside = (position.xy + vec2(m[2][0], m[2][1])) / vec2(m[0][0], m[1][1]);
  vRay = transpose(mat3(viewMatrix)) * vec3(aside, -1.0);
  gl_Position = vec4(position.xy, 1.0, 1.0);
}
`,
    fragmentShader: /* glsl */ `${COMMON}
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
`,
  });
  const mesh = new THREE.Mesh(new THREE.PlaneGeometry(2, 2), material);
  mesh.frustumCulled = false;
  mesh.renderOrder = 5; // after the ground, so that hidden sky costs nothing
  return mesh;
}
