/** The materials that land is drawn in. */
import * as THREE from "three";
import { DIRECT, FAR, KEPT, VERTEX } from "./landShader";
import type { Uniforms } from "./uniforms";

function material(
  fragmentShader: string,
  uniforms: Uniforms,
  defines: Record<string, number>,
): THREE.ShaderMaterial {
  return new THREE.ShaderMaterial({
    glslVersion: THREE.GLSL3,
    vertexShader: VERTEX,
    fragmentShader,
    uniforms,
    defines,
  });
}

/** The plot for the view, from the pages of its look. */
export const keptLand = (uniforms: Uniforms) => material(KEPT, uniforms, {});

/** The plot for stills, its materials laid at every pixel. */
export const directLand = (uniforms: Uniforms, soft: boolean): THREE.ShaderMaterial =>
  material(DIRECT, uniforms, soft ? { SOFT: 1 } : {});

/** A ring of far land; `cut` where what is finer lies within it. */
export const farLand = (uniforms: Uniforms, cut: boolean): THREE.ShaderMaterial =>
  material(FAR, uniforms, cut ? { FAR: 1, CUT: 1 } : { FAR: 1 });
