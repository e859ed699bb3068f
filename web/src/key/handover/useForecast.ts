import { useEffect, useState } from "react";
import * as calls from "../../api/calls";
import type { HandOver, HandOverForecast } from "../../api/shapes";
import { usePage } from "../../state/store";

/** A hand-over that is asked for: posts along the longer side, options by exporter. */
export type Order = HandOver;

/** What an order will make, asked anew when it or the scene changes. */
export function useForecast(order: Order): HandOverForecast | null {
  const id = usePage((s) => s.id);
  const revision = usePage((s) => s.state?.revision);
  const ready = usePage(
    (s) =>
      !!s.manifest && !s.manifest.draft && s.job?.state !== "running" && s.job?.state !== "waiting",
  );
  const [cost, setCost] = useState<HandOverForecast | null>(null);
  const asked = JSON.stringify(order);
  useEffect(() => {
    if (!ready) return;
    const halt = new AbortController();
    calls
      .forecastHandOver(id!, JSON.parse(asked) as Order, halt.signal)
      .then(setCost)
      .catch(() => {
        /* a scene that cannot be built tells so by itself */
      });
    return () => halt.abort();
  }, [asked, id, revision, ready]);
  return cost;
}
