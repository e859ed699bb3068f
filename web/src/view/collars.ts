/** Foam around what stands in the water, as the core has it (src/sow/core/water/around.py). */
import * as THREE from "three";
import { COMMON } from "./glsl";
import type { Uniforms } from "./uniforms";
import type { WaterSpec } from "./waterSpec";

const VERTEX = /* glsl */ `${COMMON}
in vec4 disc; // east, north, radius, level
in vec2 foams; // reach, amount
out vec3 vPlace;
out vec4 vDisc;
out vec2 vFoams;
void main() {
  vDisc = disc;
  vFoams = foams;
  vPlace = vec3(disc.xy + position.xy * (disc.z + 3.5 * foams.x),
    disc.w + 0.012 + 0.06 * min(foams.x, 0.7));
  gl_Position = projectionMatrix * viewMatrix * vec4(vPlace, 1.0);
}
`;

const FRAGMENT = /* glsl */ `${COMMON}
in vec3 vPlace;
in vec4 vDisc;
in vec2 vFoams;
out vec4 outColour;
uniform float uBeat;
void main() {
  float off = max(distance(vPlace.xy, vDisc.xy) - vDisc.z, 0.0);
  float swell = 0.65 + 0.35 * sin(uBeat * uTime + mod(vDisc.x * 1.7 + vDisc.y * 2.3, 6.2831853));
  float foam = min(vFoams.y * swell * exp(-off / (vFoams.x * (0.6 + 0.4 * swell))), 1.0);
  vec2 p = vPlace.xy * 3.0;
  float a = 1.0 - abs(2.0 * texture(uNoise, p / 6.7).r - 0.94) * 2.6;
  float b = 1.0 - abs(2.0 * texture(uNoise, p.yx / 2.3).g - 0.94) * 2.6;
  foam = clamp((max(a, 0.6 * b + 0.4 * a) - 1.0 + 1.5 * foam) * 1.7, 0.0, 1.0)
    * smoothstep(0.0, 0.12, foam);
  if (foam < 0.01) discard;
  vec3 up = vec3(0.0, 0.0, 1.0);
  vec3 white = 0.72 * (uSunLight * max(uSun.z, 0.0) * sunAt(vPlace) + skyLight(up));
  outColour = vec4(hazed(white, vPlace) * foam, foam);
}
`;

/** Collars of foam, none of them laid yet. */
export class Collars {
  readonly mesh: THREE.Mesh;
  private readonly own = { uBeat: { value: 1 } };

  constructor(shared: Uniforms) {
    const material = new THREE.ShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: VERTEX,
      fragmentShader: FRAGMENT,
      uniforms: { ...shared, ...this.own },
      transparent: true,
      depthWrite: false,
      blending: THREE.CustomBlending,
      blendSrc: THREE.OneFactor,
      blendDst: THREE.OneMinusSrcAlphaFactor,
    });
    this.mesh = new THREE.Mesh(new THREE.BufferGeometry(), material);
    this.mesh.frustumCulled = false;
    this.mesh.visible = false;
  }

  /** Around discs (east, north, radius, level, reach, amount of each), or around nothing. */
  lay(around: WaterSpec["around"], period: number) {
    this.mesh.visible = !!around;
    if (!around) return;
    const g = new THREE.InstancedBufferGeometry();
    const corners = new Float32Array([-1, -1, 0, 1, -1, 0, 1, 1, 0, -1, 1, 0]);
    g.setAttribute("position", new THREE.BufferAttribute(corners, 3));
    g.setIndex([0, 1, 2, 0, 2, 3]);
    const told = new THREE.InstancedInterleavedBuffer(around, 6);
    g.setAttribute("disc", new THREE.InterleavedBufferAttribute(told, 4, 0));
    g.setAttribute("foams", new THREE.InterleavedBufferAttribute(told, 2, 4));
    g.instanceCount = around.length / 6;
    this.mesh.geometry.dispose();
    this.mesh.geometry = g;
    this.own.uBeat.value = (2 * Math.PI) / period;
  }
}
