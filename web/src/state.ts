/**
 * What the page knows: the scene, what is chosen, what is under way. Every edit goes through `edit`
 * or `drag`.
 */
import { create } from "zustand";
import {
  ask,
  Trouble,
  type Cabinet,
  type Job,
  type Manifest,
  type ModelAnswer,
  type Problem,
  type Scene,
  type SceneState,
  type SheetLine,
  type SurveyAnswer,
  type TransectAnswer,
} from "./api/client";
import type { Brush } from "./actions/brush";
import type { Compared } from "./actions/compare";
import type { RawLayout } from "./panels/drop";
import { fetchProducts, heightAt, plantAt, slopeAt, type Products } from "./view/products";
import type { Pose, View } from "./view/view";

export type Section =
  "land" | "water" | "ground" | "planting" | "light" | "shots" | "marks" | "handover";
export interface Place {
  east: number;
  north: number;
  up: number;
  slope: number;
  facing: number;
  ground: string;
  plant: { sowing: string; name: string; label: string; away: number } | null;
}

/** Where the map is when it is not fitted: its middle in metres, px per metre. */
export interface MapAt {
  east: number;
  north: number;
  scale: number;
}
/** The sheet of the survey that is laid out; its answer and values come once they are measured. */
export interface Sheet {
  kind: string;
  entry?: string;
  latitude: number;
  day: number;
  answer?: SurveyAnswer;
  values?: Float32Array;
}
export interface Cut {
  line: number[];
  times: number;
  answer: TransectAnswer | null;
}

export interface Page {
  id: number | null;
  doc: Scene | null;
  state: SceneState | null;
  manifest: Manifest | null;
  products: Products | null;
  cabinet: Cabinet | null;
  schema: any;
  stages: Record<string, string>;
  sheets: SheetLine[];
  open: Section | null;
  chosen: string | null;
  hidden: Set<string>;
  place: Place | null;
  pinned: boolean;
  pose: Pose;
  progress: { step: string; share: number } | null;
  building: boolean;
  trouble: Problem | null;
  lost: boolean;
  insetShot: string | null;
  mapOnFace: boolean;
  clean: boolean;
  tool: "read" | "figure" | "pool" | "contour" | "line" | "area" | "brush" | null;
  brush: Brush | null;
  dialog:
    | "new"
    | "scenes"
    | "commands"
    | "keys"
    | "history"
    | "still"
    | "parts"
    | "zones"
    | "proof"
    | "reality"
    | "lands"
    | "ground-presets"
    | "texture-sizes"
    | "mixes"
    | "faults"
    | null;
  why: boolean;
  job: Job | null;
  confirm: { text: string; yes: () => void } | null;
  mapAt: MapAt | null;
  drawing: number[][];
  sheet: Sheet | null;
  transect: Cut | null;
  compared: Compared | null;
  mask: { id: string; nx: number; ny: number; values: Uint8Array; share: number } | null;
  without: string | null;
  told: string | null;
  placing: string;
  cabinetAt: { drawer: string; kind: string | null; model?: ModelAnswer; part?: number } | null;
  several: Set<string>;
  playing: boolean;
  thinned: { budget: number | null; proxies: boolean };
  raw: { name: string; bytes: number; guess: RawLayout; take: (layout: RawLayout) => void } | null;
  settled: boolean;
  frames: number;
  still: { share: number; stop: () => void } | null;
}

export const usePage = create<Page>(() => ({
  id: null,
  doc: null,
  state: null,
  manifest: null,
  products: null,
  cabinet: null,
  schema: null,
  stages: {},
  sheets: [],
  open: "land",
  chosen: null,
  hidden: new Set(),
  place: null,
  pinned: false,
  pose: { east: 0, north: 0, up: 0, bearing: 0, tilt: 0, focal: 28 },
  progress: null,
  building: false,
  trouble: null,
  lost: false,
  insetShot: null,
  mapOnFace: false,
  clean: false,
  tool: null,
  dialog: null,
  why: false,
  job: null,
  confirm: null,
  settled: false,
  frames: 0,
  still: null,
  mapAt: null,
  drawing: [],
  sheet: null,
  transect: null,
  without: null,
  told: null,
  raw: null,
  placing: "person",
  cabinetAt: null,
  several: new Set(),
  playing: false,
  thinned: { budget: null, proxies: false },
  brush: null,
  compared: null,
  mask: null,
}));
export const set = usePage.setState;
export const get = usePage.getState;

/** The engine, once the face has made it. */
export const engine: { view: View | null } = { view: null };
const client = Math.random().toString(36).slice(2);

export function tell(e: unknown) {
  if (e instanceof Trouble) {
    if (e.problem.title === "Stopped") return;
    set(e.lost ? { lost: true, trouble: e.problem } : { trouble: e.problem });
  } else if ((e as Error)?.name !== "AbortError") {
    console.error(e);
    set({
      trouble: {
        type: "about:blank",
        title: "Trouble in the page",
        status: 0,
        detail: String((e as Error)?.message ?? e),
        path: "",
        advice: "Nothing that was kept is lost; reload the page.",
      },
    });
  }
}

