import * as calls from "../api/calls";
import type { Scene, StillLine } from "../api/shapes";
import type { Products } from "../view/products";
import { build } from "./builds";
import { engine } from "./engine";
import { ofScene } from "./firsts";
import { listenLive } from "./live";
import { heardStill, loadStills } from "./stills";
import { get, set, usePage } from "./store";
import { tell } from "./trouble";

export async function openScene(id: number) {
  engine.view?.forget(id);
  set({ ...ofScene(), id });
  try {
    const state = await calls.sceneState(id!);
    if (get().id !== id) return; // another scene was opened meanwhile
    const doc = state.document as Scene;
    set({ state, doc });
    if (state.aside?.length) set({ dialog: "asides" });
    history.replaceState(null, "", `?scene=${id}${keepQuality()}`);
    listen();
    loadJobs(id);
    void calls.firstBrush(id).then((brush) => get().id === id && set({ brush }));
    if (engine.view)
      engine.view.pose = {
        east: doc.plot.width_m / 2,
        north: -doc.plot.depth_m * 0.15,
        up: 300,
        bearing: 0,
        tilt: -14,
        focal: 28,
      };
    build(doc, "view");
    const stop = usePage.subscribe((s) => {
      if (s.id !== id) {
        stop();
        return;
      }
      if (!s.products || !engine.view) return;
      stop();
      firstLook(s.doc!, s.products);
    });
  } catch (e) {
    tell(e);
  }
}

const keepQuality = () => {
  const q = new URLSearchParams(location.search).get("quality");
  return q ? `&quality=${q}` : "";
};

/** The first shot's view, or that of a person who stands on the land. */
function firstLook(doc: Scene, products: Products) {
  const v = engine.view!;
  const shot = doc.shots.find((s) => s.on);
  v.pose = shot ? v.poseOf(shot as never) : { ...products.manifest.opening };
  v.changed(true);
  set({ pose: v.pose, seenAs: shot?.id ?? null });
}

/** Asks for the stills and the newest hand-over of a scene. */
function loadJobs(id: number | null) {
  if (id === null) return;
  void loadStills(id).catch(tell);
  void calls
    .listHandOvers(id)
    .then((jobs) => get().id === id && set({ job: jobs.at(-1) ?? null }))
    .catch(tell);
}

let listening = false;

/** Hears of what happens to the scene that is open, from one channel for all of them. */
function listen() {
  if (listening) return;
  listening = true;
  listenLive(({ event, data }) => {
    if (event === "hello") loadJobs(get().id);
    if (data.scene === undefined || data.scene !== get().id) return;
    if (event === "progress") set({ progress: data.step ? (data as never) : null });
    else if (event === "job") set({ job: data as never });
    else if (event === "still") heardStill(data.still as StillLine);
    else changedElsewhere(data.scene, data.revision as number);
  });
}

/** Another tab's revision is told, once this tab's own edits have had time to come back. */
function changedElsewhere(id: number, revision: number) {
  setTimeout(() => {
    const now = get();
    if (now.state && revision > now.state.revision && now.id === id)
      set({
        trouble: {
          type: "about:blank",
          title: "Changed in another tab",
          status: 409,
          path: "",
          detail: "This scene was changed in another tab.",
          advice: "Reload to see it; nothing is overwritten.",
        },
      });
  }, 2500);
}
