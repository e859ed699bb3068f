/** What is drawn into. */
import * as THREE from "three";

/** A half float target, as light is drawn into. */
export function target(width: number, height: number, depth: boolean): THREE.WebGLRenderTarget {
  return new THREE.WebGLRenderTarget(width, height, {
    type: THREE.HalfFloatType,
    depthBuffer: depth,
    minFilter: THREE.LinearFilter,
    magFilter: THREE.LinearFilter,
  });
}

/** A float target, as frames are summed in. */
export function sumTarget(width: number, height: number): THREE.WebGLRenderTarget {
  return new THREE.WebGLRenderTarget(width, height, { type: THREE.FloatType, depthBuffer: false });
}

/** A byte target without depth, as a finished picture is read from. */
export function byteTarget(width: number, height: number): THREE.WebGLRenderTarget {
  return new THREE.WebGLRenderTarget(width, height, { depthBuffer: false });
}
