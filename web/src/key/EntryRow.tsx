import { useLayoutEffect, useRef, useState } from "react";
import { shotAtHand, stepInto, stepOut } from "../actions/shots";
import * as urls from "../api/urls";
import type { Entry } from "../document/entry";
import { type ListName, listOf } from "../document/lists";
import { shown } from "../document/numbers";
import { edit } from "../state/edits";
import { get, set, usePage } from "../state/store";
import { EntryDetails } from "./EntryDetails";
import { EyeButton } from "./EyeButton";
import { subtitle } from "./subtitle";

/** Lists whose entries the eye does not hide, and those whose entries have a picture. */
const WITHOUT_EYE: ListName[] = ["moves"];
const PICTURED: ListName[] = ["land", "far", "ground", "planting"];

/** How a landform joins what lies below it. */
function combined(entry: Entry): string {
  if (!entry.combine) return "rework";
  if (entry.combine === "mix") return `mix ${shown(entry.share as number)} %`;
  const choice = get().catalogue!.scene.$defs.Noise.properties.combine;
  return choice.sow?.labels?.[String(entry.combine)] ?? String(entry.combine);
}

/** Moving an entry to another place of its list by dragging. */
function useDragged(list: ListName, index: number) {
  const [over, setOver] = useState(false);
  const type = `sow/${list}`;
  const moveHere = (from: number) => {
    if (from === index) return;
    void edit(`${listOf(get().doc!, list)[from].name}: moved`, (d) => {
      const l = listOf(d, list);
      l.splice(index, 0, ...l.splice(from, 1));
    });
  };
  const target = {
    onDragOver: (e: React.DragEvent) => {
      if (!e.dataTransfer.types.includes(type)) return;
      e.preventDefault();
      e.stopPropagation();
      setOver(true);
    },
    onDragLeave: () => setOver(false),
    onDrop: (e: React.DragEvent) => {
      setOver(false);
      if (!e.dataTransfer.types.includes(type)) return;
      e.preventDefault();
      e.stopPropagation();
      moveHere(+e.dataTransfer.getData(type));
    },
  };
  const source = {
    draggable: true,
    onDragStart: (e: React.DragEvent) => {
      e.dataTransfer.setData(type, String(index));
      e.dataTransfer.effectAllowed = "move";
    },
  };
  return { over, target, source };
}

/** An entry of the key: its number, what it alone contributes, its name; unfolded when chosen. */
export function EntryRow({ list, index, entry }: { list: ListName; index: number; entry: Entry }) {
  const chosen = usePage(
    (s) => s.chosen === entry.id || (list === "planting" && s.chosen === `sown-${entry.id}`),
  );
  const catalogue = usePage((s) => s.catalogue!);
  const manifest = usePage((s) => s.manifest);
  const ref = useRef<HTMLDivElement>(null);
  const { over, target, source } = useDragged(list, index);
  const choose = () => set({ chosen: chosen ? null : entry.id });
  useLayoutEffect(() => {
    if (chosen) ref.current?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  return (
    <div
      ref={ref}
      data-entry={entry.id}
      {...target}
      style={over ? { boxShadow: "0 -2px 0 #4d6a3a" } : undefined}
      className={
        chosen
          ? "my-[3px] scroll-mt-8 border-l-[3px] border-gold bg-paper2 py-1 pr-2 pl-2"
          : "py-[3px]"
      }
    >
      <div className="flex cursor-pointer items-center gap-2" {...source} onClick={choose}>
        <span
          className={
            "h-[17px] w-[17px] shrink-0 rounded-full border border-ink text-center " +
            "text-[11px] leading-[15px]"
          }
        >
          {index + 1}
        </span>
        <Swatch list={list} entry={entry} />
        <button
          className={`min-w-0 grow text-left leading-tight ${entry.on ? "" : "opacity-45"}`}
          aria-expanded={chosen}
          onClick={(e) => {
            e.stopPropagation();
            choose();
          }}
        >
          <span className="block truncate">{entry.name}</span>
          <small className="block truncate text-[11.5px] text-soft">
            {subtitle(list, entry, catalogue, manifest)}
          </small>
        </button>
        {(list === "land" || list === "far") && (
          <small className="text-soft">{combined(entry)}</small>
        )}
        {!WITHOUT_EYE.includes(list) && <EyeButton id={entry.id} name={entry.name} />}
        {list === "shots" && <StepIn id={entry.id} />}
      </div>
      {chosen && <EntryDetails list={list} index={index} entry={entry} />}
    </div>
  );
}

/** The small picture of what an entry alone contributes; the last one while the next is drawn. */
function Swatch({ list, entry }: { list: ListName; entry: Entry }) {
  const picture = usePage((s) => s.manifest?.pictures[entry.id]);
  const [last, setLast] = useState(picture);
  if (picture && picture !== last) setLast(picture);
  const key = picture ?? last;
  if (list === "water")
    return (
      <span
        className="h-[26px] w-[36px] shrink-0 border border-ink bg-slate"
        style={{ background: `linear-gradient(#8fb0bd, ${entry.tint ?? "#2e3a33"})` }}
      />
    );
  if (!PICTURED.includes(list) || !key) return null;
  return (
    <img
      src={urls.product(key)}
      alt=""
      className="h-[26px] w-[36px] shrink-0 border border-ink object-cover"
      onError={(e) => {
        (e.target as HTMLImageElement).style.visibility = "hidden";
      }}
    />
  );
}

function StepIn({ id }: { id: string }) {
  const within = usePage((s) => s.stepped?.shot === id);
  return (
    <button
      className={`btn ${within ? "on" : ""}`}
      onClick={(e) => {
        e.stopPropagation();
        if (within) {
          stepOut();
          return;
        }
        set({ chosen: id });
        stepInto(shotAtHand()!);
      }}
    >
      {within ? "step out" : "step in"}
    </button>
  );
}
