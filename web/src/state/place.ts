import { dressed } from "../api/dressed";
import { heightAt, slopeAt } from "../view/field";
import { plantAt, type Products } from "../view/products";
import { fieldsOf, within } from "../view/world";
import type { Place } from "./slices";
import { get } from "./store";

export function readPlace(east: number, north: number): Place | null {
  const p = get().products;
  const doc = get().doc;
  if (!p || !doc) return null;
  const f = p.field;
  if (!within(f, east, north)) return farPlace(p, east, north);
  const c = Math.round(east / f.spacing);
  const r = Math.round(f.ny - 1 - north / f.spacing);
  const parts = doc.ground
    .map((m, i) => ({
      name: m.name,
      share: p.weights[((Math.floor(i / 4) * f.ny + r) * f.nx + c) * 4 + (i % 4)] / 255 || 0,
    }))
    .filter((x) => x.share > 0.05)
    .sort((a, b) => b.share - a.share)
    .slice(0, 3);
  const near = plantAt(p, get().hidden, east, north);
  const sowing = near && doc.planting.find((s) => s.id === near.sowing);
  const kind = near && dressed(near.kind).kind;
  const plant =
    near && sowing
      ? {
          sowing: sowing.id,
          name: sowing.name,
          label: get().cabinet?.kinds.find((k) => k.name === kind)?.label ?? kind!,
          away: near.away,
        }
      : null;
  return {
    east,
    north,
    up: heightAt(f, east, north),
    ...slopeAt(f, east, north),
    plant,
    ground: parts.map((x) => `${x.name} ${Math.round(x.share * 100)} %`).join(", "),
  };
}

/** A place beyond the plot, where nobody tells materials apart. */
function farPlace(p: Products, east: number, north: number): Place {
  const ring = fieldsOf(p).find((f) => within(f, east, north)) ?? p.field;
  return {
    east,
    north,
    up: heightAt(ring, east, north),
    ...slopeAt(ring, east, north),
    plant: null,
    ground: "far land",
  };
}
