import { find } from "../document/lists";
import { edit } from "../state/edits";
import { engine } from "../state/engine";
import { readPlace } from "../state/place";
import { get, set } from "../state/store";
import { placeMark } from "./match";
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
  if (tool === "match") {
    placeMark(east, north);
    return;
  }
  const c = find(doc, chosen);
  if (tool === "aim" && c?.list === "shots") {
    void edit(`${c.entry.name}: aimed`, (d) =>
      Object.assign(d.shots[c.index], {
        aim_by: "place",
        aim_east_m: +east.toFixed(2),
        aim_north_m: +north.toFixed(2),
      }),
    );
    set({ tool: null });
    return;
  }
  if ((tool === "stand" || tool === "aim") && c?.list === "air") {
    const [x, y] = tool === "aim" ? ["aim_east_m", "aim_north_m"] : ["east_m", "north_m"];
    void edit(`${c.entry.name}: ${tool === "aim" ? "aimed" : "placed"}`, (d) => {
      const entry = d.air[c.index] as Record<string, unknown>;
      entry[x] = +east.toFixed(2);
      entry[y] = +north.toFixed(2);
    });
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
