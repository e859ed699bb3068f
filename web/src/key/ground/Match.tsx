import { useState } from "react";
import * as calls from "../../api/calls";
import { Fold } from "../../controls/Fold";
import { Labelled } from "../../controls/Labelled";
import { Range } from "../../controls/Range";
import { edit } from "../../state/edits";
import { get, usePage } from "../../state/store";
import { tell } from "../../state/trouble";

/** Pulls a material's colour towards the plants, another material or the pinned place. */
export function Match({ entry, index }: { entry: { id: string; name: string }; index: number }) {
  const ground = usePage((s) => s.doc!.ground);
  const place = usePage((s) => (s.pinned ? s.place : null));
  const [towards, setTowards] = useState("plants");
  const [amount, setAmount] = useState(70);
  const pull = async (share: number) => {
    try {
      const [kind, other] = towards.split(":");
      const found = await calls.matchColour(get().id!, {
        document: get().doc,
        material: entry.id,
        towards: kind,
        other: other ?? "",
        east: place?.east ?? 0,
        north: place?.north ?? 0,
        amount: share,
      });
      await edit(`${entry.name}: matched`, (d) => Object.assign(d.ground[index], found));
    } catch (e) {
      tell(e);
    }
  };
  return (
    <Fold title="Match" note="colour towards…">
      <Labelled label="Towards">
        <select
          className="text max-w-[190px]"
          aria-label="Match towards"
          value={towards}
          onChange={(e) => setTowards(e.target.value)}
        >
          <option value="plants">the plants on it</option>
          {place && <option value="place">the place that is pinned</option>}
          {ground.map(
            (g, i) =>
              i !== index && (
                <option key={g.id} value={`material:${g.id}`}>
                  {g.name}
                </option>
              ),
          )}
        </select>
      </Labelled>
      <Range
        label="By"
        value={amount}
        unit="%"
        min={0}
        max={100}
        low={0}
        high={100}
        log={false}
        step={1}
        onDrag={setAmount}
        onKeep={setAmount}
      />
      <button className="btn mt-1" data-match onClick={() => void pull(amount)}>
        Pull the colour
      </button>
    </Fold>
  );
}
