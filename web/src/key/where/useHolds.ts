import { useEffect, useRef, useState } from "react";
import * as calls from "../../api/calls";
import type { WhereAnswer } from "../../api/shapes";
import { at, type Path } from "../../document/path";
import { engine } from "../../state/engine";
import { get, set, usePage } from "../../state/store";
import { fetchBytes } from "../../view/products";

type Holds = WhereAnswer;

/**
 * What the list of an entry holds, live: its cover, absent references, thresholds that were found;
 * hatched over view and map while it changes.
 */
export function useHolds(path: Path): Holds | null {
  const entry = usePage((s) => at<{ where?: unknown[] }>(s.doc, path));
  const ready = usePage((s) => !!s.products);
  const id = usePage((s) => s.id);
  const asked =
    path.length === 2 && ["land", "ground", "planting"].includes(String(path[0]))
      ? JSON.stringify(entry?.where ?? [])
      : "[]";
  const list = String(path[0]);
  const index = Number(path[1]);
  const [holds, setHolds] = useState<Holds | null>(null);
  const first = useRef(asked);
  useEffect(() => {
    if (asked === "[]" || !ready) {
      setHolds(null);
      return;
    }
    const halt = new AbortController();
    const changed = asked !== first.current;
    first.current = asked;
    let fade: ReturnType<typeof setTimeout> | undefined;
    const wait = setTimeout(async () => {
      try {
        const found = await calls.whereHolds(
          id!,
          { document: get().doc, list, index },
          halt.signal,
        );
        if (halt.signal.aborted) return;
        setHolds(found);
        if (!changed || get().doc?.marks.some((m) => m.id === get().chosen)) return;
        const values = (await fetchBytes(found.key)).slice();
        if (halt.signal.aborted) return;
        engine.view?.wash(values);
        set({ mask: { id: "", nx: found.grid.nx, ny: found.grid.ny, values, share: found.share } });
        fade = setTimeout(clear, 1800);
      } catch {
        /* an entry that can't be asked yet shows no cover */
      }
    }, 60);
    const clear = () => {
      if (get().mask?.id === "") {
        engine.view?.wash(null);
        set({ mask: null });
      }
    };
    return () => {
      halt.abort();
      clearTimeout(wait);
      if (fade) {
        clearTimeout(fade);
        clear();
      }
    };
  }, [asked, ready, id, list, index]);
  return holds;
}
