/**
 * What shaders must be able to do just now: to be in water, to show shafts, mists, lamps, to sway.
 * A renderer without a card runs every branch of a shader for every pixel, so what nobody asks for
 * is left out of the program.
 */
import * as THREE from "three";

export type Feature = "UNDER" | "SHAFTS" | "MISTS" | "LAMPS" | "WIND";

export class Features {
  private readonly on = new Set<Feature>();
  /** Hears that programs change. */
  onChange: () => void = () => {};

  set(feature: Feature, on: boolean) {
    if (this.on.has(feature) === on) return;
    if (on) this.on.add(feature);
    else this.on.delete(feature);
    this.onChange();
  }

  /** Every material below an object has them from now on. */
  dress(root: THREE.Object3D) {
    const key = [...this.on].sort().join();
    root.traverse((o) => {
      const m = (o as THREE.Mesh).material;
      if (m instanceof THREE.ShaderMaterial && m.userData.features !== key) this.wear(m, key);
    });
  }

  private wear(m: THREE.ShaderMaterial, key: string) {
    m.userData.own ??= { ...m.defines };
    m.userData.features = key;
    m.defines = { ...m.userData.own };
    for (const feature of this.on) m.defines[feature] = 1;
    m.needsUpdate = true;
  }

  /** A material has other features of its own; true when that is new. */
  static own(m: THREE.ShaderMaterial, defines: Record<string, number>): boolean {
    m.userData.own ??= { ...m.defines };
    if (JSON.stringify(m.userData.own) === JSON.stringify(defines)) return false;
    m.userData.own = defines;
    m.userData.features = undefined;
    m.defines = { ...defines };
    m.needsUpdate = true;
    return true;
  }
}
