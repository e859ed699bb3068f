import type { Shot } from "../api/shapes";
import { freshId } from "../document/ids";
import { round } from "../document/numbers";
import { edit } from "../state/edits";
import { engine } from "../state/engine";
import { showWithout } from "../state/hiding";
import { chosen } from "../state/selection";
import { get, set } from "../state/store";
import { heightAt } from "../view/field";
import { groundAt } from "../view/world";

const LEAST_EYE_M = 0.05;

/** The view as it is, as a shot with the first values of its lens. */
export function shotOfView(id: string, name: string): Shot {
  const v = engine.view!;
  const { east, north, up, bearing, tilt, focal } = v.pose;
  const ground = v.products ? heightAt(v.products.field, east, north) : 0;
  const { width, height } = v.canvas;
  return {
    id,
    name,
    on: true,
    east_m: round(east, 2),
    north_m: round(north, 2),
    eye_m: round(Math.max(LEAST_EYE_M, up - ground), 2),
    bearing: round((bearing + 360) % 360, 2),
    tilt: round(tilt, 2),
    focal_mm: round(focal, 1),
    width_px: 1920,
    height_px: Math.round((1920 * height) / width / 2) * 2,
  } as Shot; // the core gives the rest their first values
}

export function keepShot() {
  const doc = get().doc;
  if (!engine.view?.products || !doc) return;
  const id = freshId("shot");
  const name = `Shot ${doc.shots.length + 1}`;
  void edit(name, (d) => d.shots.push(shotOfView(id, name)));
  set({ open: "shots", chosen: id, insetShot: id });
}

/** Goes to an entry that has a place, or over the whole plot. */
export function goToChosen() {
  const v = engine.view;
  const c = chosen();
  const doc = get().doc;
  if (!v?.products || !doc) return;
  if (c?.list === "shots") v.pose = v.poseOf(c.entry as unknown as Shot);
  else {
    const place =
      c && "east_m" in c.entry && "north_m" in c.entry
        ? { e: c.entry.east_m as number, n: c.entry.north_m as number }
        : get().place
          ? { e: get().place!.east, n: get().place!.north }
          : null;
    if (place) {
      const back = c?.list === "pieces" ? 9 : 120;
      const b = (v.pose.bearing * Math.PI) / 180;
      const east = place.e - Math.sin(b) * back;
      const north = place.n - Math.cos(b) * back;
      const up = Math.max(
        groundAt(v.products, east, north) + 1.7,
        groundAt(v.products, place.e, place.n) + back * 0.25,
      );
      v.pose = {
        ...v.pose,
        east,
        north,
        up,
        tilt: (Math.atan2(groundAt(v.products, place.e, place.n) + 1 - up, back) * 180) / Math.PI,
      };
    } else overview();
  }
  v.changed(true);
  set({ pose: v.pose });
}

/**
 * Of all sowings only the chosen one is drawn; once more brings all back. The scene is not changed.
 */
export function showAlone() {
  const doc = get().doc!;
  const c = chosen();
  const others = c ? doc.planting.filter((s) => s.id !== c.entry.id).map((s) => s.id) : [];
  const same = others.length === get().hidden.size && others.every((o) => get().hidden.has(o));
  const hidden = new Set(same || !c ? [] : others);
  showWithout(hidden);
}

export function overview() {
  const v = engine.view!;
  const doc = get().doc!;
  const m = get().manifest!;
  const w = doc.plot.width_m;
  const d = doc.plot.depth_m;
  const reach = Math.max(w, d);
  v.pose = {
    east: w / 2,
    north: -reach * 0.3,
    up: m.highest + reach * 0.32,
    bearing: 0,
    tilt: -24,
    focal: 28,
  };
  v.changed(true);
  set({ pose: v.pose });
}

const EYE_M = 1.7;

/** The eye looks straight ahead. */
export function levelHorizon() {
  const view = engine.view!;
  view.pose = { ...view.pose, tilt: 0, shift: undefined };
  view.changed();
  set({ pose: view.pose });
}

/** The eye comes down to where a person's is. */
export function standOnGround() {
  const view = engine.view!;
  const field = view.products!.field;
  const { east, north } = view.pose;
  view.pose = { ...view.pose, up: heightAt(field, east, north) + EYE_M };
  view.changed();
  set({ pose: view.pose });
}
