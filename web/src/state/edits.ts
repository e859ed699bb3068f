import * as calls from "../api/calls";
import { Trouble } from "../api/client";
import type { Scene, SceneState } from "../api/shapes";
import { labelled, lightOnly, same } from "../document/change";
import { everyEntry } from "../document/lists";
import { build } from "./builds";
import { engine } from "./engine";
import { get, set } from "./store";
import { tell } from "./trouble";

/** A change that is not kept yet: the picture follows at once, in draft. */
export function drag(change: (d: Scene) => void) {
  const before = get().doc;
  if (!before) return;
  const doc = labelled(before, change);
  // a slider that is moved by keys tells of its value once more when it is on its way to be kept
  if (same(before, doc)) return;
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
        const next = await calls.keepEdit(id!, {
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
        const { products, hidden } = get();
        if (products) engine.view?.setScene(state!.document as Scene, products, hidden);
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
  if (chosen && !everyEntry(doc).some((e) => e.id === chosen)) set({ chosen: null });
  const lit =
    old && lightOnly(old.document as Scene, doc) && get().manifest && !get().manifest!.draft;
  if (lit) {
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
          for (const e of everyEntry(d)) if (e.id === id) e.on = false;
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
    take(await calls.stepHistory(s.id!, what));
  } catch (e) {
    tell(e);
  }
}

export async function goTo(revision: number) {
  try {
    take(await calls.goToRevision(get().id!, { revision }));
  } catch (e) {
    tell(e);
  }
}
