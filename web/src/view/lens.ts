/**
 * What a lens leaves unsharp: each place is spread over its circle of confusion, as by a thin lens
 * (core/shots/shot.py), by how far the picture's alpha says it is.
 */
import * as THREE from "three";
import { QUAD } from "./glsl";
import { target } from "./targets";

const MOST_PX = 18; // radius of the widest circle
const TAPS = 36;

/** Radius of the opening and the distance along the axis that is sharp, m; focal length, mm. */
export interface Lens {
  opening_m: number;
  focus_m: number;
  focal_mm: number;
}

const SPREAD = /* glsl */ `precision highp float;
in vec2 vUv;
in vec2 vAt;
out vec4 outColour;
uniform sampler2D uPicture; // alpha: how far it is
uniform float uFrames;
uniform vec2 uPixel;
uniform vec2 uSlope; // of the looks to the right and upper edge
uniform vec3 uLens; // pixels of radius for each 1/m of defocus, 1/m of the focus, widest
vec4 seen(vec2 uv) {
  vec4 c = texture(uPicture, uv) / uFrames;
  c.a *= inversesqrt(1.0 + dot((vAt * 2.0 - 1.0) * uSlope, (vAt * 2.0 - 1.0) * uSlope));
  return c;
}
float circle(float far) {
  return min(uLens.x * abs(1.0 / max(far, 0.05) - uLens.y), uLens.z);
}
void main() {
  vec4 own = seen(vUv);
  float mine = circle(own.a);
  float area = max(mine * mine, 0.5);
  vec3 sum = own.rgb / area;
  float whole = 1.0 / area;
  for (int i = 0; i < ${TAPS}; i++) {
    float away = uLens.z * sqrt((float(i) + 0.5) / ${TAPS.toFixed(1)});
    float turn = float(i) * 2.39996323;
    vec4 c = seen(vUv + away * vec2(cos(turn), sin(turn)) * uPixel);
    float reach = circle(c.a);
    // what lies behind does not spread over what is sharp before it
    if (c.a > own.a) reach = min(reach, mine);
    float w = smoothstep(away - 1.0, away + 0.5, reach) / max(reach * reach, 0.5);
    sum += w * c.rgb;
    whole += w;
  }
  outColour = vec4(sum / whole, own.a);
}`;

export class LensBlur {
  private readonly material = new THREE.ShaderMaterial({
    glslVersion: THREE.GLSL3,
    vertexShader: QUAD,
    fragmentShader: SPREAD,
    depthTest: false,
    depthWrite: false,
    uniforms: {
      uPicture: { value: null },
      uPart: { value: new THREE.Vector2(1, 1) },
      uFrames: { value: 1 },
      uPixel: { value: new THREE.Vector2() },
      uSlope: { value: new THREE.Vector2() },
      uLens: { value: new THREE.Vector3() },
    },
  });
  private readonly quad = new THREE.Mesh(new THREE.PlaneGeometry(2, 2), this.material);
  private readonly scene = new THREE.Scene();
  private readonly camera = new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 1);
  private picture = target(1, 1, false);

  constructor(private readonly renderer: THREE.WebGLRenderer) {
    this.quad.frustumCulled = false;
    this.scene.add(this.quad);
  }

  /** Made ready for a sum of frames as an eye saw it; gives what to draw into. */
  begin(
    from: THREE.WebGLRenderTarget,
    frames: number,
    eye: THREE.PerspectiveCamera,
    lens: Lens,
  ): THREE.WebGLRenderTarget {
    const { width, height } = from;
    if (this.picture.width !== width || this.picture.height !== height) {
      this.picture.dispose();
      this.picture = target(width, height, false);
    }
    const u = this.material.uniforms;
    const up = Math.tan((eye.fov * Math.PI) / 360);
    // of a frame 36 mm wide
    const px = (lens.opening_m * (lens.focal_mm / 1000) * width) / 0.036;
    const near = px * Math.max(1 / 0.5 - 1 / lens.focus_m, 1 / lens.focus_m);
    u.uPicture.value = from.texture;
    u.uFrames.value = frames;
    u.uPixel.value.set(1 / width, 1 / height);
    u.uSlope.value.set(up * eye.aspect, up);
    u.uLens.value.set(px, 1 / lens.focus_m, Math.min(Math.max(near, 0.5), MOST_PX));
    return this.picture;
  }

  draw() {
    this.renderer.render(this.scene, this.camera);
  }
}
