/** What the eye hides: gone from the view, and from nothing else. */
import { builtWithout } from "../document/seen";
import { build } from "./builds";
import { engine } from "./engine";
import { get, set } from "./store";

/** Hides an entry in the view, or shows it again. */
export function toggleHidden(id: string) {
  hideAll([id], !get().hidden.has(id));
}

/** Hides entries in the view together, or shows them all again. */
export function hideAll(ids: string[], away: boolean) {
  const hidden = new Set(get().hidden);
  for (const id of ids) {
    if (away) hidden.add(id);
    else hidden.delete(id);
  }
  showWithout(hidden);
}

/** The view without these entries. */
export function showWithout(hidden: Set<string>) {
  const { doc, products, hidden: before } = get();
  set({ hidden });
  if (!doc || !products) return;
  engine.view?.setScene(doc, products, hidden);
  const changed = [...hidden, ...before].filter((id) => hidden.has(id) !== before.has(id));
  if (changed.some((id) => builtWithout(doc, id))) build(doc, "view");
}
