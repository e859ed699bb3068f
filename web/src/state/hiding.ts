/** What the eye hides: gone from the view, and from nothing else. */
import { engine } from "./engine";
import { get, set } from "./store";

/** Hides an entry in the view, or shows it again. */
export function toggleHidden(id: string) {
  const hidden = new Set(get().hidden);
  if (hidden.has(id)) hidden.delete(id);
  else hidden.add(id);
  showWithout(hidden);
}

/** The view without these entries. */
export function showWithout(hidden: Set<string>) {
  set({ hidden });
  const { doc, products } = get();
  if (doc && products) engine.view?.setScene(doc, products, hidden);
}
