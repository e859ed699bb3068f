/** The sun taken by the pointer and moved across the picture. */
import type { Scene } from "../api/shapes";
import { put } from "../document/path";
import { drag, edit } from "../state/edits";
import { engine } from "../state/engine";

let held = false;

/** Where the sun comes to stand under a point of the face (0..1). */
function under(x: number, y: number): (d: Scene) => void {
  const way = engine.view!.ray(x, y).direction;
  const bearing = ((Math.atan2(way.x, way.y) * 180) / Math.PI + 360) % 360;
  const height = (Math.asin(Math.min(1, Math.max(-1, way.z))) * 180) / Math.PI;
  return (d) => {
    put(d, ["light", "sun_by"], "bearing");
    put(d, ["light", "sun_bearing"], +bearing.toFixed(1));
    put(d, ["light", "sun_height"], +Math.min(90, Math.max(-18, height)).toFixed(1));
  };
}

/** Takes what the pointer does while the tool is held; true when it was taken. */
export function grabSun(what: "down" | "move" | "up", x: number, y: number): boolean {
  if (!engine.view) return false;
  if (what === "down") held = true;
  if (!held) return false;
  if (what === "up") {
    held = false;
    void edit("Light: the sun moved", under(x, y));
  } else drag(under(x, y));
  return true;
}
