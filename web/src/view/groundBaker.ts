/** Lays pages of the ground's look into an atlas of two textures. */
import * as THREE from "three";
import { COMMON, QUAD } from "./glsl";
import { LOOK } from "./groundLook";
import { FINEST_M, INNER, PAGE } from "./groundPaged";
import type { GroundPages, PageWish } from "./groundPages";
import type { Uniforms } from "./uniforms";

const FOCAL_PX = 700; // of the eye that a page is laid for
/** How much longer the eye's step is along the ground than a page's texel, as a rule. */
const STRETCH = 1.8;

const BAKE = /* glsl */ `${COMMON}${LOOK}
layout(location = 0) out vec4 outLook;
layout(location = 1) out vec4 outBump;
uniform vec4 uPage; // west and south of its own texels (m), a texel (m)
uniform vec2 uCorner; // its lower left corner in the atlas
void main() {
  vec2 place = uPage.xy + (gl_FragCoord.xy - uCorner - 1.0) * uPage.z;
  place = clamp(place, vec2(0.0), uPlot);
  vec2 uv = plotUv(place);
  vec2 nn = texture(uNormals, uv).rg;
  vec3 n = vec3(nn, sqrt(max(1.0 - dot(nn, nn), 0.01)));
  vec3 dpx = vec3(uPage.z, 0.0, -n.x / n.z * uPage.z);
  vec3 dpy = vec3(0.0, uPage.z, -n.y / n.z * uPage.z);
  vec3 at = vec3(place, groundAt(place));
  Look look = composed(at, n, uv, dpx, dpy, uPage.z * ${FOCAL_PX.toFixed(1)}, ${STRETCH});
  outLook = vec4(sqrt(look.albedo), look.rough);
  outBump = vec4(look.bump * 0.5 + 0.5, look.occlusion);
}
`;

export class GroundBaker {
  readonly atlas: THREE.WebGLRenderTarget;
  readonly scene = new THREE.Scene();
  readonly camera = new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 1);
  readonly material: THREE.ShaderMaterial;

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    private readonly pages: GroundPages,
    shared: Uniforms,
    own: Uniforms,
    soft: boolean,
  ) {
    const side = pages.across * PAGE;
    this.atlas = new THREE.WebGLRenderTarget(side, side, {
      count: 2,
      depthBuffer: false,
      minFilter: THREE.LinearFilter,
      magFilter: THREE.LinearFilter,
    });
    this.material = new THREE.ShaderMaterial({
      glslVersion: THREE.GLSL3,
      vertexShader: QUAD,
      fragmentShader: BAKE,
      depthTest: false,
      depthWrite: false,
      uniforms: {
        ...shared,
        ...own,
        uPart: { value: new THREE.Vector2(1, 1) },
        uPage: { value: new THREE.Vector4() },
        uCorner: { value: new THREE.Vector2() },
      },
      defines: soft ? { SOFT: 1 } : {},
    });
    const quad = new THREE.Mesh(new THREE.PlaneGeometry(2, 2), this.material);
    quad.frustumCulled = false;
    this.scene.add(quad);
    own.uPages0.value = this.atlas.textures[0];
    own.uPages1.value = this.atlas.textures[1];
    own.uTable.value = pages.table;
    own.uAtlas.value = side;
  }

  /** Lays one page; false when there is no room. */
  lay(wish: PageWish): boolean {
    const slot = this.pages.place(wish);
    if (slot === null) return false;
    const size = FINEST_M * 2 ** wish.level;
    const x = (slot % this.pages.across) * PAGE;
    const y = Math.floor(slot / this.pages.across) * PAGE;
    const u = this.material.uniforms;
    u.uPage.value.set(wish.column * size, wish.row * size, size / INNER, 0);
    u.uCorner.value.set(x, y);
    this.atlas.viewport.set(x, y, PAGE, PAGE);
    this.atlas.scissor.set(x, y, PAGE, PAGE);
    this.atlas.scissorTest = true;
    this.renderer.setRenderTarget(this.atlas);
    this.renderer.render(this.scene, this.camera);
    return true;
  }
}
