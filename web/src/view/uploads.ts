/** Textures that are sent to the renderer one by one, the page's thread being free in between. */
import * as THREE from "three";
import { pause } from "./products";

const drawnInto = (t: THREE.Texture) =>
  t.isRenderTargetTexture ||
  t instanceof THREE.FramebufferTexture ||
  t instanceof THREE.DepthTexture;

/** The textures that materials below some objects ask for. */
function texturesOf(roots: THREE.Object3D[]): Set<THREE.Texture> {
  const out = new Set<THREE.Texture>();
  const visit = (o: THREE.Object3D) => {
    const m = (o as THREE.Mesh).material;
    if (!(m instanceof THREE.ShaderMaterial)) return;
    for (const { value } of Object.values(m.uniforms))
      if (value instanceof THREE.Texture && !drawnInto(value)) out.add(value);
  };
  for (const root of roots) root.traverse(visit);
  return out;
}

export class Uploads {
  private readonly sent = new WeakMap<THREE.Texture, number>();

  constructor(private readonly renderer: THREE.WebGLRenderer) {}

  /** Sends what is new of the textures below some objects. */
  async send(roots: THREE.Object3D[]): Promise<void> {
    for (const t of texturesOf(roots)) {
      if (!t.version || this.sent.get(t) === t.version) continue;
      this.sent.set(t, t.version);
      this.renderer.initTexture(t);
      await pause();
    }
  }
}
