import { useEffect, useState } from "react";
import * as calls from "../api/calls";
import type { MeasureLine } from "../api/shapes";
import { SheetBox } from "../controls/SheetBox";
import { shown } from "../document/numbers";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";

export function RealityCheck() {
  const [list, setList] = useState<MeasureLine[] | null>(null);
  const id = usePage((s) => s.id);
  useEffect(() => {
    calls
      .checkReality(id!, { document: get().doc })
      .then(setList)
      .catch((e) => {
        tell(e);
        set({ dialog: null });
      });
  }, [id]);
  const bar = (m: MeasureLine) => {
    const span = m.high - m.low;
    const from = m.low - span * 0.6;
    const to = m.high + span * 0.6;
    const x = (v: number) => Math.min(100, Math.max(0, ((v - from) / (to - from)) * 100));
    return (
      <svg viewBox="0 0 100 10" className="h-[10px] w-full" preserveAspectRatio="none">
        <rect x="0" y="4" width="100" height="2" fill="#c9c0ab" />
        <rect x={x(m.low)} y="2.5" width={x(m.high) - x(m.low)} height="5" fill="#b7c2a6" />
        {m.value !== null && (
          <rect
            x={x(m.value!) - 0.9}
            y="0"
            width="1.8"
            height="10"
            fill={m.fits ? "#4d6a3a" : "#a3432a"}
          />
        )}
      </svg>
    );
  };
  return (
    <SheetBox title="Reality check" wide={620}>
      {!list && <p className="text-soft">Measuring the land…</p>}
      <div data-reality>
        {list?.map((m, i) => (
          <div
            key={m.name}
            className={
              "border-b border-rule/60 py-[4px] " + `${i === 4 ? "mt-1 border-t border-t-ink" : ""}`
            }
          >
            <div className="grid grid-cols-[1fr_150px_96px] items-center gap-3">
              <span className={m.tells ? "font-semibold" : ""}>{m.label}</span>
              {bar(m)}
              <span className={`text-right font-semibold ${m.fits ? "text-moss" : "text-rust"}`}>
                {m.value === null ? "none" : shown(m.value!)} {m.unit}
              </span>
            </div>
            <div className="text-[11.5px] text-soft">
              {m.fits ? `as in real land: ${m.source}` : `${m.source}. ${m.advice}`}
            </div>
          </div>
        ))}
      </div>
      <p className="mt-2 text-[11.5px] text-soft">
        The upper four tell real land from made land; the others only show what is far off. Dunes,
        drumlins and craters have hollows and need not pass.
      </p>
    </SheetBox>
  );
}
