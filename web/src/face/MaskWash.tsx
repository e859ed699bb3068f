import { useEffect } from "react";
import { INK } from "../actions/maskWash";
import * as calls from "../api/calls";
import { engine } from "../state/engine";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";
import { fetchBytes } from "../view/products";

/** Hatches the chosen mask over view and map, and follows its changes. */
export function MaskWash() {
  const mark = usePage(
    (s) => s.doc?.marks.find((m) => m.id === s.chosen && m.kind === "mask") ?? null,
  );
  const id = usePage((s) => s.id);
  const ready = usePage((s) => !!s.products);
  const markId = mark?.id;
  const asItIs = JSON.stringify(mark);
  useEffect(() => {
    if (!markId || asItIs === "null" || !ready) {
      if (get().mask) {
        set({ mask: null });
        engine.view?.wash(null);
      }
      return;
    }
    const stop = new AbortController();
    void (async () => {
      try {
        const a = await calls.maskPicture(id!, markId, { document: get().doc }, stop.signal);
        const values = (await fetchBytes(a.key)).slice();
        if (stop.signal.aborted) return;
        set({ mask: { id: markId, nx: a.grid.nx, ny: a.grid.ny, values, share: a.share } });
        engine.view?.wash(values, INK);
      } catch (e) {
        if (!stop.signal.aborted) tell(e);
      }
    })();
    return () => stop.abort();
  }, [markId, asItIs, id, ready]);
  return null;
}
