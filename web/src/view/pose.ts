/** An eye: where it stands, where it looks, its lens. */
import * as THREE from "three";
import type { Shot } from "../api/shapes";
import { type Field, heightAt } from "./field";

/** Place in m, bearing and tilt in degrees, focal length in mm on a picture 36 mm wide. */
export interface Pose {
  east: number;
  north: number;
  up: number;
  bearing: number;
  tilt: number;
  focal: number;
  /** Parts of the picture's width that it is moved aside and up by. */
  shift?: [number, number];
}

const HALF_PICTURE_MM = 18;
const NEAREST_M = 0.12;
const FARTHEST_M = 150000;

/** Where a shot looks from a height in m: along its angles, or at the place that it is aimed on. */
export function aimOf(
  shot: Shot,
  up: number,
  field: Field | null,
): { bearing: number; tilt: number } {
  const { bearing, tilt } = shot;
  if (shot.aim_by !== "place" || !field) return { bearing, tilt };
  const east = shot.aim_east_m - shot.east_m;
  const north = shot.aim_north_m - shot.north_m;
  const rise = heightAt(field, shot.aim_east_m, shot.aim_north_m) + shot.aim_over_m - up;
  const flat = Math.hypot(east, north);
  if (flat < 1e-6 && Math.abs(rise) < 1e-6) return { bearing, tilt };
  const degrees = (radians: number) => (radians * 180) / Math.PI;
  return {
    bearing: (degrees(Math.atan2(east, north)) + 360) % 360,
    tilt: degrees(Math.atan2(rise, flat)),
  };
}

/** The eye of a shot over the ground that there is. */
export function poseOf(shot: Shot, field: Field | null): Pose {
  const ground = field ? heightAt(field, shot.east_m, shot.north_m) : 0;
  const { bearing, tilt } = aimOf(shot, ground + shot.eye_m, field);
  return {
    east: shot.east_m,
    north: shot.north_m,
    up: ground + shot.eye_m,
    bearing,
    tilt,
    focal: shot.focal_mm,
    shift: [(shot.shift_aside ?? 0) / 100, (shot.shift_up ?? 0) / 100],
  };
}

/**
 * Sets a camera to a pose. Its upper side comes from bearing and tilt, so that looking straight up
 * or down keeps the bearing.
 */
export function aim(
  camera: THREE.PerspectiveCamera,
  pose: Pose,
  aspect: number,
  field: Field | null,
) {
  const b = (pose.bearing * Math.PI) / 180;
  const t = (pose.tilt * Math.PI) / 180;
  camera.position.set(pose.east, pose.north, pose.up);
  camera.up.set(-Math.sin(b) * Math.sin(t), -Math.cos(b) * Math.sin(t), Math.cos(t));
  camera.fov = (2 * Math.atan(HALF_PICTURE_MM / pose.focal / aspect) * 180) / Math.PI;
  camera.aspect = aspect;
  const over = field ? pose.up - heightAt(field, pose.east, pose.north) : 0;
  camera.near = Math.min(20, Math.max(NEAREST_M, over * 0.12));
  camera.far = FARTHEST_M;
  camera.lookAt(
    pose.east + Math.sin(b) * Math.cos(t),
    pose.north + Math.cos(b) * Math.cos(t),
    pose.up + Math.sin(t),
  );
  camera.updateProjectionMatrix();
  if (pose.shift) {
    camera.projectionMatrix.elements[8] = 2 * pose.shift[0];
    camera.projectionMatrix.elements[9] = 2 * pose.shift[1] * aspect;
    camera.projectionMatrixInverse.copy(camera.projectionMatrix).invert();
  }
  camera.updateMatrixWorld();
}
