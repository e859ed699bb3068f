/** Shadows of things near by: two maps of depth from the sun, near and wide. */
import * as THREE from "three";
import type { Field } from "./field";
import { heightAt } from "./field";
import type { Choice, Plants } from "./plants";
import type { Pose } from "./pose";
import type { Uniforms } from "./uniforms";

const RADII_M = [28, 170];
const LEAST_M = [0.25, 0.8]; // what is lower casts none in each
const DEEP_M = 250; // what stands this far above or below the middle still casts

/** What the eye sees of the plants: how large a thing as wide as its distance is, how thinned. */
export interface Seen {
  eye: THREE.Vector3;
  focal: number;
  choice: Choice;
}

interface ShadowMap {
  target: THREE.WebGLRenderTarget;
  at: THREE.Matrix4;
  centre: THREE.Vector3;
  radius: number;
  stale: boolean;
}

function depthTarget(size: number): THREE.WebGLRenderTarget {
  const target = new THREE.WebGLRenderTarget(size, size, { depthBuffer: true });
  const depth = new THREE.DepthTexture(size, size, THREE.FloatType);
  depth.minFilter = depth.magFilter = THREE.NearestFilter;
  target.depthTexture = depth;
  return target;
}

export class Shadows {
  /** What casts besides the plants, shown to the sun alone. */
  casters: THREE.Group | null = null;
  private maps: ShadowMap[];
  private key = "";

  constructor(
    private readonly renderer: THREE.WebGLRenderer,
    private readonly shared: Uniforms,
    private readonly scene: THREE.Scene,
    private readonly plants: Plants,
    private readonly size: number,
  ) {
    this.maps = RADII_M.map(() => ({
      target: depthTarget(Math.max(1, size)),
      at: new THREE.Matrix4(),
      centre: new THREE.Vector3(),
      radius: 0,
      stale: true,
    }));
  }

  /** The plants or pieces have changed: the maps are drawn anew at the next chance. */
  renew() {
    for (const map of this.maps) map.stale = true;
  }

  private get on(): THREE.Vector4 {
    return this.shared.uShadowOn.value as THREE.Vector4;
  }

  none() {
    this.on.set(0, 0, 0, 0);
  }

  /**
   * The works that bring the maps up to date where the sun, the plants or the place changed; `end`
   * follows them.
   */
  works(seen: Seen, pose: Pose, field: Field, land: string): (() => void)[] {
    const { eye } = seen;
    const sun = this.shared.uSun.value as THREE.Vector3;
    if (sun.z <= 0.01) return [];
    const told = sun.toArray().map((v) => v.toFixed(4));
    const key = `${told} ${land}`;
    if (key !== this.key) {
      this.key = key;
      for (const map of this.maps) map.stale = true;
    }
    return this.maps
      .filter((map, i) => map.stale || !this.near(map, i, eye, pose, field))
      .map((map) => () => this.drawOne(map, this.maps.indexOf(map), seen, pose, field, sun));
  }

  /** The maps are used from now on; without sun or things that cast there are none. */
  end(casts: boolean) {
    if (!casts || (this.shared.uSun.value as THREE.Vector3).z <= 0.01) {
      this.none();
      return;
    }
    this.shared.uShadow0.value = this.maps[0].target.depthTexture;
    this.shared.uShadow1.value = this.maps[1].target.depthTexture;
    this.shared.uShadowAt0.value.copy(this.maps[0].at);
    this.shared.uShadowAt1.value.copy(this.maps[1].at);
    this.on.set(1, 1, 1 / this.size, 1 / this.size);
  }

  private circle(i: number, eye: THREE.Vector3, pose: Pose, field: Field) {
    const b = (pose.bearing * Math.PI) / 180;
    const high = Math.max(0, eye.z - heightAt(field, eye.x, eye.y));
    const radius = Math.max(RADII_M[i], high * (i ? 1.6 : 0.7));
    const ahead = radius * 0.72;
    const centre = new THREE.Vector3(eye.x + Math.sin(b) * ahead, eye.y + Math.cos(b) * ahead, 0);
    centre.z = heightAt(field, centre.x, centre.y);
    return { centre, radius };
  }

  private near(map: ShadowMap, i: number, eye: THREE.Vector3, pose: Pose, field: Field): boolean {
    const { centre, radius } = this.circle(i, eye, pose, field);
    return (
      map.radius > 0 &&
      Math.abs(map.radius - radius) < radius * 0.3 &&
      centre.distanceTo(map.centre) < radius * 0.3
    );
  }

  private drawOne(
    map: ShadowMap,
    i: number,
    { eye, focal, choice }: Seen,
    pose: Pose,
    field: Field,
    sun: THREE.Vector3,
  ) {
    const { centre, radius } = this.circle(i, eye, pose, field);
    map.centre.copy(centre);
    map.radius = radius;
    map.stale = false;
    const camera = sunCamera(centre, radius, sun);
    const around = { centre, radius, least_m: LEAST_M[i] };
    this.plants.chooseForShadow(around, eye, focal, field, choice);
    this.plants.plain(true);
    if (this.casters) this.casters.visible = true;
    this.none();
    this.renderer.setRenderTarget(map.target);
    this.renderer.clear();
    this.renderer.render(this.scene, camera);
    this.plants.plain(false);
    if (this.casters) this.casters.visible = false;
    map.at.multiplyMatrices(camera.projectionMatrix, camera.matrixWorldInverse);
  }
}

/** The sun's eye over a circle of ground. */
function sunCamera(centre: THREE.Vector3, radius: number, sun: THREE.Vector3) {
  const far = 2 * (radius + DEEP_M);
  const camera = new THREE.OrthographicCamera(-radius, radius, radius, -radius, 0, far);
  camera.up.set(0, 0, 1);
  camera.position.copy(centre).addScaledVector(sun, radius + DEEP_M);
  camera.lookAt(centre);
  camera.updateMatrixWorld();
  return camera;
}
