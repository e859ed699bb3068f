/** From the light that was drawn to a picture: frames summed, exposed, and written as sRGB. */
import * as THREE from "three";
import { type Bloom, Blooms } from "./bloom";
import { DEVELOP, MOST_SPREAD, QUAD } from "./glsl";
import { byteTarget } from "./targets";

const COPY = `precision highp float; in vec2 vUv; out vec4 outColour; uniform sampler2D uPicture;
void main() { outColour = texture(uPicture, vUv); }`;

function pass(fragmentShader: string, uniforms: Record<string, THREE.IUniform>) {
  return new THREE.ShaderMaterial({
    glslVersion: THREE.GLSL3,
    vertexShader: QUAD,
    fragmentShader,
    depthTest: false,
    depthWrite: false,
    uniforms: {
      uPicture: { value: null },
      uPart: { value: new THREE.Vector2(1, 1) },
      ...uniforms,
    },
  });
}

/** The film's table; its light is even where it is not there yet. */
function filmTexture(data: Uint8Array, side: number): THREE.Data3DTexture {
  const t = new THREE.Data3DTexture(data as Uint8Array<ArrayBuffer>, side, side, side);
  t.minFilter = t.magFilter = THREE.LinearFilter;
  t.needsUpdate = true;
  return t;
}

/**
 * Stops and beginning of corners that darken; amount and size of grain, all as parts of one; light
 * that spreads.
 */
export interface Spread {
  vignettes: [number, number][];
  grains: [number, number][];
  bloom: Bloom | null;
}

const pairs = () => Array.from({ length: MOST_SPREAD }, () => new THREE.Vector2());

export class Developer {
  readonly exposure = new THREE.Vector3(1, 1, 1);
  private readonly film = pass(DEVELOP, {
    uExposure: { value: this.exposure },
    uFrames: { value: 1 },
    uFilm: { value: filmTexture(new Uint8Array(8 * 4).fill(128), 2) },
    uFrame: { value: new THREE.Vector2(1, 1) },
    uVignettes: { value: pairs() },
    uGrains: { value: pairs() },
    uSpread: { value: new THREE.Vector2() },
    uBloom: { value: null },
    uBloomSet: { value: new THREE.Vector2() },
  });
  private readonly blooms = new Blooms();
  private bloom: Bloom | null = null;
  private readonly adder = pass(COPY, {});
  private readonly enlarger = pass(COPY, {});
  private small = byteTarget(1, 1);
  private readonly quad = new THREE.Mesh(new THREE.PlaneGeometry(2, 2));
  private readonly camera = new THREE.OrthographicCamera(-1, 1, 1, -1, 0, 1);
  private readonly scene = new THREE.Scene();

  constructor(private readonly renderer: THREE.WebGLRenderer) {
    this.adder.transparent = true;
    this.adder.blending = THREE.CustomBlending;
    this.adder.blendSrc = THREE.OneFactor;
    this.adder.blendDst = THREE.OneFactor;
    this.quad.frustumCulled = false;
    this.scene.add(this.quad);
  }

  /** The core's film: RGBA bytes of a cube. */
  setFilm(data: ArrayBuffer) {
    const u = this.film.uniforms.uFilm;
    u.value.dispose();
    u.value = filmTexture(new Uint8Array(data), Math.round(Math.cbrt(data.byteLength / 4)));
  }

  /** What a grade does beyond the pixel itself: corners that darken, and grain. */
  setSpread({ vignettes, grains, bloom }: Spread) {
    this.bloom = bloom;
    const u = this.film.uniforms;
    for (const [into, from] of [
      [u.uVignettes.value, vignettes],
      [u.uGrains.value, grains],
    ] as [THREE.Vector2[], [number, number][]][])
      from.slice(0, MOST_SPREAD).forEach((pair, i) => into[i].fromArray(pair));
    const most = (list: unknown[]) => Math.min(list.length, MOST_SPREAD);
    u.uSpread.value.set(most(vignettes), most(grains));
  }

  private run(material: THREE.ShaderMaterial, to: THREE.WebGLRenderTarget | null) {
    this.quad.material = material;
    this.renderer.setRenderTarget(to);
    this.renderer.render(this.scene, this.camera);
  }

  private readonly empty = (t: THREE.WebGLRenderTarget) => {
    this.renderer.setRenderTarget(t);
    this.renderer.setClearColor(0, 0);
    this.renderer.clear();
  };

  /** An empty sum. */
  begin(sum: THREE.WebGLRenderTarget) {
    this.empty(sum);
  }

  /** One more frame in a sum. */
  add(picture: THREE.WebGLRenderTarget, sum: THREE.WebGLRenderTarget) {
    this.adder.uniforms.uPicture.value = picture.texture;
    this.run(this.adder, sum);
  }

  /** As `show` on the canvas, but developed in as many pixels as the part has, then enlarged. */
  enlarge(from: THREE.WebGLRenderTarget, frames: number, part: THREE.Vector2) {
    const width = Math.max(1, Math.round(from.width * part.x));
    const height = Math.max(1, Math.round(from.height * part.y));
    if (this.small.width !== width || this.small.height !== height) {
      this.small.dispose();
      this.small = byteTarget(width, height);
      this.small.texture.minFilter = this.small.texture.magFilter = THREE.LinearFilter;
    }
    this.show(from, frames, this.small, part);
    this.enlarger.uniforms.uPicture.value = this.small.texture;
    this.run(this.enlarger, null);
  }

  /** What was drawn, or a sum of `frames`, exposed and written; `part` of it is used. */
  show(
    from: THREE.WebGLRenderTarget,
    frames: number,
    to: THREE.WebGLRenderTarget | null,
    part?: THREE.Vector2,
  ) {
    const u = this.film.uniforms;
    u.uPicture.value = from.texture;
    u.uFrames.value = frames;
    u.uPart.value.set(part?.x ?? 1, part?.y ?? 1);
    const view = to ? to.viewport : this.renderer.getViewport(new THREE.Vector4());
    u.uFrame.value.set(view.z, view.w);
    u.uBloomSet.value.set(this.bloom?.amount ?? 0, this.bloom?.above ?? 0);
    if (this.bloom) {
      const seen = { picture: from.texture, frames, part: u.uPart.value, exposure: this.exposure };
      const run = this.run.bind(this);
      u.uBloom.value = this.blooms.of(run, this.empty, seen, this.bloom, view.z, view.w);
    }
    this.run(this.film, to);
    u.uPart.value.set(1, 1);
  }
}
