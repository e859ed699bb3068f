/** What was drawn before a water is: the water bends and dims it. */
import * as THREE from "three";

export function behindUniforms() {
  return {
    uBehind: { value: null as THREE.Texture | null },
    uBehindIs: { value: new THREE.Vector4(1, 1, 1, 1) },
    uKept: { value: null as THREE.Texture | null },
  };
}

export class Behind {
  private picture: THREE.FramebufferTexture | null = null;

  constructor(private readonly uniforms: ReturnType<typeof behindUniforms>) {}

  /** Keeps what a target holds now; `width` and `height` of it are drawn. */
  take(
    renderer: THREE.WebGLRenderer,
    from: THREE.WebGLRenderTarget,
    width: number,
    height: number,
  ) {
    const picture = this.ofSize(from.width, from.height);
    renderer.setRenderTarget(from);
    renderer.copyFramebufferToTexture(picture);
    this.uniforms.uBehindIs.value.set(1 / from.width, 1 / from.height, width, height);
  }

  /** What a frame before showed, for waters that are not shaded anew. */
  keep(frame: THREE.Texture | null) {
    this.uniforms.uKept.value = frame;
  }

  private ofSize(width: number, height: number): THREE.FramebufferTexture {
    const { width: w, height: h } = (this.picture?.image ?? {}) as {
      width: number;
      height: number;
    };
    if (this.picture && w === width && h === height) return this.picture;
    this.picture?.dispose();
    this.picture = new THREE.FramebufferTexture(width, height);
    this.picture.type = THREE.HalfFloatType;
    this.picture.minFilter = this.picture.magFilter = THREE.LinearFilter;
    this.uniforms.uBehind.value = this.picture;
    return this.picture;
  }
}
