import { useState } from "react";
import * as calls from "../api/calls";
import type { FamilyFacts, KindLine } from "../api/shapes";
import { refreshCabinet } from "../state/catalogue";
import { set, usePage } from "../state/store";
import { tell } from "../state/trouble";
import { BringIn } from "./BringIn";
import { ExhibitForm } from "./ExhibitForm";
import { KindSheet } from "./KindSheet";
import { ModelForm } from "./ModelForm";
import { Specimen } from "./Specimen";
import { SupplierDrawer } from "./SupplierDrawer";
import { UsedDrawer } from "./UsedDrawer";
import { NewDrawer, putInto } from "./ownDrawers";
import { useNumbers } from "./useNumbers";

/** The looks to show kinds in, summer first. */
const looksOf = (looks: string[]) => ["summer", ...looks.filter((l) => l !== "summer")];

type Drawer = [string, string, (k: KindLine) => boolean];

const FRONT =
  "relative mb-[3px] flex w-full items-center justify-between border px-2 py-[3px] text-left";
const PULLED = "translate-x-[5px] border-moss bg-[#fffdf7] font-semibold text-moss";

/** Every kind, a drawer for each family, the favourites, the own models. */
const drawersOf = (families: FamilyFacts[]): Drawer[] => [
  ["all", "Every kind", () => true],
  ...families.map((f): Drawer => [f.name, f.label, (k) => k.family === f.name]),
  ["favourite", "Favourites", (k) => k.favourite],
  ["own", "Own models", (k) => k.name.startsWith("own-")],
];

