import { useEffect, useState } from "react";
import * as calls from "../../api/calls";
import type { Piece, Scene, Sowing, ToneAnswer } from "../../api/shapes";
import { Range } from "../../controls/Range";
import { edit } from "../../state/edits";
import { get, usePage } from "../../state/store";
import { tell } from "../../state/trouble";

const WHAT = ["hue", "saturation", "lightness"] as const;
const NONE = { tint: "#ffffff", bright: 100 };

type Tinted = { tint: string; bright: number };

const bare = ({ tint, bright }: Tinted): Tinted => ({ tint, bright });

/** What is tinted of a sowing or a piece: the parts of its mix, or itself. */
function tintedOf(d: Pick<Scene, "planting" | "pieces">, id: string): Tinted[] {
  const sowing = d.planting.find((s) => s.id === id);
  const found = sowing ? sowing.mix : d.pieces.filter((p) => p.id === id);
  return found as unknown as Tinted[];
}

/**
 * A sowing's or a piece's colour beside another's, or beside the ground under it, and pulled
 * towards it.
 */
export function Tones({ entry }: { entry: Sowing | Piece }) {
  const planting = usePage((s) => s.doc!.planting);
  const pieces = usePage((s) => s.doc!.pieces);
  const tinted = tintedOf({ planting, pieces }, entry.id);
  const revision = usePage((s) => s.state?.revision);
  const [towards, setTowards] = useState("ground");
  const [amount, setAmount] = useState(60);
  const [found, setFound] = useState<ToneAnswer | null>(null);
  const [what, setWhat] = useState<(typeof WHAT)[number][]>([...WHAT]);
  const [open, setOpen] = useState(false);
  useEffect(() => {
    if (!open) return;
    const halt = new AbortController();
    const asked = { document: get().doc, entry: entry.id, towards, amount, what };
    calls
      .pullTones(get().id!, asked, halt.signal)
      .then(setFound)
      .catch((e) => {
        if (!halt.signal.aborted) {
          setFound(null);
          tell(e);
        }
      });
    return () => halt.abort();
  }, [open, towards, amount, what, revision, entry.id]);
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
  const others = [...planting, ...pieces].filter((s) => s.on && s.id !== entry.id);
  const tint = (label: string, tints: Tinted[]) =>
    void edit(label, (d) => {
      tintedOf(d, entry.id).forEach((p, k) => Object.assign(p, tints[k] ?? NONE));
    });
  const turn = (word: (typeof WHAT)[number]) => {
    const now = what.includes(word) ? what.filter((w) => w !== word) : [...what, word];
    if (now.length) setWhat(now);
  };
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
          <div className="mt-1 flex gap-3">
            {WHAT.map((word) => (
              <label key={word} className="flex items-center gap-1">
                <input
                  type="checkbox"
                  className="accent-moss"
                  checked={what.includes(word)}
                  onChange={() => turn(word)}
                />
                {word}
              </label>
            ))}
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
              onClick={() => found && tint(`${entry.name}: colour pulled`, found.parts.map(bare))}
            >
              Pull the colour
            </button>
            {tinted.some((p) => p.tint !== NONE.tint || p.bright !== NONE.bright) && (
              <button className="btn" onClick={() => tint(`${entry.name}: own colours`, [])}>
                Its own colours
              </button>
            )}
          </div>
        </>
      )}
    </div>
  );
}
