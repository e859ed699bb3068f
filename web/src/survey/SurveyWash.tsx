import { useEffect } from "react";
import * as calls from "../api/calls";
import { engine } from "../state/engine";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";
import { fetchSheet } from "../view/products";

/**
 * Measures the sheet that is laid out again whenever the land changes, and lays it over the view.
 */
export function SurveyWash() {
  const sheet = usePage((s) => s.sheet);
  const manifest = usePage((s) => s.manifest);
  const id = usePage((s) => s.id);
  const kind = sheet?.kind;
  const entry = sheet?.entry ?? "";
  const latitude = sheet?.latitude;
  const day = sheet?.day;
  const land = manifest && !manifest.draft ? manifest.heights : null;
  useEffect(() => {
    if (!kind || land === null || kind === "difference") return;
    const stop = new AbortController();
    void (async () => {
      try {
        const asked = { document: get().doc, kind, entry, latitude, day };
        const answer = await calls.survey(id!, asked, stop.signal);
        const values = await fetchSheet(answer.key);
        if (!stop.signal.aborted)
          set((s) => ({ sheet: s.sheet && { ...s.sheet, answer, values } }));
      } catch (e) {
        if (!stop.signal.aborted) {
          tell(e);
          set({ sheet: null });
        }
      }
    })();
    return () => stop.abort();
  }, [kind, entry, latitude, day, land, id]);
  const values = sheet?.values;
  const answer = sheet?.answer;
  useEffect(() => {
    if (!values || !answer) {
      engine.view?.sheet(null);
      return;
    }
    engine.view?.sheet(values, answer.low, answer.high, 8, answer.log);
  }, [values, answer]);
  return null;
}