export function CabinetSheet() {
  const open = usePage((s) => s.cabinetAt);
  const cabinet = usePage((s) => s.cabinet);
  const [sought, setSought] = useState("");
  const [look, setLook] = useState("summer");
  const [lifted, setLifted] = useState(false);
  const numbers = useNumbers();
  const catalogue = usePage((s) => s.catalogue);
  if (!open || !cabinet || !catalogue) return null;
  const drawers = drawersOf(catalogue.families);
  const { drawer } = open;
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  const own = cabinet.drawers.find((d) => `own:${d.id}` === drawer);
  const test =
    drawers.find(([d]) => d === drawer)?.[2] ??
    ((k: KindLine) => !own || own.kinds.includes(k.name));
  const inDrawer = (t: (k: KindLine) => boolean) => cabinet.kinds.filter(t);
  const found = (
    drawer === "used"
      ? cabinet.kinds.filter((k) => numbers.has(k.name))
      : words.length
        ? cabinet.kinds
        : inDrawer(test)
  ).filter((k) =>
    words.every((w) => `${k.label} ${k.name} ${k.family} ${k.tags}`.toLowerCase().includes(w)),
  );
  const pull = (d: string) => {
    setSought("");
    set({ cabinetAt: { drawer: d, kind: open.kind } });
  };
  const front = (d: string, label: string, count: number) => (
    <button
      key={d}
      data-drawer={d}
      aria-pressed={drawer === d}
      onClick={() => pull(d)}
      className={`${FRONT} ${drawer === d ? PULLED : "border-rule bg-paper hover:bg-paper2"}`}
    >
      <span className="truncate">{label}</span>
      <span className="flex shrink-0 items-center gap-[6px] pl-2 text-[11.5px] text-soft">
        {count || ""}
        <i className="inline-block h-[3px] w-[7px] rounded-full bg-ink/40" />
      </span>
    </button>
  );
  return (
    <div
      role="dialog"
      aria-label="The cabinet"
      data-cabinet={drawer}
      className={
        "absolute inset-0 z-30 grid grid-cols-[176px_minmax(0,1fr)_236px] bg-paper " +
        `${lifted ? "invisible" : ""}`
      }
    >
      <div className="min-h-0 overflow-y-auto border-r border-ink bg-paper2 p-2">
        <div className="mb-2 flex items-baseline justify-between">
          <b className="font-show text-[16px] italic">The cabinet</b>
        </div>
        {drawers.map(([d, label, t]) => front(d, label, inDrawer(t).length))}
        {cabinet.drawers.map((d) => (
          <div
            key={d.id}
            onDragOver={(e) => {
              if (e.dataTransfer.types.includes("sow/kind")) {
                e.preventDefault();
                e.stopPropagation();
              }
            }}
            onDrop={(e) => {
              e.preventDefault();
              e.stopPropagation();
              putInto(d, e.dataTransfer.getData("sow/kind"));
            }}
          >
            {front(`own:${d.id}`, d.name, d.kinds.length)}
          </div>
        ))}
        {front("used", "Used in this scene", numbers.size)}
        {front("supplier", "Supplier", 0)}
        <NewDrawer />
        <BringIn />
        {cabinet.left_out.map((line) => (
          <p key={line} data-left-out className="mt-2 text-soft">
            Left out: {line}
          </p>
        ))}
      </div>
      <div className="flex min-h-0 flex-col">
        <div className="flex items-center gap-2 border-b border-rule px-3 py-2">
          <input
            className="text w-[230px]"
            autoFocus
            aria-label="Find a kind"
            placeholder="find: wet, evergreen, stone, white…"
            value={sought}
            onChange={(e) => setSought(e.target.value)}
            onKeyDown={(e) => {
              if (e.key !== "Escape") e.stopPropagation();
            }}
          />
          <select
            className="text"
            aria-label="Look"
            value={look}
            onChange={(e) => setLook(e.target.value)}
          >
            {looksOf(catalogue.looks).map((l) => (
              <option key={l} value={l}>
                {l}
              </option>
            ))}
          </select>
          {own && (
            <button
              className="btn"
              data-drop-drawer
              onClick={() =>
                void calls
                  .deletePart(own.id)
                  .then(() => {
                    set({ cabinetAt: { drawer: "all", kind: open.kind } });
                    return refreshCabinet();
                  })
                  .catch(tell)
              }
            >
              Take the drawer away
            </button>
          )}
          <span className="grow text-right text-soft">
            {drawer === "supplier" ? "" : `${found.length} kinds`}
          </span>
          <button className="btn" data-close-cabinet onClick={() => set({ cabinetAt: null })}>
            Close
          </button>
        </div>
        {drawer === "supplier" ? (
          <SupplierDrawer />
        ) : drawer === "used" && !words.length ? (
          <UsedDrawer numbers={numbers} />
        ) : (
          <div
            className={
              "grid min-h-0 auto-rows-min " +
              "grid-cols-[repeat(auto-fill,minmax(112px,1fr))] gap-2 overflow-y-auto p-3"
            }
            data-found={found.length}
          >
            {found.map((k) => (
              <Specimen
                key={k.name}
                kind={k}
                look={look}
                on={k.name === open.kind}
                number={numbers.get(k.name) ?? 0}
                onLift={setLifted}
              />
            ))}
            {!found.length && (
              <p className="col-span-full text-soft">
                {drawer === "own"
                  ? "Nothing was brought in yet: drop a .glb here, or an .obj with its .mtl " +
                    "and pictures."
                  : drawer === "favourite"
                    ? "No favourites yet: mark a kind with its star."
                    : own
                      ? "An empty drawer: choose a kind and put it here, or draw its card " +
                        "onto the drawer."
                      : "Nothing of that name."}
              </p>
            )}
          </div>
        )}
      </div>
      <div className="min-h-0 overflow-y-auto border-l border-ink px-3 py-2">
        {open.exhibit ? (
          <ExhibitForm />
        ) : open.model ? (
          <ModelForm
            key={open.model.source + (open.part ?? "")}
            model={open.model}
            part={open.part ?? null}
          />
        ) : open.kind ? (
          <KindSheet key={open.kind} name={open.kind} look={look} />
        ) : (
          <p className="mt-8 text-soft">
            Choose a kind to see what it is, where it is used, and to sow it or stand it on the
            ground. A card can be drawn onto the face.
          </p>
        )}
      </div>
    </div>
  );
}
