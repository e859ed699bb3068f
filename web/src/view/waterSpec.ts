/** What the renderer is told of a water. */
import type * as THREE from "three";
import type { Field } from "./field";
import type { SeaLine, WakeLine } from "../api/shapes";

export interface WaterSpec {
  sea: SeaLine;
  waves: Float32Array;
  chop: number;
  level: number;
  clear: number;
  through: THREE.Color;
  tint: THREE.Color;
  mirror: number;
  glitter: number;
  surf: number;
  foam: number;
  pool: boolean;
  /** The land that it lies on. */
  lies: Field;
  wakes: WakeLine[];
  /** Its ice: thickness at each post as half floats, at the shore in m; snow and cracks 0..1. */
  ice: { data: Uint16Array | null; thick: number; snow: number; cracks: number };
  /** Time to the shore, share under water, openness, depth at each post, as half floats. */
  field: { data: Uint16Array; nx: number; ny: number } | null;
  /** Where foam lies about discs: east, north, radius, level, reach, amount of each. */
  around: Float32Array | null;
  /** What stones do to a stream, in a strip along it. */
  eddies: { data: Uint16Array; rows: number; columns: number; long: number } | null;
  /** East, north, level, speed and whiteness at the points of a stream. */
  stream: { points: Float32Array; width: number } | null;
}
