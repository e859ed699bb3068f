/** The sky behind everything. */
import * as THREE from "three";
import { COMMON } from "./glsl";

export function skyMesh(shared: Record<string, THREE.IUniform>): THREE.Mesh {
  const material = new THREE.ShaderMaterial({
    glslVersion: THREE.GLSL3,
    uniforms: shared,
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
  vec3 c = skySmooth(d);
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
