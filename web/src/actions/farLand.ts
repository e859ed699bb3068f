import type { Scene } from "../api/shapes";
import { get, set } from "../state/store";

type Place = [east: number, north: number];

const MARGIN_PX = 320;

/** How the far land lies as a whole: what carries a place of its own landforms to where it is. */
export function carried(doc: Scene) {
  const { beyond, plot } = doc;
  const k = (beyond.size ?? 100) / 100;
  const a = ((beyond.turn ?? 0) * Math.PI) / 180;
  const middle: Place = [plot.width_m / 2, plot.depth_m / 2];
  const to = (east: number, north: number): Place => {
    const x = (east - middle[0]) * k;
    const y = (north - middle[1]) * k;
    return [
      middle[0] + (beyond.east_m ?? 0) + x * Math.cos(a) + y * Math.sin(a),
      middle[1] + (beyond.north_m ?? 0) - x * Math.sin(a) + y * Math.cos(a),
    ];
  };
  const from = (east: number, north: number): Place => {
    const x = east - middle[0] - (beyond.east_m ?? 0);
    const y = north - middle[1] - (beyond.north_m ?? 0);
    return [
      middle[0] + (x * Math.cos(a) - y * Math.sin(a)) / k,
      middle[1] + (x * Math.sin(a) + y * Math.cos(a)) / k,
    ];
  };
  return { to, from };
}

/** The map over the face, zoomed out until the inner ring of far land fills it. */
export function mapFarLand() {
  const { doc, products } = get();
  const ring = products?.rings[0]?.field;
  if (!doc || !ring) return;
  const room = Math.min(window.innerWidth - MARGIN_PX, window.innerHeight) - 160;
  set({
    mapOnFace: true,
    mapAt: {
      east: doc.plot.width_m / 2,
      north: doc.plot.depth_m / 2,
      scale: Math.max(room, 100) / (ring.nx * ring.spacing),
    },
  });
}
