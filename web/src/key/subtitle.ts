import type { Catalogue, Manifest } from "../api/shapes";
import type { Entry } from "../document/entry";
import type { ListName } from "../document/lists";
import { shown } from "../document/numbers";
import { modelOf } from "../document/schema";
import { filled } from "../document/subtitle";

/** What stands under an entry's name: its own template, or the live figure of its list. */
export function subtitle(
  list: ListName,
  entry: Entry,
  catalogue: Catalogue,
  manifest: Manifest | null,
): string {
  const live = LIVE[list];
  if (live) return live(entry, manifest);
  const template = catalogue.entries[entry.kind ?? ""]?.subtitle;
  return template ? filled(template, entry, modelOf(catalogue.scene, list, entry.kind)) : "process";
}

type Tell = (entry: Entry, manifest: Manifest | null) => string;

const LIVE: Partial<Record<ListName, Tell>> = {
  marks: (e) =>
    e.kind === "mask" ? "mask picture" : `${e.kind}${e.clearing ? ", a clearing" : ""}`,
  water: (e, m) => {
    const wet = m?.water.find((w) => w.id === e.id)?.wet_m2 ?? 0;
    const word =
      e.reach === "stream"
        ? `stream, ${shown(e.deep_m as number)} m deep`
        : `level ${shown(e.level_m as number)} m`;
    return `${word}, ${shown(wet)} m²`;
  },
  ground: (e, m) => `${shown((m?.shares[e.id] ?? 0) * 100)} % of the ground`,
  "far ground": (e) => String(e.texture ? "own texture" : e.ground),
  planting: (e, m) => {
    const line = m?.sown.find((x) => x.id === e.id);
    if (!line) return "off";
    return `${line.count.toLocaleString("en")}${line.capped ? ", no room for more" : ""}`;
  },
  shots: (e) => `${shown(e.focal_mm as number)} mm, eye ${shown(e.eye_m as number)} m`,
};
