/** The waters of a scene as the renderer draws them: a sea, pools, streams. */
import type { Scene } from "../api/shapes";
import { linear } from "./light";
import type { Products } from "./products";
import type { WaterSpec } from "./water";

/** The waters that are on, wet, and not hidden by the eye. */
export function waterSpecs(doc: Scene, products: Products, hidden: Set<string>): WaterSpec[] {
  return doc.water.flatMap((w) => {
    const line = products.manifest.water.find((l) => l.id === w.id);
    if (!w.on || hidden.has(w.id) || !line || line.wet_m2 <= 0) return [];
    if (w.reach !== "everywhere" && w.reach !== "stream" && !line.bounds) return [];
    const points = products.streams.find((p) => p.id === w.id)?.points;
    const pool = products.pools.find((p) => p.id === w.id);
    return [
      {
        level: w.level_m,
        clear: w.clear_m,
        tint: linear(w.tint),
        waves_m: w.waves_cm / 100,
        bounds: line.bounds ?? null,
        mask: pool ? { data: pool.mask, rows: pool.rows, columns: pool.columns } : null,
        ...(w.reach === "stream" && points ? { ribbon: points, width: w.width_m } : {}),
      },
    ];
  });
}
