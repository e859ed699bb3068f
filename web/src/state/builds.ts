import * as calls from "../api/calls";
import { Trouble } from "../api/client";
import { Newest } from "../api/newest";
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

interface Wish {
  doc: Scene;
  grid: "draft" | "view";
}

/** Building: a draft while dragging, the view grid at rest. */
const newest = new Newest<Wish>(work);

export function build(doc: Scene, grid: "draft" | "view") {
  const busy = newest.working;
  newest.wish({ doc, grid });
  const leaves = following && ahead < MOST_AHEAD;
  if (busy && (grid === "view" || leaves)) stopServer();
}

const stopServer = () => void calls.stopBuild(get().id!, client).catch(() => {});

/** The person stops the build; the last good picture stays until the next change. */
export function stopBuild() {
  newest.forget();
  halted = true;
  stopServer();
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

async function work(wish: Wish) {
  set({ building: true, settled: false });
  await made(wish);
  if (newest.overtaken) return;
  const { products } = get();
  if (products?.ahead) {
    products.ahead = false; // it was stopped or refused: nothing follows any more
    engine.view?.changed();
  }
  set({ building: false, progress: null });
}

async function made({ doc, grid }: Wish) {
  const id = get().id;
  halted = false;
  try {
    const document = seen(doc, get().hidden);
    if (grid === "draft") await showLand(document);
    if (newest.overtaken && ahead < MOST_AHEAD) return;
    following = grid === "draft";
    const manifest = await calls.orderBuild(id!, { document, grid, client });
    following = false;
    ahead = 0;
    if (get().id !== id) return;
    landShown = document.land;
    // opened just now: the land is shown while its plants are on their way
    const early = get().products ? undefined : (land: Products) => show(doc, land);
    const products = await fetchProducts(manifest, get().products, early);
    if (!newest.overtaken || grid === "draft")
      await show(get().doc && grid === "view" && !get().without ? get().doc! : doc, products);
    if (get().lost) set({ lost: false, trouble: null });
  } catch (e) {
    following = false;
    await afterTrouble(e, { doc, grid });
  }
}

async function afterTrouble(e: unknown, wish: Wish) {
  if (e instanceof Trouble && e.problem.title === "Stopped") {
    if (!halted) newest.again(wish);
    halted = false;
    return;
  }
  if (e instanceof Trouble && e.problem.status === 410) {
    newest.again(wish);
    return;
  }
  tell(e);
  if (e instanceof Trouble && e.lost) {
    await new Promise((r) => setTimeout(r, 1500));
    newest.again({ ...wish, grid: "view" });
  }
}
