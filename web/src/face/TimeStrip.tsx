import { useEffect, useRef, useState } from "react";
import { askMoments, closeTime, playTime, seek } from "../actions/time";
import type { Scene } from "../api/shapes";
import { AddEntry } from "../key/AddEntry";
import { drag, edit } from "../state/edits";
import { set, usePage } from "../state/store";
import { STRIP_HEIGHT } from "../controls/stripHeight";

const LEFT = 116;
const RIGHT = 14;
const TOP = 26;
const LANE = 17;
const GRIP = 7;
const LEAST_S = 0.1;
const STEPS_S = [0.1, 0.2, 0.5, 1, 2, 5, 10, 30, 60, 300, 600];
const INK = "#23302b";
const MOSS = "#4d6a3a";
const OCHRE = "#b3701d";

type Move = Scene["moves"][number];
type Held = { id: string; what: "whole" | "end"; from: number; starts: number; lasts: number };

const tenth = (s: number) => Math.max(0, Math.round(s * 10) / 10);

/** The strip of time under the face: what moves, when, and the moment that is shown. */
export function TimeStrip({ width }: { width: number }) {
  const time = usePage((s) => s.time);
  const moves = usePage((s) => s.doc?.moves ?? []) as Move[];
  const doc = usePage((s) => s.doc);
  const stepped = usePage((s) => s.stepped?.shot);
  const chosen = usePage((s) => s.chosen);
  useEffect(() => {
    const later = setTimeout(() => void askMoments(), 150);
    return () => clearTimeout(later);
  }, [doc, stepped]);
  if (!time || !doc) return null;
  const span = Math.max(100, width - LEFT - RIGHT);
  const xOf = (s: number) => LEFT + (s / time.lasts) * span;
  const shot = doc.shots.find((s) => s.id === stepped);
  return (
    <div
      className="absolute right-0 bottom-0 left-0 border-t-[1.5px] border-ink bg-paper"
      style={{ height: STRIP_HEIGHT }}
      data-time={time.at.toFixed(2)}
      data-moments={time.moments.length}
    >
      <Lanes
        moves={moves}
        width={width}
        span={span}
        lasts={time.lasts}
        chosen={chosen}
        seen={stepped}
      />
      <Now x={xOf(time.at)} at={time.at} lasts={time.lasts} span={span} />
      <div className="absolute top-[3px] left-2 flex items-center gap-1 text-[11.5px]">
        <button
          className={`btn ${time.playing ? "on" : ""}`}
          data-play-time
          onClick={() => playTime(!time.playing)}
        >
          {time.playing ? "rest" : "play"}
        </button>
        <b className="w-[38px] text-right font-semibold">{time.at.toFixed(1)} s</b>
      </div>
      <div className="absolute right-2 bottom-[3px] flex items-center gap-2 text-[11.5px]">
        <span className="text-soft">
          {shot ? `seen from “${shot.name}”` : "the eye is free"}
          {moves.length ? "" : "; nothing moves yet"}
        </span>
        <AddEntry list="moves" label="move" />
        <button className="btn" data-write-clip onClick={() => set({ dialog: "still" })}>
          write…
        </button>
        <button className="btn" onClick={closeTime}>
          fold
        </button>
      </div>
    </div>
  );
}

