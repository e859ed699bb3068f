import { useState } from "react";
import { action } from "../../actions/commands";
import type { FamilyFacts, KindLine, Piece } from "../../api/shapes";
import { AddMenu } from "../../controls/AddMenu";
import type { Entry } from "../../document/entry";
import { Settings } from "../../settings/Settings";
import { set, usePage } from "../../state/store";
import { EyeButton } from "../EyeButton";
import { GroupRow } from "../GroupRow";
import { Lacking } from "./Lacking";
import { PieceTools } from "./PieceTools";
import { Together } from "./Together";
import { Tones } from "./Tones";

/** Things that are set one by one come before those that are sown, each family together. */
function byFamily(kinds: KindLine[], families: FamilyFacts[]): KindLine[] {
  const single = families.filter((f) => ["box", "outline"].includes(f.symbol));
  const rest = families.filter((f) => !single.includes(f));
  const order = [...single, ...rest].map((f) => f.name);
  return [...kinds].sort((a, b) => order.indexOf(a.family) - order.indexOf(b.family));
}

export function Pieces() {
  const pieces = usePage((s) => s.doc!.pieces);
  const chosen = usePage((s) => s.chosen);
  const tool = usePage((s) => s.tool);
  const placing = usePage((s) => s.placing);
  const several = usePage((s) => s.several);
  const cabinet = usePage((s) => s.cabinet)!;
  const families = usePage((s) => s.catalogue!.families);
  const [open, setOpen] = useState(false);
  const index = pieces.findIndex((p) => p.id === chosen);
  const label = (k: string) => cabinet.kinds.find((x) => x.name === k)?.label ?? k;
  const pick = (id: string, more: boolean) => {
    if (!more) {
      set({ chosen: id === chosen ? null : id, several: new Set() });
      return;
    }
    const now = new Set(several);
    if (!now.size && index >= 0) now.add(pieces[index].id);
    if (now.has(id)) now.delete(id);
    else now.add(id);
    set({ several: now, chosen: null });
    setOpen(true);
  };
  return (
    <div className="mt-2 border-t border-rule pt-1">
      <div className="flex items-center justify-between gap-1">
        <button className="font-semibold" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "▾" : "▸"} Placed by hand{" "}
          <span className="font-normal text-soft">{pieces.length}</span>
        </button>
        <span className="flex gap-1">
          <AddMenu
            label="piece"
            items={byFamily(cabinet.kinds, families).map((k) => ({
              key: k.name,
              label: k.label,
              group: families.find((f) => f.name === k.family)?.label,
            }))}
            onPick={(k) => set({ tool: "figure", placing: k })}
          />
          <button
            className={`btn ${tool === "figure" && placing === "person" ? "on" : ""}`}
            onClick={() => {
              set({ placing: "person" });
              action("figure").run();
            }}
          >
            Stand a person
          </button>
        </span>
      </div>
      {tool === "figure" && (
        <p className="text-moss" data-placing={placing}>
          Click the ground where{" "}
          {placing === "person" ? "the person" : `the ${label(placing).toLowerCase()}`} is to stand.
        </p>
      )}
      {several.size > 0 && <Together />}
      {open && pieces.length > 1 && !several.size && (
        <p className="text-[11.5px] text-soft">Shift and click takes several together.</p>
      )}
      {open && <Groups pieces={pieces as Piece[]} onPick={pick} />}
      {!open && index >= 0 && (
        <PieceRow piece={pieces[index] as Piece} index={index} onPick={pick} />
      )}
    </div>
  );
}

/** The pieces under their groups; those of none come last. */
function Groups({
  pieces,
  onPick,
}: {
  pieces: Piece[];
  onPick: (id: string, more: boolean) => void;
}) {
  const [folded, setFolded] = useState("");
  const groups = [...new Set(pieces.map((p) => p.group ?? ""))].sort((a, b) =>
    a && b ? a.localeCompare(b) : a ? -1 : 1,
  );
  return groups.map((group) => {
    const own = pieces.filter((p) => (p.group ?? "") === group);
    return (
      <div key={group}>
        {group && (
          <GroupRow
            list="pieces"
            group={group}
            entries={own as unknown as Entry[]}
            folded={folded === group}
            onFold={() => setFolded(folded === group ? "" : group)}
          />
        )}
        {folded !== (group || " ") &&
          own.map((p) => (
            <PieceRow key={p.id} piece={p} index={pieces.indexOf(p)} onPick={onPick} />
          ))}
      </div>
    );
  });
}

/** A piece placed by hand; unfolded when it is chosen. */
function PieceRow({
  piece,
  index,
  onPick,
}: {
  piece: Piece;
  index: number;
  onPick: (id: string, more: boolean) => void;
}) {
  const model = usePage((s) => s.catalogue!.scene.$defs.Piece);
  const chosen = usePage((s) => s.chosen === piece.id);
  const taken = usePage((s) => s.several.has(piece.id));
  const look = chosen
    ? "my-[3px] border-l-[3px] border-gold bg-paper2 px-2 py-1"
    : taken
      ? "border-l-[3px] border-gold py-[1px] pl-2"
      : "py-[1px]";
  return (
    <div data-entry={piece.id} className={look}>
      <div className="flex items-center gap-1">
        <button
          className="flex w-full justify-between text-left"
          aria-expanded={chosen}
          aria-pressed={taken}
          onClick={(e) => onPick(piece.id, e.shiftKey)}
        >
          <span>
            {piece.name}
            {piece.group ? <small className="text-soft"> {piece.group}</small> : ""}
          </span>
          <small className="text-soft">
            E {Math.round(piece.east_m)} N {Math.round(piece.north_m)}
          </small>
        </button>
        <EyeButton id={piece.id} name={piece.name} />
      </div>
      <Lacking path={`pieces.${index}.kind`} />
      {chosen && <PieceTools index={index} entry={piece} />}
      {chosen && <Settings path={["pieces", index]} model={model} owner={piece.name} />}
      {chosen && <Tones entry={piece} />}
    </div>
  );
}
