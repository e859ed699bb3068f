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

/** How far from the plot's middle its landforms lie that have a place of their own, m. */
function reachOf(doc: Scene): number {
  const middle: Place = [doc.plot.width_m / 2, doc.plot.depth_m / 2];
  const { to } = carried(doc);
  const away = doc.beyond.land!.map((entry) => {
    const e = entry as unknown as Record<string, number | undefined>;
    if (e.east_m === undefined || e.north_m === undefined) return 0;
    const [east, north] = to(e.east_m, e.north_m);
    const half = Math.max(e.length_m ?? e.width_m ?? 0, e.breadth_m ?? e.depth_m ?? 0) / 2;
    return Math.hypot(east - middle[0], north - middle[1]) + half;
  });
  return Math.max(0, ...away);
}

/** The map over the face, zoomed out until it holds the inner ring and every far landform. */
export function mapFarLand() {
  const { doc, products } = get();
  const ring = products?.rings[0]?.field;
  if (!doc || !ring) return;
  const room = Math.min(window.innerWidth - MARGIN_PX, window.innerHeight) - 120;
  const wide = Math.max(ring.nx * ring.spacing, 2 * reachOf(doc));
  set({
    mapOnFace: true,
    mapAt: {
      east: doc.plot.width_m / 2,
      north: doc.plot.depth_m / 2,
      scale: Math.max(room, 100) / wide,
    },
  });
}
