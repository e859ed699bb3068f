/** The eye below a still surface: what it sees is what the surface mirrors. */
import * as THREE from "three";
import { target } from "./targets";

const WIDER = 1.15; // than the eye above, for what waves turn to
const UNDER_M = 0.05; // what stands in the water is drawn from a little below its level

export function mirrorUniforms() {
  return {
    uMirror: { value: null as THREE.Texture | null },
    uMirrorAt: { value: new THREE.Matrix4() },
    uMirrorIs: { value: 0 },
  };
}

export class Mirror {
  readonly camera = new THREE.PerspectiveCamera();
  private picture: THREE.WebGLRenderTarget | null = null;
  private whole = false;

  constructor(private readonly uniforms: ReturnType<typeof mirrorUniforms>) {
    this.camera.matrixAutoUpdate = true;
  }

  /** Stands below an eye, as deep under a level as that is over it. */
  follow(eye: THREE.PerspectiveCamera, level: number) {
    const { camera } = this;
    const ahead = eye.getWorldDirection(new THREE.Vector3());
    const up = new THREE.Vector3().setFromMatrixColumn(eye.matrixWorld, 1);
    const { x, y, z } = eye.position;
    camera.fov = eye.fov;
    camera.position.set(x, y, 2 * level - z);
    camera.up.set(up.x, up.y, -up.z);
    camera.lookAt(x + ahead.x, y + ahead.y, 2 * level - z - ahead.z);
    camera.updateMatrixWorld();
    const m = camera.projectionMatrix.copy(eye.projectionMatrix).elements;
    m[0] /= WIDER;
    m[5] /= WIDER;
    m[8] *= -1; // the picture is turned about
    this.cutBelow(level - UNDER_M);
    camera.projectionMatrixInverse.copy(camera.projectionMatrix).invert();
  }

  /** What lies under a level is cut by the nearer plane (Lengyel 2005). */
  private cutBelow(level: number) {
    const { projectionMatrix, matrixWorldInverse } = this.camera;
    const plane = new THREE.Plane(new THREE.Vector3(0, 0, 1), -level);
    plane.applyMatrix4(matrixWorldInverse);
    const { x, y, z } = plane.normal;
    const m = projectionMatrix.elements;
    const corner = new THREE.Vector4(
      (Math.sign(x) + m[8]) / m[0],
      (Math.sign(y) + m[9]) / m[5],
      -1,
      (1 + m[10]) / m[14],
    );
    const cut = new THREE.Vector4(x, y, z, plane.constant);
    cut.multiplyScalar(2 / cut.dot(corner));
    m[2] = cut.x;
    m[6] = cut.y;
    m[10] = cut.z + 1;
    m[14] = cut.w;
  }

  /** Whether waters show it; they cannot while it is drawn, nor to another eye. */
  set shows(on: boolean) {
    this.uniforms.uMirrorIs.value = on && this.whole ? 1 : 0;
  }

  /** A picture of a size to draw in. */
  begin(width: number, height: number): THREE.WebGLRenderTarget {
    this.whole = false;
    this.shows = false;
    if (this.picture?.width !== width || this.picture.height !== height) {
      this.picture?.dispose();
      this.picture = target(width, height, true);
    }
    return this.picture;
  }

  /** The picture is drawn: waters show it from now on. */
  end() {
    const { projectionMatrix, matrixWorldInverse } = this.camera;
    this.whole = true;
    this.shows = true;
    this.uniforms.uMirror.value = this.picture?.texture ?? null;
    this.uniforms.uMirrorAt.value.multiplyMatrices(projectionMatrix, matrixWorldInverse);
  }
}
