import { useRef, useState } from "react";
import { dropRaster, RASTERS } from "../actions/bringIn";
import { keepShot } from "../actions/camera";
import { type ListName, listOf } from "../document/lists";
import { edit } from "../state/edits";
import { set, usePage } from "../state/store";
import { AddEntry } from "./AddEntry";
import { EntryRow } from "./EntryRow";
import { SectionTools, type Tool } from "./SectionTools";
import { DrawButtons } from "./marks/DrawButtons";
import { newMask } from "./marks/MaskPanel";
import { PlacesButton } from "./planting/Places";

const ADD: Partial<Record<ListName, string>> = {
  land: "landform or process",
  far: "far land",
  water: "water",
  ground: "material",
  planting: "sowing",
};

/** What judges, replaces or shows a whole section. */
const TOOLS: Partial<Record<ListName, [string, Tool[]][]>> = {
  land: [
    [
      "whole",
      [
        ["lands", "ready lands"],
        ["proof", "proof"],
        ["reality", "reality"],
      ],
    ],
  ],
  ground: [
    [
      "whole",
      [
        ["ground-presets", "sets"],
        ["texture-sizes", "texels"],
        ["why", "why here"],
      ],
    ],
  ],
  planting: [
    [
      "find",
      [
        ["cabinet", "cabinet"],
        ["mixes", "mixes"],
      ],
    ],
    [
      "judge",
      [
        ["proof", "proof"],
        ["faults", "faults"],
        ["why", "why here"],
      ],
    ],
    [
      "view",
      [
        ["alone", "alone"],
        ["cards", "cards"],
        ["play", "wind"],
      ],
    ],
  ],
};

export function EntryList({ list, empty }: { list: ListName; empty?: string }) {
  const entries = usePage((s) => listOf(s.doc!, list));
  const input = useRef<HTMLInputElement>(null);
  const [folded, setFolded] = useState<Set<string>>(new Set());
  const rows: React.ReactNode[] = [];
  // a group of these may span ground, plants and pieces
  const spanning = list === "ground" || list === "planting";
  const whole = usePage((s) => s.doc!);
  const others = spanning
    ? ([...whole.ground, ...whole.planting, ...whole.pieces] as { group?: string }[])
    : [];
  entries.forEach((e, i) => {
    const group = (e.group ?? "") as string;
    const first = group && group !== (entries[i - 1]?.group ?? "");
    if (first) {
      const n = entries.findIndex((x, k) => k > i && x.group !== group);
      const last = n < 0 ? entries.length : n;
      const ids = entries.slice(i, last).map((x) => x.id);
      const on = entries.slice(i, last).every((x) => x.on);
      rows.push(
        <div
          key={`g-${e.id}`}
          className="mt-1 flex items-center gap-2 border-b border-rule bg-paper2/70 px-1 text-[12px]"
        >
          <button
            className="grow text-left font-semibold"
            aria-expanded={!folded.has(group)}
            onClick={() =>
              setFolded((f) => {
                const g = new Set(f);
                if (g.has(group)) g.delete(group);
                else g.add(group);
                return g;
              })
            }
          >
            {folded.has(group) ? "▸" : "▾"} {group}{" "}
            <span className="font-normal text-soft">
              {ids.length}
              {others.filter((o) => o.group === group).length > ids.length
                ? `, ${others.filter((o) => o.group === group).length} with ground, plants and pieces`
                : ""}
            </span>
          </button>
          <label className="flex items-center gap-1 text-soft">
            <input
              type="checkbox"
              className="accent-moss"
              aria-label={`Group ${group} on`}
              checked={on}
              onChange={(ev) =>
                void edit(`Group ${group}: ${ev.target.checked ? "on" : "off"}`, (d) => {
                  for (const x of spanning
                    ? ([...d.ground, ...d.planting, ...d.pieces] as {
                        group?: string;
                        on: boolean;
                      }[])
                    : listOf(d, list))
                    if (x.group === group) x.on = ev.target.checked;
                })
              }
            />
            on
          </label>
        </div>,
      );
    }
    if (!group || !folded.has(group))
      rows.push(<EntryRow key={e.id} list={list} index={i} entry={e} />);
  });
  return (
    <div>
      {!entries.length && empty && <p className="mb-1 text-soft">{empty}</p>}
      {rows}
      <div className="mt-1 flex flex-wrap gap-1">
        {ADD[list] && <AddEntry list={list} label={ADD[list]!} />}

        {list === "planting" && <PlacesButton />}
        {list === "shots" && (
          <button className="btn" onClick={keepShot}>
            Keep this view
          </button>
        )}
        {list === "marks" && (
          <>
            <DrawButtons />
            <button className="btn" data-new-mask onClick={newMask}>
              Paint a mask
            </button>
            <button className="btn" onClick={() => input.current?.click()}>
              Mask picture…
            </button>
            <button className="btn" data-zone-map onClick={() => set({ dialog: "zones" })}>
              Zone map…
            </button>
            <input
              ref={input}
              type="file"
              accept={RASTERS}
              className="hidden"
              onChange={(e) => {
                const f = e.target.files?.[0];
                if (f) void dropRaster(f);
                e.target.value = "";
              }}
            />
          </>
        )}
      </div>
      {(TOOLS[list] ?? []).map(([label, tools]) => (
        <SectionTools key={label} label={label} tools={tools} />
      ))}
    </div>
  );
}
