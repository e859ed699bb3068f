import { useEffect, useState } from "react";
import { doWork } from "../../actions/work";
import * as calls from "../../api/calls";
import type { LensLine, Shot } from "../../api/shapes";
import { shown } from "../../document/numbers";
import { drag, edit } from "../../state/edits";
import { get, set, usePage } from "../../state/store";

const WIDE = 280;
const HIGH = 62;
const NEAR_M = 0.3;
const FAR_M = 2000;
const LINE = 30;
const TICKS = [0.5, 1, 2, 5, 10, 20, 50, 100, 200, 500, 1000];
const INK = "#23302b";

const xOf = (m: number) =>
  (WIDE * Math.log(Math.min(FAR_M, Math.max(NEAR_M, m)) / NEAR_M)) / Math.log(FAR_M / NEAR_M);
const metresAt = (x: number) =>
  NEAR_M * Math.pow(FAR_M / NEAR_M, Math.max(0, Math.min(1, x / WIDE)));

/** The depth before a shot's eye, what of it is sharp, and its focus as a mark to drag. */
export function LensRule({ shot, index }: { shot: Shot; index: number }) {
  const [lens, setLens] = useState<LensLine | null>(null);
  const tool = usePage((s) => s.tool);
  useEffect(() => {
    const halt = new AbortController();
    const later = setTimeout(() => {
      const asked = { shot, document: get().doc as never };
      calls
        .lens(get().id!, asked, halt.signal)
        .then(setLens)
        .catch(() => {});
    }, 120);
    return () => {
      clearTimeout(later);
      halt.abort();
    };
  }, [shot]);
  const focus = shot.focus_by === "place" ? (lens?.focus_m ?? 10) : shot.focus_m;
  const open = shot.aperture > 0;
  const put = (metres: number) => (d: { shots: Shot[] }) => {
    d.shots[index].focus_by = "distance";
    d.shots[index].focus_m = +metres.toPrecision(3);
  };
  const at = (e: React.PointerEvent<SVGSVGElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    return metresAt(((e.clientX - box.left) / box.width) * WIDE);
  };
  const from = xOf(lens?.sharp_from_m ?? NEAR_M);
  const to = xOf(lens?.sharp_to_m ?? FAR_M);
  return (
    <div className="my-1" data-lens={lens ? `${lens.sharp_from_m} ${lens.sharp_to_m}` : ""}>
      <svg
        viewBox={`0 0 ${WIDE} ${HIGH}`}
        className="w-full touch-none select-none"
        role="slider"
        tabIndex={0}
        aria-label="Focus in metres"
        aria-valuenow={Math.round(focus * 100) / 100}
        onPointerDown={(e) => {
          e.currentTarget.setPointerCapture(e.pointerId);
          drag(put(at(e)) as never);
        }}
        onPointerMove={(e) => e.buttons && drag(put(at(e)) as never)}
        onPointerUp={(e) => void edit(`${shot.name}: focus`, put(at(e)) as never)}
        onKeyDown={(e) => {
          const by = e.key === "ArrowRight" ? 1.06 : e.key === "ArrowLeft" ? 1 / 1.06 : 0;
          if (!by) return;
          e.preventDefault();
          void edit(`${shot.name}: focus`, put(focus * by) as never);
        }}
      >
        {TICKS.map((m) => (
          <g key={m}>
            <path d={`M${xOf(m)} ${LINE}v5`} stroke={INK} strokeWidth={0.7} />
            <text x={xOf(m)} y={LINE + 15} fontSize={9} textAnchor="middle" fill={INK}>
              {m}
            </text>
          </g>
        ))}
        <path d={`M0 ${LINE}H${WIDE}`} stroke={INK} strokeWidth={0.8} />
        {open && lens && (
          <path d={`M${from} ${LINE}H${Math.max(to, from + 1)}`} stroke={INK} strokeWidth={5} />
        )}
        {open && (
          <g transform={`translate(${xOf(focus)} ${LINE})`}>
            <path d="M0 4L-6 -9H6Z" fill="#b3701d" />
            <text y={-13} fontSize={10} textAnchor="middle" fill={INK}>
              {shown(focus)} m
            </text>
          </g>
        )}
        <text x={0} y={HIGH - 3} fontSize={9.5} fill={INK}>
          {!lens
            ? ""
            : `sees ${lens.across_deg}° by ${lens.up_deg}°; ` +
              (open
                ? `sharp from ${shown(lens.sharp_from_m)} m to ` +
                  (lens.sharp_to_m === null ? "the horizon" : `${shown(lens.sharp_to_m)} m`)
                : "all is sharp")}
        </text>
      </svg>
      <button
        className="btn mr-2"
        data-meter
        title="Exposure so that the middle of what it sees is middle grey"
        onClick={() => void doWork("meter a shot", { shot: shot.id })}
      >
        Meter it
      </button>
      <button
        className={`btn ${tool === "focus" ? "on" : ""}`}
        data-focus-tool
        onClick={() => set({ tool: tool === "focus" ? null : "focus", mapOnFace: false })}
      >
        Focus on…
      </button>
      <button
        className={`btn ml-2 ${tool === "aim" ? "on" : ""}`}
        data-aim-tool
        title="The shot keeps looking at the place that is clicked, whatever moves"
        onClick={() => set({ tool: tool === "aim" ? null : "aim" })}
      >
        Aim at…
      </button>
    </div>
  );
}
