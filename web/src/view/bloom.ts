/**
 * Light that spreads from what is bright, as the grade's step has it (core/picture/grade/steps): a
 * part of what is over a brightness, by gaussians of doubling size, found on a small picture.
 */
import * as THREE from "three";
import { target } from "./targets";
import { QUAD } from "./glsl";

const LESS = 8; // pixels of the picture to one of the small one, each way
const OCTAVES = 4;
const MOST_TAPS = 40;

/** Amount 0..1, size as a part of the width, the light (before the film) over which it spreads. */
export interface Bloom {
  amount: number;
  size: number;
  above: number;
}

const BRIGHT = /* glsl */ `precision highp float;
in vec2 vUv;
out vec4 outColour;
uniform sampler2D uPicture;
uniform vec3 uExposure;
uniform float uFrames;
uniform vec2 uStep; // a pixel of the small picture
uniform vec2 uBloom; // amount, above
void main() {
  vec3 sum = vec3(0.0);
  for (int i = 0; i < 16; i++) {
    vec2 aside = (vec2(float(i & 3), float(i >> 2)) - 1.5) * 0.25;
    vec3 light = texture(uPicture, vUv + aside * uStep).rgb / uFrames * uExposure;
    sum += max(light - uBloom.y, vec3(0.0));
  }
  outColour = vec4(sum / 16.0 * uBloom.x, 1.0);
}`;

const BLUR = /* glsl */ `precision highp float;
in vec2 vUv;
out vec4 outColour;
uniform sampler2D uPicture;
uniform vec2 uStep; // to the next pixel along
uniform float uSigma; // in pixels
uniform float uShare;
void main() {
  vec3 sum = texture(uPicture, vUv).rgb;
  float whole = 1.0;
  int taps = min(int(ceil(3.0 * uSigma)), ${MOST_TAPS});
  for (int i = 1; i <= taps; i++) {
    float w = exp(-0.5 * float(i * i) / (uSigma * uSigma));
    vec2 aside = uStep * float(i);
    sum += w * (texture(uPicture, vUv + aside).rgb + texture(uPicture, vUv - aside).rgb);
    whole += 2.0 * w;
  }
  outColour = vec4(sum / whole * uShare, 1.0);
}`;

function pass(fragmentShader: string, uniforms: Record<string, unknown>, adds = false) {
  const material = new THREE.ShaderMaterial({
    glslVersion: THREE.GLSL3,
    vertexShader: QUAD,
    fragmentShader,
    depthTest: false,
    depthWrite: false,
    uniforms: Object.fromEntries(Object.entries(uniforms).map(([k, value]) => [k, { value }])),
  });
  if (!adds) return material;
  material.transparent = true;
  material.blending = THREE.CustomBlending;
  material.blendSrc = material.blendDst = THREE.OneFactor;
  return material;
}

export type Run = (m: THREE.ShaderMaterial, to: THREE.WebGLRenderTarget) => void;

export class Blooms {
  private readonly bright = pass(BRIGHT, {
    uPicture: null,
    uPart: new THREE.Vector2(1, 1),
    uExposure: new THREE.Vector3(1, 1, 1),
    uFrames: 1,
    uStep: new THREE.Vector2(),
    uBloom: new THREE.Vector2(),
  });
  private readonly along = this.blur(false);
  private readonly across = this.blur(true);
  private small = target(1, 1, false);
  private half = target(1, 1, false);
  private spread = target(1, 1, false);

  private blur(adds: boolean) {
    const own = { uPicture: null, uPart: new THREE.Vector2(1, 1), uStep: new THREE.Vector2() };
    return pass(BLUR, { ...own, uSigma: 1, uShare: 1 }, adds);
  }

  private fit(width: number, height: number) {
    if (this.small.width === width && this.small.height === height) return;
    for (const t of [this.small, this.half, this.spread]) t.dispose();
    [this.small, this.half, this.spread] = [0, 1, 2].map(() => target(width, height, false));
  }

  /** What is spread of a picture that is `width` by `height` on the screen. */
  of(
    run: Run,
    clear: (t: THREE.WebGLRenderTarget) => void,
    from: { picture: THREE.Texture; frames: number; part: THREE.Vector2; exposure: THREE.Vector3 },
    bloom: Bloom,
    width: number,
    height: number,
  ): THREE.Texture {
    this.fit(Math.max(1, Math.ceil(width / LESS)), Math.max(1, Math.ceil(height / LESS)));
    const [nx, ny] = [this.small.width, this.small.height];
    const u = this.bright.uniforms;
    u.uPicture.value = from.picture;
    u.uFrames.value = from.frames;
    u.uPart.value.copy(from.part);
    u.uExposure.value.copy(from.exposure);
    u.uStep.value.set(from.part.x / nx, from.part.y / ny);
    u.uBloom.value.set(bloom.amount, bloom.above);
    run(this.bright, this.small);
    clear(this.spread);
    for (let k = 0; k < OCTAVES; k++) {
      const sigma = Math.max((bloom.size * nx) / 2 ** k, 0.3);
      this.along.uniforms.uPicture.value = this.small.texture;
      this.along.uniforms.uStep.value.set(1 / nx, 0);
      this.across.uniforms.uPicture.value = this.half.texture;
      this.across.uniforms.uStep.value.set(0, 1 / ny);
      this.across.uniforms.uShare.value = 1 / OCTAVES;
      for (const m of [this.along, this.across]) m.uniforms.uSigma.value = sigma;
      run(this.along, this.half);
      run(this.across, this.spread);
    }
    return this.spread.texture;
  }
}
