import { useState } from "react";
import { action } from "../../actions/commands";
import { doWork } from "../../actions/work";
import type { Piece } from "../../api/shapes";
import { NumberField } from "../../controls/NumberField";
import { put } from "../../document/path";
import { CabinetChoice } from "../../settings/CabinetChoice";
import { edit } from "../../state/edits";
import { usePage } from "../../state/store";

/** Copies of one piece: beside it, in a row, in a ring. */
export function PieceTools({ index, entry }: { index: number; entry: Piece }) {
  const [count, setCount] = useState(5);
  const facts = usePage((s) => s.cabinet!.kinds.find((k) => k.name === entry.kind));
  const wide = facts ? 2 * facts.reach_m * (entry.size / 100) * (entry.wide / 100) : 2;
  const [rows, setRows] = useState(3);
  const [step, setStep] = useState(+wide.toFixed(2));
  const [radius, setRadius] = useState(6);
  const copy = (how: string) =>
    void doWork("copy a piece", {
      piece: entry.id,
      how,
      count: Math.max(2, count),
      rows,
      step_m: step,
      radius_m: radius,
    });
  return (
    <div>
      <div className="flex flex-wrap gap-1">
        <button className="btn" onClick={action("goto").run}>
          Go there
        </button>
        <button
          className="btn"
          data-copy-piece
          title="Beside it, turned at random"
          onClick={() => copy("beside")}
        >
          Copy
        </button>
        <button
          className="btn"
          data-mirror-piece
          title="Its mirror image, in place"
          onClick={() =>
            void edit(`${entry.name}: ${entry.mirrored ? "as it was made" : "mirrored"}`, (d) =>
              put(d, ["pieces", index, "mirrored"], !entry.mirrored),
            )
          }
        >
          Mirror
        </button>
        <button className="btn" onClick={action("remove").run}>
          Remove
        </button>
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        <button className="btn" data-row-of onClick={() => copy("row")}>
          Row
        </button>
        of{" "}
        <NumberField
          label="Pieces in the row"
          value={count}
          unit=""
          onKeep={(v) => setCount(Math.round(v))}
        />
        every <NumberField label="Step of the row" value={step} unit="m" onKeep={setStep} />
        <button
          className="btn"
          data-array-of
          title="Rows of as many pieces, one behind the other"
          onClick={() => copy("array")}
        >
          Array
        </button>
        of{" "}
        <NumberField
          label="Rows of the array"
          value={rows}
          unit="rows"
          onKeep={(v) => setRows(Math.max(1, Math.round(v)))}
        />
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        <button
          className="btn"
          data-ring-of
          title="A ring that begins with this piece and lies to its north, open by one"
          onClick={() => copy("ring")}
        >
          Ring
        </button>
        with a radius of{" "}
        <NumberField label="Radius of the ring" value={radius} unit="m" onKeep={setRadius} />
      </div>
      <CabinetChoice
        drawer="kind"
        value={entry.kind}
        label="Kind"
        onKeep={(v) =>
          void edit(`${entry.name}: ${v} instead`, (d) => {
            put(d, ["pieces", index, "kind"], v);
            put(d, ["pieces", index, "variant"], 0);
          })
        }
      />
    </div>
  );
}
