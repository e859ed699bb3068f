/**
 * Two revisions beside each other: pictures from the same viewpoint with a wipe between, and the
 * difference of their heights.
 */
import * as calls from "../api/calls";
import { whole } from "../api/shapes";
import { build } from "../state/builds";
import { engine } from "../state/engine";
import { get, set } from "../state/store";
import { tell } from "../state/trouble";
import { fetchProducts, fetchSheet } from "../view/products";

const rest = (ms: number) => new Promise((r) => setTimeout(r, ms));

/** The picture of one revision from where one stands. */
async function pictured(id: number, revision: number): Promise<string> {
  const doc = whole(await calls.revisionDocument(id!, revision));
  const manifest = await calls.orderBuild(id!, {
    document: doc,
    grid: "view",
    client: "compare",
  });
  const products = await fetchProducts(manifest, get().products);
  const view = engine.view!;
  view.setScene(doc, products, get().hidden);
  for (let i = 0; i < 600 && !view.settled; i++) await rest(100);
  return view.photograph();
}

export async function compare(a: { id: number; label: string }, b: { id: number; label: string }) {
  const id = get().id!;
  const doc = get().doc!;
  set({ dialog: null, mapOnFace: false, sheet: null, told: "Drawing both…" });
  try {
    const answer = await calls.compareRevisions(id!, {
      a: a.id,
      b: b.id,
    });
    const first = await pictured(id, a.id);
    const second = await pictured(id, b.id);
    if (get().id === id)
      set({
        compared: { a: { ...a, picture: first }, b: { ...b, picture: second }, at: 0.5, answer },
        told: null,
      });
  } catch (e) {
    set({ told: null });
    tell(e);
  }
  build(doc, "view");
}

/** Lays the difference of heights over the land, as a sheet of the survey. */
export async function layDifference() {
  const answer = get().compared?.answer.heights;
  if (!answer) return;
  try {
    set({
      compared: null,
      sheet: {
        kind: "difference",
        latitude: 50,
        day: 172,
        answer,
        values: await fetchSheet(answer.key),
      },
    });
  } catch (e) {
    tell(e);
  }
}
