import { useEffect, useState } from "react";
import * as calls from "../../api/calls";
import type { Sowing, ToneAnswer } from "../../api/shapes";
import { Range } from "../../controls/Range";
import { edit } from "../../state/edits";
import { get, usePage } from "../../state/store";
import { tell } from "../../state/trouble";

/** A sowing's colour beside another's, or beside the ground under it, and pulled towards it. */
export function Tones({ index, entry }: { index: number; entry: Sowing }) {
  const planting = usePage((s) => s.doc!.planting);
  const revision = usePage((s) => s.state?.revision);
  const [towards, setTowards] = useState("ground");
  const [amount, setAmount] = useState(60);
  const [found, setFound] = useState<ToneAnswer | null>(null);
  const [open, setOpen] = useState(false);
  useEffect(() => {
    if (!open) return;
    const halt = new AbortController();
    calls
      .pullTones(get().id!, { document: get().doc, sowing: entry.id, towards, amount }, halt.signal)
      .then(setFound)
      .catch((e) => {
        if (!halt.signal.aborted) {
          setFound(null);
          tell(e);
        }
      });
    return () => halt.abort();
  }, [open, towards, amount, revision, entry.id]);
  const swatch = (c: string | undefined, label: string) => (
    <span className="flex-1 text-center text-[11.5px] text-soft">
      <i
        className="block h-[22px] border border-ink"
        style={{ background: c ?? "#ddd" }}
        title={c}
      />
      {label}
    </span>
  );
  const others = planting.filter((s) => s.id !== entry.id);
  return (
    <div className="mt-1 border-t border-rule/70 pt-[2px]" data-tones>
      <button
        className="flex w-full justify-between text-left font-semibold"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        Colour<span className="font-normal text-soft">{open ? "fold" : "beside others"}</span>
      </button>
      {open && (
        <>
          <label className="mt-1 flex items-center justify-between">
            Towards
            <select
              className="text max-w-[180px]"
              aria-label="Colour towards"
              value={towards}
              onChange={(e) => setTowards(e.target.value)}
            >
              <option value="ground">the ground under it</option>
              {others.map((s) => (
                <option key={s.id} value={s.id}>
                  {s.name}
                </option>
              ))}
            </select>
          </label>
          <div className="mt-1 flex gap-[2px]">
            {swatch(found?.own, "now")}
            {swatch(found?.pulled, "pulled")}
            {swatch(found?.other, "the other")}
          </div>
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
          <div className="mt-1 flex gap-1">
            <button
              className="btn"
              data-pull-tone
              disabled={!found}
              onClick={() =>
                found &&
                void edit(`${entry.name}: colour pulled`, (d) => {
                  for (const p of found.parts) {
                    d.planting[index].mix[p.index].tint = p.tint;
                    d.planting[index].mix[p.index].bright = p.bright;
                  }
                })
              }
            >
              Pull the colour
            </button>
            {entry.mix.some((p) => p.tint !== "#ffffff" || p.bright !== 100) && (
              <button
                className="btn"
                onClick={() =>
                  void edit(`${entry.name}: own colours`, (d) => {
                    for (const p of d.planting[index].mix) {
                      p.tint = "#ffffff";
                      p.bright = 100;
                    }
                  })
                }
              >
                Its own colours
              </button>
            )}
          </div>
        </>
      )}
    </div>
  );
}
