import { useRef, useState } from "react";
import type { Scene } from "../api/shapes";
import { shown } from "../document/numbers";
import { edit, nudge } from "../state/edits";
import { engine } from "../state/engine";
import { get, usePage } from "../state/store";
import { groundAt } from "../view/world";

type Grip = "place" | "turn" | "size" | "sink" | "lean";

/** What the step is called that a grip makes. */
const DONE: Record<Grip, string> = {
  place: "moved",
  turn: "turned",
  size: "sized",
  sink: "sunk",
  lean: "leant",
};

type Piece = Scene["pieces"][number] & {
  east_m: number;
  north_m: number;
  turn: number;
  size: number;
  sink_cm: number;
  lean: number;
  bearing: number;
};

const RAD = Math.PI / 180;

const TOLD: Record<Grip, (p: Piece) => string> = {
  place: (p) => `E ${shown(p.east_m)} N ${shown(p.north_m)}`,
  turn: (p) => `turned ${shown(p.turn)}°`,
  size: (p) => `${shown(p.size)} %`,
  sink: (p) => `sunk ${shown(p.sink_cm)} cm`,
  lean: (p) => `leans ${shown(p.lean)}°`,
};

export function Collar({ width, height }: { width: number; height: number }) {
  const piece = usePage((s) => s.doc?.pieces.find((p) => p.id === s.chosen)) as Piece | undefined;
  const facts = usePage((s) => s.cabinet?.kinds.find((k) => k.name === piece?.kind));
  const products = usePage((s) => s.products);
  const tool = usePage((s) => s.tool);
  usePage((s) => s.pose);
  usePage((s) => s.frames);
  const held = useRef<{ grip: Grip; y: number; was: Piece; perMetre: number } | null>(null);
  const [now, setNow] = useState<Grip | null>(null);
  const view = engine.view;
  if (!piece || !facts || !products || !view || tool || width < 50) return null;
  const line = get().manifest?.pieces.find((l) => l.id === piece.id);
  const ground = groundAt(products, piece.east_m, piece.north_m);
  const base = piece.stands === "ground" || !line ? ground : line.up_m + piece.sink_cm / 100;
  const k = piece.size / 100;
  const reach = Math.max(0.3, facts.reach_m * k * 1.12);
  const tall = Math.max(0.4, facts.height_m * k);
  const at = (east: number, north: number, up: number) => {
    const p = view.project(east, north, up);
    return p && { x: p.x * width, y: p.y * height };
  };
  const onRing = (bearing: number, r = reach) => {
    const e = piece.east_m + r * Math.sin(bearing * RAD);
    const n = piece.north_m + r * Math.cos(bearing * RAD);
    return at(
      e,
      n,
      Math.max(groundAt(products, e, n), piece.stands === "ground" ? -1e9 : base) + 0.03,
    );
  };
  const ring = Array.from({ length: 49 }, (_, i) => onRing(i * 7.5));
  const centre = at(piece.east_m, piece.north_m, base);
  if (!centre || ring.some((p) => !p)) return null;
  const foot = at(piece.east_m, piece.north_m, base)!;
  const lean = {
    e: Math.sin(piece.lean * RAD) * Math.sin(piece.bearing * RAD) * tall * 1.12,
    n: Math.sin(piece.lean * RAD) * Math.cos(piece.bearing * RAD) * tall * 1.12,
  };
  const top = at(
    piece.east_m + lean.e,
    piece.north_m + lean.n,
    base + tall * 1.12 * Math.cos(piece.lean * RAD),
  );
  const middle = at(piece.east_m, piece.north_m, base + tall * 0.6);
  const front = onRing(piece.turn);
  const side = onRing(piece.turn + 90);
  const one = at(piece.east_m, piece.north_m, base + 1);
  if (!top || !middle || !front || !side || !one) return null;
  const wide = Math.max(...ring.map((p) => p!.x)) - Math.min(...ring.map((p) => p!.x));
  // from afar the grips would lie on one another: only its place is left
  const near = wide > 26 && Math.abs(top.y - foot.y) > 22;
  const perMetre = Math.max(4, Math.abs(one.y - foot.y)); // px that a metre is tall there

  const begin = (grip: Grip) => (e: React.PointerEvent) => {
    e.preventDefault();
    e.stopPropagation();
    (e.currentTarget as Element).setPointerCapture(e.pointerId);
    held.current = { grip, y: e.clientY, was: structuredClone(piece), perMetre };
    setNow(grip);
  };
  const move = (e: React.PointerEvent) => {
    const h = held.current;
    if (!h) return;
    const box = (e.currentTarget as SVGElement).ownerSVGElement!.getBoundingClientRect();
    const x = (e.clientX - box.left) / width;
    const y = (e.clientY - box.top) / height;
    const change = (set: (p: Piece) => void) =>
      nudge((d) => {
        const p = d.pieces.find((q) => q.id === h.was.id);
        if (p) set(p as Piece);
      });
    if (h.grip === "sink") {
      change((p) => {
        p.sink_cm = +Math.min(
          10000,
          Math.max(-10000, h.was.sink_cm + ((e.clientY - h.y) / h.perMetre) * 100),
        ).toFixed(1);
      });
      return;
    }
    if (h.grip === "lean") {
      // seen level it leans to the left or the right of the picture; seen from above, any way
      const ray = view.ray(x, y);
      const b = view.pose.bearing * RAD;
      const above = view.pose.tilt < -35;
      const d = ray.direction;
      const o = ray.origin;
      const ahead = above ? d.z : d.x * Math.sin(b) + d.y * Math.cos(b);
      const t = above
        ? (base + tall - o.z) / ahead
        : ((h.was.east_m - o.x) * Math.sin(b) + (h.was.north_m - o.y) * Math.cos(b)) / ahead;
      if (!(t > 0)) return;
      const de = o.x + d.x * t - h.was.east_m;
      const dn = o.y + d.y * t - h.was.north_m;
      const away = Math.hypot(de, dn);
      const high = above ? tall : Math.max(0.05, o.z + d.z * t - base);
      change((p) => {
        p.lean = +Math.min(85, Math.atan2(away, high) / RAD).toFixed(1);
        p.bearing = +((Math.atan2(de, dn) / RAD + 360) % 360).toFixed(1);
        if (p.lean < 2) p.lean = 0;
      });
      return;
    }
    const p3 = view.pick(x, y);
    if (!p3) return;
    const de = p3.x - h.was.east_m;
    const dn = p3.y - h.was.north_m;
    if (h.grip === "place")
      change((p) => {
        p.east_m = +p3.x.toFixed(3);
        p.north_m = +p3.y.toFixed(3);
      });
    else if (h.grip === "turn")
      change((p) => {
        const t = (Math.atan2(de, dn) / RAD + 360) % 360;
        p.turn = +(e.shiftKey ? Math.round(t / 15) * 15 : t).toFixed(1);
      });
    else
      change((p) => {
        p.size = +Math.min(
          5000,
          Math.max(1, (Math.hypot(de, dn) / (facts.reach_m * 1.12)) * 100),
        ).toFixed(1);
      });
  };
  const end = () => {
    const h = held.current;
    held.current = null;
    setNow(null);
    if (
      h &&
      JSON.stringify(get().doc!.pieces.find((p) => p.id === h.was.id)) !== JSON.stringify(h.was)
    )
      void edit(`${h.was.name}: ${DONE[h.grip]}`);
  };
  const hold = (grip: Grip) => ({
    "data-grip": grip,
    onPointerDown: begin(grip),
    onPointerMove: move,
    onPointerUp: end,
    onPointerCancel: end,
    className: "pointer-events-auto cursor-grab",
    fill: now === grip ? "#b9812a" : "#f4efe4",
    stroke: "#9a6a1c",
    strokeWidth: 2,
  });
  return (
    <svg
      className="pointer-events-none absolute inset-0"
      width={width}
      height={height}
      data-collar={piece.id}
    >
      <polyline
        points={ring.map((p) => `${p!.x.toFixed(1)},${p!.y.toFixed(1)}`).join(" ")}
        fill="none"
        stroke="#b9812a"
        strokeWidth={1.8}
        opacity={0.9}
      />
      <path
        d={`M${foot.x} ${foot.y}L${front.x} ${front.y}M${foot.x} ${foot.y}L${top.x} ${top.y}`}
        stroke="#b9812a"
        strokeWidth={1.2}
        strokeDasharray="4 3"
      />
      <circle cx={centre.x} cy={centre.y} r={6} {...hold("place")}>
        <title>Move it over the ground</title>
      </circle>
      {near && (
        <>
          <path d={`M${front.x} ${front.y - 7}l7 7l-7 7l-7 -7z`} {...hold("turn")}>
            <title>Turn it; Shift keeps to 15°</title>
          </path>
          <rect x={side.x - 5} y={side.y - 5} width={10} height={10} {...hold("size")}>
            <title>Size</title>
          </rect>
          <path d={`M${middle.x - 6} ${middle.y - 4}h12l-6 9z`} {...hold("sink")}>
            <title>Sink it, or lift it</title>
          </path>
          <circle cx={top.x} cy={top.y} r={5} {...hold("lean")}>
            <title>Lean it</title>
          </circle>
        </>
      )}
      {now && (
        <text
          x={centre.x + 12}
          y={centre.y + 18}
          fontSize="12.5"
          fontWeight={600}
          fill="#23302b"
          stroke="#f4efe4"
          strokeWidth={3}
          paintOrder="stroke"
          data-collar-told
        >
          {TOLD[now](piece)}
        </text>
      )}
    </svg>
  );
}
