/** The waters of a scene as the renderer draws them: seas, lakes, pools, streams. */
import type { Scene, WaterLine } from "../api/shapes";
import { linear } from "./light";
import type { Products, WaterMade } from "./products";
import type { WaterSpec } from "./waterSpec";

const NONE = new Float32Array(0);

/** The waters that are on, wet, and not hidden by the eye. */
export function waterSpecs(doc: Scene, products: Products, hidden: Set<string>): WaterSpec[] {
  return doc.water.flatMap((w) => {
    const line = products.manifest.water.find((l) => l.id === w.id);
    if (!w.on || hidden.has(w.id) || !line || line.wet_m2 <= 0) return [];
    const made = products.waters.find((p) => p.id === w.id);
    if (!made) return [];
    const { nx, ny } = products.field;
    return [
      {
        sea: line.sea,
        waves: made.waves ?? NONE,
        chop: w.chop / 100,
        level: w.level_m,
        clear: w.clear_m,
        through: linear(w.through),
        tint: linear(w.tint),
        mirror: w.mirror / 100,
        glitter: w.glitter / 100,
        surf: w.surf / 100,
        foam: w.foam / 100,
        wakes: line.wakes,
        ice: {
          data: made.ice,
          thick: w.ice_cm / 100,
          snow: w.snow / 100,
          cracks: w.cracks / 100,
        },
        pool: w.reach === "pool",
        lies: products.field,
        field: made.field ? { data: made.field, nx, ny } : null,
        around: made.stands?.length ? made.stands : null,
        eddies: eddiesOf(line, made),
        stream: made.points ? { points: made.points, width: w.width_m } : null,
      },
    ];
  });
}

function eddiesOf({ eddies }: WaterLine, made: WaterMade): WaterSpec["eddies"] {
  if (!eddies || !made.eddies) return null;
  const { rows, columns, long_m: long } = eddies;
  return { data: made.eddies, rows, columns, long };
}