/** Seconds as a ruler, and each move as a bar on a line of its own. */
function Lanes({
  moves,
  width,
  span,
  lasts,
  chosen,
  seen,
}: {
  moves: Move[];
  width: number;
  span: number;
  lasts: number;
  chosen: string | null;
  seen?: string;
}) {
  const held = useRef<Held | null>(null);
  const [over, setOver] = useState("");
  const step = STEPS_S.find((s) => (s / lasts) * span > 44) ?? 1200;
  const high = Math.max(STRIP_HEIGHT - TOP - 28, moves.length * LANE);
  const put = (h: Held, x: number) => (d: Scene) => {
    const move = d.moves.find((m) => m.id === h.id) as Move | undefined;
    const by = ((x - h.from) / span) * lasts;
    if (!move) return;
    if (h.what === "whole") move.starts_s = tenth(h.starts + by);
    else move.lasts_s = Math.max(LEAST_S, tenth(h.lasts + by));
  };
  const take = (e: React.PointerEvent, move: Move, what: Held["what"]) => {
    e.stopPropagation();
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
    const { starts_s = 0, lasts_s = 5 } = move;
    held.current = { id: move.id, what, from: e.clientX, starts: starts_s, lasts: lasts_s };
    set({ chosen: move.id, open: "shots" });
  };
  const moved = (e: React.PointerEvent) => {
    if (held.current && e.buttons) drag(put(held.current, e.clientX));
  };
  const letGo = (e: React.PointerEvent) => {
    const h = held.current;
    held.current = null;
    const move = moves.find((m) => m.id === h?.id);
    if (h && move && e.clientX !== h.from) void edit(`${move.name}: when`, put(h, e.clientX));
  };
  return (
    <div className="absolute inset-x-0 top-0 bottom-[26px] overflow-x-hidden overflow-y-auto">
      <svg width={width} height={TOP + high} fontSize="11" fill={INK}>
        {Array.from({ length: Math.floor(lasts / step) + 1 }, (_, k) => k * step).map((s) => {
          const x = LEFT + (s / lasts) * span;
          return (
            <g key={s}>
              <path d={`M${x} ${TOP - 8}V${TOP + high}`} stroke="#d8cfba" />
              <path d={`M${x} ${TOP - 8}v5`} stroke={INK} />
              <text x={x} y={TOP - 11} textAnchor="middle">
                {+s.toFixed(1)}
                {s === 0 ? " s" : ""}
              </text>
            </g>
          );
        })}
        <path d={`M${LEFT} ${TOP - 8}H${LEFT + span}`} stroke={INK} />
        {moves.map((move, i) => {
          const { starts_s = 0, lasts_s = 5, on = true } = move;
          const x = LEFT + (starts_s / lasts) * span;
          const w = Math.max(4, (lasts_s / lasts) * span);
          const y = TOP + i * LANE;
          const colour = move.id === chosen ? OCHRE : MOSS;
          return (
            <g
              key={move.id}
              opacity={on && (!move.shot || move.shot === seen) ? 1 : 0.35}
              data-move={move.id}
              onPointerEnter={() => setOver(move.id)}
              onPointerLeave={() => setOver("")}
            >
              <text x={LEFT - 8} y={y + 11} textAnchor="end">
                {move.name.length > 15 ? `${move.name.slice(0, 14)}…` : move.name}
              </text>
              <rect
                x={x}
                y={y + 1}
                width={w}
                height={LANE - 5}
                fill={colour}
                fillOpacity={over === move.id ? 0.5 : 0.3}
                stroke={colour}
                className="cursor-grab touch-none"
                onPointerDown={(e) => take(e, move, "whole")}
                onPointerMove={moved}
                onPointerUp={letGo}
              />
              <rect
                x={x + w - GRIP / 2}
                y={y + 1}
                width={GRIP}
                height={LANE - 5}
                fill={colour}
                className="cursor-ew-resize touch-none"
                aria-label={`${move.name}: how long`}
                onPointerDown={(e) => take(e, move, "end")}
                onPointerMove={moved}
                onPointerUp={letGo}
              />
              <path d={`M${x} ${y}l3.5 3.5l-3.5 3.5l-3.5 -3.5z`} fill={colour} />
            </g>
          );
        })}
      </svg>
    </div>
  );
}

/** The moment that is shown, as a mark to drag along the seconds. */
function Now({ x, at, lasts, span }: { x: number; at: number; lasts: number; span: number }) {
  const there = (e: React.PointerEvent<SVGSVGElement>) => {
    const box = e.currentTarget.getBoundingClientRect();
    seek(((e.clientX - box.left - LEFT) / span) * lasts);
  };
  return (
    <svg
      className="absolute top-0 left-0 touch-none"
      style={{ width: LEFT + span + RIGHT, height: TOP, cursor: "ew-resize", left: 0 }}
      role="slider"
      tabIndex={0}
      aria-label="Time in seconds"
      aria-valuemin={0}
      aria-valuemax={lasts}
      aria-valuenow={Math.round(at * 10) / 10}
      overflow="visible"
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        playTime(false);
        there(e);
      }}
      onPointerMove={(e) => e.buttons && there(e)}
      onKeyDown={(e) => {
        const by = e.key === "ArrowRight" ? 0.1 : e.key === "ArrowLeft" ? -0.1 : 0;
        if (!by) return;
        e.preventDefault();
        e.stopPropagation();
        seek(at + by);
      }}
    >
      <g pointerEvents="none">
        <path d={`M${x} ${TOP - 8}V${STRIP_HEIGHT - 28}`} stroke={OCHRE} strokeWidth={1.5} />
        <path d={`M${x} ${TOP - 6}l-6 -10h12z`} fill={OCHRE} />
      </g>
    </svg>
  );
}
