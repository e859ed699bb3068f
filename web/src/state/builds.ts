import * as calls from "../api/calls";
import { Trouble } from "../api/client";
import type { Scene } from "../api/shapes";
import { same } from "../document/change";
import { seen } from "../document/seen";
import { fetchProducts, onLand, pause, type Products } from "../view/products";
import { engine } from "./engine";
import { get, set } from "./store";
import { tell } from "./trouble";

const client = Math.random().toString(36).slice(2);

async function show(doc: Scene, products: Products) {
  const { id } = get();
  await pause();
  if (get().id !== id) return;
  engine.view?.setScene(doc, products, get().hidden);
  await pause();
  if (get().id === id) set({ manifest: products.manifest, products });
}

// ---- building: the newest wish wins; a draft while dragging, the view grid at rest
let wish: { doc: Scene; grid: "draft" | "view" } | null = null;

let busy = false;

export function build(doc: Scene, grid: "draft" | "view") {
  wish = { doc, grid };
  if (busy) {
    const leaves = following && ahead < MOST_AHEAD;
    if (grid === "view" || leaves) void calls.stopBuild(get().id!, client).catch(() => {});
    return;
  }
  void work();
}

/** The person stops the build; the last good picture stays until the next change. */
export function stopBuild() {
  wish = null;
  halted = true;
  void calls.stopBuild(get().id!, client).catch(() => {});
}

let halted = false;

let landShown: Scene["land"] | null = null;
let ahead = 0; // how often the land went ahead since all else followed
let following = false; // what lies on land that went ahead is on its way
const MOST_AHEAD = 4;

/** Land that is dragged shows at once, before what lies on it has followed. */
async function showLand(document: Scene) {
  const { id, products } = get();
  if (!products || !landShown || same(document.land, landShown)) return;
  const land = await calls.draftLand(id!, { document, grid: "draft", client });
  if (get().id !== id || land.heights === products.manifest.heights) return;
  await show(document, await onLand(land, products));
  landShown = document.land;
  ahead++;
  await engine.view?.shown(600); // what follows would take the cores from this picture
}

async function work() {
  busy = true;
  set({ building: true, settled: false });
  while (wish) {
    const { doc, grid } = wish;
    const id = get().id;
    wish = null;
    halted = false;
    try {
      const document = seen(doc, get().hidden);
      if (grid === "draft") await showLand(document);
      if (wish && ahead < MOST_AHEAD) continue;
      following = grid === "draft";
      const manifest = await calls.orderBuild(id!, { document, grid, client });
      following = false;
      ahead = 0;
      if (get().id !== id) continue;
      landShown = document.land;
      // opened just now: the land is shown while its plants are on their way
      const early = get().products ? undefined : (land: Products) => show(doc, land);
      const products = await fetchProducts(manifest, get().products, early);
      if (!wish || grid === "draft")
        await show(get().doc && grid === "view" && !get().without ? get().doc! : doc, products);
      if (get().lost) set({ lost: false, trouble: null });
    } catch (e) {
      following = false;
      if (e instanceof Trouble && e.problem.title === "Stopped") {
        if (!wish && !halted) wish = { doc, grid };
        halted = false;
        continue;
      }
      if (e instanceof Trouble && e.problem.status === 410) {
        wish ??= { doc, grid };
        continue;
      }
      tell(e);
      if (e instanceof Trouble && e.lost) {
        await new Promise((r) => setTimeout(r, 1500));
        wish ??= { doc, grid: "view" };
      }
    }
  }
  busy = false;
  const { products } = get();
  if (products?.ahead) {
    products.ahead = false; // it was stopped or refused: nothing follows any more
    engine.view?.changed();
  }
  set({ building: false, progress: null });
}
