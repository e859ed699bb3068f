import { useState } from "react";
import { edit } from "../../state/edits";
import { usePage } from "../../state/store";

/** The same stance for several sowings at once. */
export function StanceFor({ index }: { index: number }) {
  const planting = usePage((s) => s.doc!.planting);
  const [ticked, setTicked] = useState<Set<string>>(new Set());
  const own = planting[index];
  if (planting.length < 2 || !own) return null;
  const flip = (id: string) =>
    setTicked((t) => {
      const n = new Set(t);
      if (n.has(id)) n.delete(id);
      else n.add(id);
      return n;
    });
  return (
    <div className="mt-1 border-t border-rule/70 pt-1" data-stance-for>
      <span className="text-soft">The same stance for</span>
      <div className="grid grid-cols-2">
        {planting
          .filter((s) => s.id !== own.id)
          .map((s) => (
            <label key={s.id} className="flex items-center gap-1 truncate">
              <input
                type="checkbox"
                className="accent-moss"
                checked={ticked.has(s.id)}
                onChange={() => flip(s.id)}
              />
              {s.name}
            </label>
          ))}
      </div>
      <button
        className="btn mt-1"
        data-give-stance
        disabled={!ticked.size}
        onClick={() =>
          void edit(`Stance of ${own.name} for ${ticked.size} more`, (d) => {
            for (const s of d.planting)
              if (ticked.has(s.id)) s.stance = structuredClone(d.planting[index].stance);
          })
        }
      >
        Give it to {ticked.size || "them"}
      </button>
    </div>
  );
}
