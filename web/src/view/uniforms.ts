/** The values that the shaders share: of the whole scene, and of the ground alone. */
import * as THREE from "three";
import { behindUniforms } from "./behind";
import { mirrorUniforms } from "./mirror";
import { swashUniforms } from "./swashShader";
import { underUniforms } from "./underWater";
import { floatTexture, pairTexture } from "./textures";

export type Uniforms = Record<string, THREE.IUniform>;

/** Materials that a scene may hold, and pictures of a whole ground among them. */
export const MOST_MATERIALS = 16;
export const MOST_PICTURES = 8;

const many = <T>(count: number, one: () => T) => ({ value: Array.from({ length: count }, one) });

/** A texture that shows nothing, until there is one. */
export function emptyTexture(): THREE.DataTexture {
  const none = new THREE.DataTexture(new Uint8Array([0, 0, 0, 0]), 1, 1);
  none.needsUpdate = true;
  return none;
}

function emptyArray(): THREE.DataArrayTexture {
  const none = new THREE.DataArrayTexture(new Uint8Array(4), 1, 1, 1);
  none.needsUpdate = true;
  return none;
}

/** What land, plants and water all ask: the heights, the light, the shadows, the wind. */
export function sharedUniforms(air: Uniforms): Uniforms {
  const none = emptyTexture();
  const zero = floatTexture(new Float32Array([0]), 1, 1);
  return {
    ...air,
    ...underUniforms(),
    ...behindUniforms(),
    ...mirrorUniforms(),
    ...swashUniforms(),
    uHeights: { value: zero },
    uNormals: { value: none },
    uLandLight: { value: pairTexture(new Float32Array([-1e6, 1]), 1, 1) },
    uFarHeights: { value: zero },
    uGrid: { value: new THREE.Vector4(2, 2, 1, 0) },
    uFarGrid: { value: new THREE.Vector4() },
    uPlot: { value: new THREE.Vector2(1, 1) },
    uShadow0: { value: none },
    uShadow1: { value: none },
    uShadowAt0: { value: new THREE.Matrix4() },
    uShadowAt1: { value: new THREE.Matrix4() },
    uShadowOn: { value: new THREE.Vector4() },
    uLook: air.uEye,
    uGroundTone: { value: none },
    uShore: { value: floatTexture(new Float32Array([-1e4]), 1, 1) },
    uGrain: { value: 0 },
    uWind: { value: new THREE.Vector3(1, 0, 0) },
  };
}

/** What only the ground asks: its materials, pictures, wet shores and overlays. */
export function groundUniforms(): Uniforms {
  const none = emptyTexture();
  return {
    uWeights: { value: emptyArray() },
    uColours: { value: emptyArray() },
    uDetails: { value: emptyArray() },
    uCover: { value: none },
    uCount: { value: 0 },
    uSpare: { value: 0.1 },
    uPictures: { value: emptyArray() },
    uPictureCount: { value: 0 },
    uPictureAt: many(MOST_PICTURES, () => new THREE.Vector4(0, 0, 1, 1)),
    uPictureTurn: many(MOST_PICTURES, () => new THREE.Vector4(1, 0, 0, -1)),
    uTunes: many(MOST_MATERIALS, () => new THREE.Matrix3()),
    uLies: many(MOST_MATERIALS, () => new THREE.Vector4(1, 0, 1, 1)),
    uDarkens: { value: new Float32Array(MOST_MATERIALS).fill(1) },
    uEdges: many(MOST_MATERIALS, () => new THREE.Vector4(0.6, 0.5, 4, 0)),
    uGrounds: { value: new Float32Array(MOST_MATERIALS) },
    uMeans: many(MOST_MATERIALS, () => new THREE.Vector4(0.2, 0.2, 0.15, 0.5)),
    uMeanDetails: many(MOST_MATERIALS, () => new THREE.Vector4(0, 0, 0.9, 1)),
    uPages0: { value: none },
    uPages1: { value: none },
    uTable: { value: none },
    uAtlas: { value: 1 },
    uCoverNear: { value: 60 },
    uRing: { value: new THREE.Vector4() },
    uWash: { value: none },
    uWashTone: { value: new THREE.Vector4(0, 0, 0, 0) },
    uWashScale: { value: new THREE.Vector4(0, 1, 8, 0) },
    uInner: { value: new THREE.Vector4() },
  };
}