function show(doc: Scene, products: Products) {
  engine.view?.setScene(doc, products, get().hidden);
  set({ manifest: products.manifest, products });
}

// ---- building: the newest wish wins; a draft while dragging, the view grid at rest
let wish: { doc: Scene; grid: "draft" | "view" } | null = null;
let busy = false;

export function build(doc: Scene, grid: "draft" | "view") {
  wish = { doc, grid };
  if (busy) {
    if (grid === "view")
      void ask("DELETE", `/api/scenes/${get().id}/builds/${client}`).catch(() => {});
    return;
  }
  void work();
}

/** The person stops the build; the last good picture stays until the next change. */
export function stopBuild() {
  wish = null;
  halted = true;
  void ask("DELETE", `/api/scenes/${get().id}/builds/${client}`).catch(() => {});
}
let halted = false;

async function work() {
  busy = true;
  set({ building: true, settled: false });
  while (wish) {
    const { doc, grid } = wish;
    const id = get().id;
    wish = null;
    halted = false;
    try {
      const manifest = await ask<Manifest>("POST", `/api/scenes/${id}/builds`, {
        document: doc,
        grid,
        client,
      });
      if (get().id !== id) continue;
      const products = await fetchProducts(manifest, get().products);
      if (!wish || grid === "draft")
        show(get().doc && grid === "view" && !get().without ? get().doc! : doc, products);
      if (get().lost) set({ lost: false, trouble: null });
    } catch (e) {
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
  set({ building: false, progress: null });
}

// ---- edits
function labelled(doc: Scene, change: (d: Scene) => void): Scene {
  const next = structuredClone(doc);
  change(next);
  return next;
}

const lightOnly = (a: Scene, b: Scene) =>
  JSON.stringify({ ...a, light: 0, shots: 0 }) === JSON.stringify({ ...b, light: 0, shots: 0 });

/** A change that is not kept yet: the picture follows at once, in draft. */
export function drag(change: (d: Scene) => void) {
  const before = get().doc;
  if (!before) return;
  const doc = labelled(before, change);
  set({ doc });
  if (lightOnly(before, doc)) {
    engine.view?.setLight(doc);
    return;
  }
  build(doc, "draft");
}

/** A change of pieces that is not kept yet: they are drawn anew, nothing is built. */
export function nudge(change: (d: Scene) => void) {
  const { doc: before, products, hidden } = get();
  if (!before || !products) return;
  const doc = labelled(before, change);
  set({ doc });
  engine.view?.setScene(doc, products, hidden);
}

let queue: Promise<unknown> = Promise.resolve();

/** One edit, kept as one revision. What was dragged before it belongs to it. */
export function edit(
  label: string,
  change: (d: Scene) => void = () => {},
  accept = false,
): Promise<boolean> {
  const before = get().doc;
  if (!before) return Promise.resolve(false);
  const doc = labelled(before, change);
  set({ doc, settled: false });
  const done = queue.then(async () => {
    for (;;) {
      const { id, state } = get();
      try {
        const next = await ask<SceneState>("POST", `/api/scenes/${id}/edits`, {
          base: state!.revision,
          label,
          document: doc,
          accept_plants: accept,
        });
        take(next, get().doc === doc);
        return true;
      } catch (e) {
        if (e instanceof Trouble && e.lost) {
          tell(e);
          await new Promise((r) => setTimeout(r, 1200));
          continue;
        }
        if (e instanceof Trouble && e.problem.title === "Many plants") {
          set({
            confirm: {
              text: `${e.problem.detail} ${e.problem.advice}`,
              yes: () => {
                set({ doc });
                void edit(label, () => {}, true);
              },
            },
          });
        } else tell(e);
        if (get().doc === doc) set({ doc: state!.document as Scene }); // back to what is kept
        engine.view &&
          get().products &&
          engine.view.setScene(state!.document as Scene, get().products!, get().hidden);
        build(state!.document as Scene, "view");
        return false;
      }
    }
  });
  queue = done;
  return done;
}

function take(state: SceneState, show = true) {
  const doc = state.document as Scene;
  const old = get().state;
  set({ state, lost: false, ...(show ? { doc } : {}) });
  if (!show) return;
  const chosen = get().chosen;
  if (
    chosen &&
    ![
      ...doc.land,
      ...doc.beyond.land!,
      ...doc.water,
      ...doc.ground,
      ...doc.planting,
      ...doc.pieces,
      ...doc.shots,
      ...doc.marks,
    ].some((e) => e.id === chosen)
  )
    set({ chosen: null });
  const same =
    old && lightOnly(old.document as Scene, doc) && get().manifest && !get().manifest!.draft;
  if (same) {
    engine.view?.setLight(doc);
    build(doc, "view");
  } else build(doc, "view");
}

/** The scene without one entry, for as long as it is held; null brings it back. */
export function without(id: string | null) {
  const doc = get().doc;
  if (!doc || get().without === id) return;
  set({ without: id });
  build(
    id
      ? labelled(doc, (d) => {
          for (const e of [
            ...d.land,
            ...d.beyond.land!,
            ...d.ground,
            ...d.planting,
            ...d.water,
          ] as { id: string; on: boolean }[])
            if (e.id === id) e.on = false;
        })
      : doc,
    "view",
  );
}

/** A state that the store gave elsewhere, as at the end of a stroke. */
export function taken(state: SceneState) {
  take(state);
}

export async function step(what: "undo" | "redo") {
  await queue;
  const s = get();
  if (!s.state || !s.state[what]) return;
  try {
    take(await ask<SceneState>("POST", `/api/scenes/${s.id}/${what}`));
  } catch (e) {
    tell(e);
  }
}

export async function goTo(revision: number) {
  try {
    take(await ask<SceneState>("POST", `/api/scenes/${get().id}/go-to`, { revision }));
  } catch (e) {
    tell(e);
  }
}

export async function openScene(id: number) {
  events?.close();
  set({
    id,
    doc: null,
    state: null,
    manifest: null,
    products: null,
    chosen: null,
    place: null,
    hidden: new Set(),
    settled: false,
    mapAt: null,
    drawing: [],
    sheet: null,
    transect: null,
    without: null,
    tool: null,
    brush: null,
    compared: null,
    mask: null,
    several: new Set(),
    cabinetAt: null,
  });
  try {
    const state = await ask<SceneState>("GET", `/api/scenes/${id}`);
    if (get().id !== id) return; // another scene was opened meanwhile
    const doc = state.document as Scene;
    set({ state, doc, insetShot: null, job: null });
    history.replaceState(null, "", `?scene=${id}${keepQuality()}`);
    listen(id);
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

/** The first shot's view, or one from beyond the south edge over the whole plot. */
function firstLook(doc: Scene, products: Products) {
  const v = engine.view!;
  const shot = doc.shots.find((s) => s.on);
  if (shot) v.pose = v.poseOf(shot as never);
  else {
    const w = doc.plot.width_m;
    const d = doc.plot.depth_m;
    const reach = Math.max(w, d);
    const m = products.manifest;
    v.pose = {
      east: w * 0.5,
      north: -reach * 0.16,
      up: m.highest + reach * 0.16,
      bearing: 0,
      tilt: -15,
      focal: 28,
    };
    v.pose.up = Math.max(v.pose.up, heightAt(products.field, v.pose.east, 0) + reach * 0.1);
  }
  v.changed(true);
  set({ pose: v.pose });
}

let events: EventSource | null = null;
function listen(id: number) {
  events = new EventSource(`/api/scenes/${id}/events`);
  events.addEventListener("progress", (e) => {
    const p = JSON.parse((e as MessageEvent).data);
    set({ progress: p.step ? p : null });
  });
  events.addEventListener("job", (e) => set({ job: JSON.parse((e as MessageEvent).data) }));
  events.addEventListener("revision", (e) => {
    const { revision } = JSON.parse((e as MessageEvent).data);
    const s = get();
    if (s.state && revision > s.state.revision + 200000) return;
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
  });
}

export function readPlace(east: number, north: number): Place | null {
  const p = get().products;
  const doc = get().doc;
  if (!p || !doc) return null;
  const f = p.field;
  const c = Math.round(east / f.spacing);
  const r = Math.round(f.ny - 1 - north / f.spacing);
  const parts = doc.ground
    .map((m, i) => ({
      name: m.name,
      share: p.weights[((Math.floor(i / 4) * f.ny + r) * f.nx + c) * 4 + (i % 4)] / 255 || 0,
    }))
    .filter((x) => x.share > 0.05)
    .sort((a, b) => b.share - a.share)
    .slice(0, 3);
  const near = plantAt(p, get().hidden, east, north);
  const sowing = near && doc.planting.find((s) => s.id === near.sowing);
  const kind = near?.kind.split("~")[0];
  const plant =
    near && sowing
      ? {
          sowing: sowing.id,
          name: sowing.name,
          label: get().cabinet?.kinds.find((k) => k.name === kind)?.label ?? kind!,
          away: near.away,
        }
      : null;
  return {
    east,
    north,
    up: heightAt(f, east, north),
    ...slopeAt(f, east, north),
    plant,
    ground: parts.map((x) => `${x.name} ${Math.round(x.share * 100)} %`).join(", "),
  };
}

let counter = 0;
export function freshId(stem: string): string {
  return `${stem}-${Date.now().toString(36)}${(counter++).toString(36)}`;
}
