import { useState } from "react";
import { doWork } from "../../actions/work";
import { NumberField } from "../../controls/NumberField";
import { CabinetChoice } from "../../settings/CabinetChoice";
import { set, usePage } from "../../state/store";

/**
 * Several pieces at once: moved, turned about their middle, sized, sunk, mirrored, swapped,
 * grouped, copied, removed.
 */
export function Together() {
  const several = usePage((s) => s.several);
  const every = usePage((s) => s.doc!.pieces);
  const pieces = every.filter((p) => several.has(p.id));
  const [by, setBy] = useState({ east: 0, north: 0, turn: 0, size: 100, sink: 0 });
  const [group, setGroup] = useState("");
  const together = (how: string, more: object = {}) =>
    void doWork("pieces together", { pieces: [...several], how, ...more });
  const apply = () =>
    together("move", {
      east_m: by.east,
      north_m: by.north,
      turn: by.turn,
      size: by.size,
      sink_cm: by.sink,
    });
  const num = (k: keyof typeof by, label: string, unit: string) => (
    <span className="flex items-baseline justify-between">
      <span>{label}</span>
      <NumberField
        label={`${label} together`}
        value={by[k]}
        unit={unit}
        signed
        onKeep={(v) => setBy({ ...by, [k]: v })}
      />
    </span>
  );
  return (
    <div
      className="my-1 border-l-[3px] border-gold bg-paper2 px-2 py-1"
      data-together={pieces.length}
    >
      <div className="flex justify-between">
        <b>{pieces.length} together</b>
        <button className="text-soft underline" onClick={() => set({ several: new Set() })}>
          let go
        </button>
      </div>
      <div className="grid grid-cols-2 gap-x-4">
        {num("east", "East", "m")}
        {num("north", "North", "m")}
        {num("turn", "Turn", "°")}
        {num("size", "Size", "%")}
        {num("sink", "Sink", "cm")}
      </div>
      <div className="mt-1 flex flex-wrap gap-1">
        <button className="btn do" data-move-together onClick={apply}>
          Do it
        </button>
        <button className="btn" onClick={() => together("scatter")}>
          Turn at random
        </button>
        <button className="btn" onClick={() => together("ground")}>
          Drop to the ground
        </button>
        <button className="btn" onClick={() => together("copy")}>
          Copy
        </button>
        <button className="btn" data-mirror-together onClick={() => together("mirror")}>
          Mirror beside
        </button>
        <button
          className="btn"
          onClick={() => {
            together("remove");
            set({ several: new Set() });
          }}
        >
          Remove
        </button>
      </div>
      <div className="mt-1 flex items-center gap-1">
        <input
          className="text min-w-0 grow"
          placeholder="group"
          aria-label="Group of the pieces"
          value={group}
          maxLength={40}
          onChange={(e) => setGroup(e.target.value)}
          onKeyDown={(e) => e.stopPropagation()}
        />
        <button className="btn" onClick={() => together("group", { value: group })}>
          Put into the group
        </button>
      </div>
      <CabinetChoice
        drawer="kind"
        value={pieces.every((p) => p.kind === pieces[0]?.kind) ? (pieces[0]?.kind ?? "") : ""}
        label="Another kind for all"
        onKeep={(v) => together("kind", { value: v })}
      />
    </div>
  );
}
