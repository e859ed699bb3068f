import * as THREE from "three";
import type { Horizon } from "./horizon";

/** What an eye sees of a place: what its frame holds, and no land hides. */
export class Sight {
  private readonly frustum: THREE.Frustum;
  private readonly ball = new THREE.Sphere();
  private readonly box = new THREE.Box3();

  constructor(
    camera: THREE.PerspectiveCamera,
    private readonly horizon: Horizon | null,
  ) {
    const seen = new THREE.Matrix4();
    seen.multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse);
    this.frustum = new THREE.Frustum().setFromProjectionMatrix(seen);
  }

  has(east: number, north: number, up: number, radius: number): boolean {
    this.ball.center.set(east, north, up);
    this.ball.radius = radius;
    if (!this.frustum.intersectsSphere(this.ball)) return false;
    return !this.horizon?.hides(this.ball.getBoundingBox(this.box));
  }
}
