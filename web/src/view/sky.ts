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
  vec4 p = inverse(projectionMatrix) * vec4(position.xy, 1.0, 1.0);
  vRay = transpose(mat3(viewMatrix)) * (p.xyz / p.w);
  gl_Position = vec4(position.xy, 1.0, 1.0);
}
`,
    fragmentShader: /* glsl */ `${COMMON}
in vec3 vRay;
out vec4 outColour;
void main() {
  vec3 d = normalize(vRay);
  vec3 c = skyAt(d, true);
  float s = dot(d, uSun);
  float hide = s > 0.98 ? clouds(d).a : 0.0; // the sun's glow reaches no farther
  c += uSunLight * (smoothstep(0.99993, 0.99997, s) * 30.0 + pow(max(s, 0.0), 900.0) * 1.2)
    * (1.0 - 0.9 * hide) * step(0.0, d.z);
  outColour = vec4(c, 1.0);
}
`,
  });
  const mesh = new THREE.Mesh(new THREE.PlaneGeometry(2, 2), material);
  mesh.frustumCulled = false;
  mesh.renderOrder = 5; // after the ground, so that hidden sky costs nothing
  return mesh;
}
