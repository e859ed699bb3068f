import type { Scene } from "../api/shapes";
import { labelled } from "./change";
import { type ListName, listOf } from "./lists";

/** Lists whose hidden entries the view leaves out only by being built without them. */
const BUILT: ListName[] = ["land", "far", "ground", "far ground", "air"];

/** Whether the view is built anew when this entry is hidden. */
export const builtWithout = (doc: Scene, id: string): boolean =>
  BUILT.some((list) => listOf(doc, list).some((e) => e.id === id));

/** The scene as the view shows it: without what the eye hides. */
export function seen(doc: Scene, hidden: Set<string>): Scene {
  if (!hidden.size) return doc;
  return labelled(doc, (d) => {
    for (const list of BUILT)
      for (const entry of listOf(d, list)) if (hidden.has(entry.id)) entry.on = false;
  });
}
