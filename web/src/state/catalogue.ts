import { useEffect } from "react";
import * as calls from "../api/calls";
import type { KindLine } from "../api/shapes";
import { engine } from "./engine";
import { get, set, usePage } from "./store";
import { tell } from "./trouble";

/**
 * Asks for the cabinet anew, as after a kind was brought in; kinds that the scene uses from
 * elsewhere are kept.
 */
export async function refreshCabinet() {
  const cabinet = await calls.cabinet();
  const known = new Set(cabinet.kinds.map((k) => k.name));
  cabinet.kinds.push(
    ...(get().cabinet?.kinds.filter(
      (k) => k.part === null && k.name.startsWith("own-") && !known.has(k.name),
    ) ?? []),
  );
  set({ cabinet });
  engine.view?.setCabinet(cabinet, get().catalogue!.families);
}

/** Kinds that a scene brings with it and that are in no drawer here become known to the page. */
export function useForeignKinds() {
  const doc = usePage((s) => s.doc);
  const cabinet = usePage((s) => s.cabinet);
  useEffect(() => {
    if (!doc || !cabinet) return;
    const missing = [
      ...new Set([
        ...doc.planting.flatMap((s) => s.mix.map((p) => p.kind)),
        ...doc.pieces.map((p) => p.kind),
      ]),
    ].filter((k) => k.startsWith("own-") && !cabinet.kinds.some((x) => x.name === k));
    if (!missing.length) return;
    void Promise.all(missing.map((k) => calls.kindFacts(k).then((f) => f.kind as KindLine)))
      .then((kinds) => {
        const now = get().cabinet!;
        set({
          cabinet: {
            ...now,
            kinds: [
              ...now.kinds,
              ...kinds
                .filter((k) => !now.kinds.some((x) => x.name === k.name))
                .map((k) => ({ ...k, part: null })),
            ],
          },
        });
      })
      .catch(tell);
  }, [doc, cabinet]);
}
