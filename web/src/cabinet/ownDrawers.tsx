import { useState } from "react";
import * as calls from "../api/calls";
import type { Cabinet } from "../api/shapes";
import { set } from "../state/store";
import { tell } from "../state/trouble";

type OwnDrawer = Cabinet["drawers"][number];

/** A kind into a drawer of one's own, or out of it again. */
export function putInto(d: OwnDrawer, kind: string) {
  if (!kind) return;
  void calls
    .keepDrawer({
      name: d.name,
      part: d.id,
      kinds: d.kinds.includes(kind) ? d.kinds.filter((k) => k !== kind) : [...d.kinds, kind],
    })
    .then((now) =>
      set((s) => ({
        cabinet: {
          ...s.cabinet!,
          drawers: s.cabinet!.drawers.map((x) => (x.id === now.id ? now : x)),
        },
      })),
    )
    .catch(tell);
}

export function NewDrawer() {
  const [name, setName] = useState("");
  const make = () => {
    if (name.trim())
      void calls
        .keepDrawer({ name: name.trim(), kinds: [] })
        .then((d) => {
          setName("");
          set((s) => ({
            cabinet: { ...s.cabinet!, drawers: [...s.cabinet!.drawers, d] },
            cabinetAt: { drawer: `own:${d.id}`, kind: s.cabinetAt?.kind ?? null },
          }));
        })
        .catch(tell);
  };
  return (
    <div className="mt-2 flex gap-1">
      <input
        className="text min-w-0 grow"
        aria-label="Name of a new drawer"
        placeholder="new drawer"
        maxLength={40}
        value={name}
        onChange={(e) => setName(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter") make();
          if (e.key !== "Escape") e.stopPropagation();
        }}
      />
      <button className="btn" data-new-drawer disabled={!name.trim()} onClick={make}>
        Add
      </button>
    </div>
  );
}
