/** Works of the core, done on the scene as it stands on the page, each kept as one edit. */
import * as calls from "../api/calls";
import type { Scene, WorkAnswer } from "../api/shapes";
import { edit } from "../state/edits";
import { get, set } from "../state/store";
import { tell } from "../state/trouble";

/**
 * Does a work and keeps what it made. What it chooses is chosen then, what it tells is told. Gives
 * null when it could not be done.
 */
export async function doWork(
  name: string,
  values: Record<string, unknown>,
): Promise<WorkAnswer | null> {
  const { id, doc } = get();
  if (id === null || !doc) return null;
  try {
    const done = await calls.doWork(id, name, { document: doc, values });
    if (get().id !== id) return null;
    if (done.told) set({ told: done.told });
    if (done.label) {
      const made = done.document as Scene;
      await edit(done.label, (d) => Object.assign(d, made));
      if (done.chosen) set({ chosen: done.chosen });
    }
    return done;
  } catch (e) {
    tell(e);
    return null;
  }
}

/** An offer of a list becomes an entry of the scene. */
export const addEntry = (list: string, key: string) => doWork("add an entry", { list, key });
