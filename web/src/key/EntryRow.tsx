import { Eye, EyeOff } from "lucide-react";
import { useLayoutEffect, useRef, useState } from "react";
import { action } from "../actions/commands";
import * as urls from "../api/urls";
import type { Entry } from "../document/entry";
import { type ListName, listOf } from "../document/lists";
import { shown } from "../document/numbers";
import { edit } from "../state/edits";
import { engine } from "../state/engine";
import { get, set, usePage } from "../state/store";
import { EntryDetails } from "./EntryDetails";
import { subtitle } from "./subtitle";

/** How a landform joins what lies below it. */
function combined(entry: Entry): string {
  if (entry.combine === "mix") return `mix ${shown(entry.share as number)} %`;
  const choice = usePage.getState().catalogue!.scene.$defs.Noise.properties.combine;
  return choice.sow?.labels?.[String(entry.combine)] ?? String(entry.combine);
}

export function EntryRow({ list, index, entry }: { list: ListName; index: number; entry: Entry }) {
  const chosen = usePage(
    (s) => s.chosen === entry.id || (list === "planting" && s.chosen === `sown-${entry.id}`),
  );
  const [over, setOver] = useState(false);
  const picture = usePage((s) => s.manifest?.pictures[entry.id]);
  const catalogue = usePage((s) => s.catalogue!);
  const manifest = usePage((s) => s.manifest);
  const hidden = usePage((s) => s.hidden.has(entry.id));
  const [last, setLast] = useState(picture);
  const ref = useRef<HTMLDivElement>(null);
  if (picture && picture !== last) setLast(picture);
  useLayoutEffect(() => {
    if (chosen) ref.current?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  const src = list === "shots" || list === "marks" || list === "water" ? null : (picture ?? last);
  return (
    <div
      ref={ref}
      data-entry={entry.id}
      onDragOver={(ev) => {
        if (ev.dataTransfer.types.includes(`sow/${list}`)) {
          ev.preventDefault();
          ev.stopPropagation();
          setOver(true);
        }
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(ev) => {
        setOver(false);
        const from = +ev.dataTransfer.getData(`sow/${list}`);
        if (!ev.dataTransfer.types.includes(`sow/${list}`)) return;
        ev.preventDefault();
        ev.stopPropagation();
        if (from !== index)
          void edit(`${listOf(get().doc!, list)[from].name}: moved`, (d) => {
            const l = listOf(d, list);
            l.splice(index, 0, ...l.splice(from, 1));
          });
      }}
      style={over ? { boxShadow: "0 -2px 0 #4d6a3a" } : undefined}
      className={
        chosen
          ? "my-[3px] scroll-mt-8 border-l-[3px] border-gold bg-paper2 py-1 pr-2 pl-2"
          : "py-[3px]"
      }
    >
      <div
        className="flex cursor-pointer items-center gap-2"
        draggable
        onDragStart={(ev) => {
          ev.dataTransfer.setData(`sow/${list}`, String(index));
          ev.dataTransfer.effectAllowed = "move";
        }}
        onClick={() => set({ chosen: chosen ? null : entry.id })}
      >
        <span className="h-[17px] w-[17px] shrink-0 rounded-full border border-ink text-center text-[11px] leading-[15px]">
          {index + 1}
        </span>
        {src ? (
          <img
            src={urls.product(src)}
            alt=""
            className="h-[26px] w-[36px] shrink-0 border border-ink object-cover"
            onError={(e) => {
              (e.target as HTMLImageElement).style.visibility = "hidden";
            }}
          />
        ) : list === "water" ? (
          <span
            className="h-[26px] w-[36px] shrink-0 border border-ink bg-slate"
            style={{ background: `linear-gradient(#8fb0bd, ${entry.tint ?? "#2e3a33"})` }}
          />
        ) : null}
        <button
          className={`min-w-0 grow text-left leading-tight ${entry.on ? "" : "opacity-45"}`}
          aria-expanded={chosen}
          onClick={(e) => {
            e.stopPropagation();
            set({ chosen: chosen ? null : entry.id });
          }}
        >
          <span className="block truncate">{entry.name}</span>
          <small className="block truncate text-[11.5px] text-soft">
            {subtitle(list, entry, catalogue, manifest)}
          </small>
        </button>
        {(list === "land" || list === "far") && (
          <small className="text-soft">{entry.combine ? combined(entry) : "rework"}</small>
        )}
        {list === "planting" && (
          <button
            className="icon"
            title={
              hidden ? "Hidden in the view only; it is in the picture's files" : "Hide in the view"
            }
            aria-label={`Hide ${entry.name} in the view`}
            aria-pressed={hidden}
            onClick={(e) => {
              e.stopPropagation();
              const h = new Set(get().hidden);
              if (h.has(entry.id)) h.delete(entry.id);
              else h.add(entry.id);
              set({ hidden: h });
              const s = get();
              if (s.products) engine.view?.setScene(s.doc!, s.products, h);
            }}
          >
            {hidden ? <EyeOff size={13} /> : <Eye size={13} />}
          </button>
        )}
        {list === "shots" && (
          <button
            className="btn"
            onClick={(e) => {
              e.stopPropagation();
              set({ chosen: entry.id, insetShot: entry.id });
              action("goto").run();
            }}
          >
            step in
          </button>
        )}
      </div>
      {chosen && <EntryDetails list={list} index={index} entry={entry} />}
    </div>
  );
}
