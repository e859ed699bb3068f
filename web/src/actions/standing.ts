import { find } from "../document/lists";
import { engine } from "../state/engine";
import { readPlace } from "../state/place";
import { get, set } from "../state/store";
import { fillHollow } from "./pools";
import { doWork } from "./work";

/** What a click on the ground does: the chosen tool's work, or reading the place. */
export function onGround(east: number, north: number) {
  const { tool, doc, chosen } = get();
  if (!doc) return;
  if (tool === "figure") {
    void standOne(get().placing, east, north);
    return;
  }
  if (tool === "pool") {
    const c = find(doc, chosen);
    if (c?.list === "water") void fillHollow(c.entry.id, east, north);
    set({ tool: null });
    return;
  }
  set({ place: readPlace(east, north), pinned: true });
  engine.view?.ring(east, north, 1.5);
}

/** One piece of a kind at a place; what has a face turns it to the eye. */
export async function standOne(placing: string, east: number, north: number) {
  const facing = engine.view?.pose.bearing ?? 0;
  set({ tool: null, open: "planting" });
  await doWork("stand a piece", { kind: placing, east, north, facing });
}
