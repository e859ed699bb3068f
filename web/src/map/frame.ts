import type { Scene } from "../api/shapes";
import type { MapAt } from "../state/slices";

/** A round interval that gives about a dozen contours. */
export function interval(relief: number): number {
  const raw = Math.max(relief, 1e-3) / 12;
  const ten = Math.pow(10, Math.floor(Math.log10(raw)));
  return [1, 2, 5, 10].map((k) => k * ten).find((v) => v >= raw)!;
}

export interface Frame {
  x0: number;
  y0: number;
  scale: number;
}

/** Where the plot lies on a map of this size: its left upper corner in px, and px per metre. */
export function frameOf(
  doc: Scene,
  width: number,
  height: number,
  pad: number,
  at: MapAt | null = null,
): Frame {
  const { width_m, depth_m } = doc.plot;
  const k = at?.scale ?? Math.min((width - 2 * pad) / width_m, (height - 2 * pad) / depth_m);
  return {
    x0: width / 2 - (at?.east ?? width_m / 2) * k,
    y0: height / 2 - (depth_m - (at?.north ?? depth_m / 2)) * k,
    scale: k,
  };
}
