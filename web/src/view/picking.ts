/** From picture to world and back: projecting a place, the ray through a dot, the ground. */
import * as THREE from "three";
import type { Field } from "./field";
import { heightAmong, within } from "./world";

/** Where a place comes to lie on the canvas (0..1, y down), or null behind the eye. */
export function projected(
  camera: THREE.PerspectiveCamera,
  place: THREE.Vector3,
): { x: number; y: number } | null {
  const way = camera.getWorldDirection(new THREE.Vector3());
  const ahead = place.clone().sub(camera.position).dot(way);
  if (ahead < 0.1) return null;
  place.project(camera);
  return { x: (place.x + 1) / 2, y: (1 - place.y) / 2 };
}

/** The ray through a point of the canvas (0..1, y down), in the world. */
export function rayThrough(camera: THREE.PerspectiveCamera, x: number, y: number): THREE.Ray {
  const p = new THREE.Vector3(x * 2 - 1, 1 - y * 2, 0.5).unproject(camera);
  return new THREE.Ray(camera.position.clone(), p.sub(camera.position).normalize());
}

const MOST_STEPS = 600;
const HALVINGS = 20;

/** Where a ray meets the ground of these fields, of which the finest comes first, or null. */
export function groundHit(ray: THREE.Ray, fields: Field[]): THREE.Vector3 | null {
  const at = new THREE.Vector3();
  const over = () => at.z - heightAmong(fields, at.x, at.y);
  const inside = () => fields.some((f) => within(f, at.x, at.y));
  const widest = fields[fields.length - 1];
  const farthest = 4 * widest.spacing * (widest.nx + widest.ny);
  let t = 0;
  let before = 0;
  for (let i = 0; i < MOST_STEPS && t < farthest; i++) {
    ray.at(t, at);
    const above = over();
    if (above <= 0) {
      const met = inside();
      for (let k = 0; k < HALVINGS; k++) {
        const mid = (before + t) / 2;
        ray.at(mid, at);
        if (over() > 0) before = mid;
        else t = mid;
      }
      ray.at(t, at);
      return met || inside() ? at : null;
    }
    before = t;
    t += Math.max(0.15, above * 0.5, t * 0.002);
  }
  return null;
}
