import { useMemo } from "react";
import type { Light, Scene } from "../../api/shapes";
import { shown } from "../../document/numbers";
import { put } from "../../document/path";
import { drag, edit } from "../../state/edits";
import { usePage } from "../../state/store";
import { heightAt } from "../../view/field";

const WIDE = 280;
const HIGH = 178;
const LEFT = 34;
const GROUND = 150; // where the lowest ground is drawn
const FULL_M = 12000;
const INK = "#23302b";
const HINT =
  "Heights of clouds and haze over the land before the eye, on a scale that gives low air more room.";

/** Heights over the lowest ground, low air with more room. */
const yOf = (m: number) =>
  GROUND - (GROUND - 14) * Math.pow(Math.max(0, Math.min(m, FULL_M)) / FULL_M, 0.36);
const heightOf = (y: number) =>
  FULL_M * Math.pow(Math.max(0, (GROUND - y) / (GROUND - 14)), 1 / 0.36);

type Field = keyof Light;

interface Line {
  field: Field;
  label: string;
  /** Metres above the lowest ground. */
  at: number;
  /** The field's value where the line is dragged to so many metres. */
  value: (m: number) => number;
}

const nice = (v: number, low: number, high: number) =>
  Math.min(high, Math.max(low, +v.toPrecision(2)));

/** The lines that may be dragged: bases and tops of what there is. */
function linesOf(l: Light): Line[] {
  const out: Line[] = [];
  const span = (base: Field, thick: Field, label: string) => {
    const b = l[base] as number;
    out.push({ field: base, label: `${label}: base`, at: b, value: (m) => nice(m, 50, 12000) });
    out.push({
      field: thick,
      label: `${label}: top`,
      at: b + (l[thick] as number),
      value: (m) => nice(m - b, 20, 9000),
    });
  };
  if (l.clouds) span("cloud_base_m", "cloud_thick_m", "heaps");
  if (l.layer) span("layer_base_m", "layer_thick_m", "layer");
  if (l.bank) span("bank_base_m", "bank_thick_m", "bank");
  if (l.veil)
    out.push({
      field: "veil_base_m",
      label: "veil",
      at: l.veil_base_m,
      value: (m) => nice(m, 1000, 12000),
    });
  out.push({
    field: "haze_top_m",
    label: "haze: a third is left here",
    at: Math.max(0, l.haze_base_m) + l.haze_top_m,
    value: (m) => nice(m - Math.max(0, l.haze_base_m), 1, 5000),
  });
  return out;
}

/** The land's profile before the eye, its lowest ground as nought. */
function useProfile(): string {
  const products = usePage((s) => s.products);
  const pose = usePage((s) => s.pose);
  const plot = usePage((s) => s.doc!.plot);
  const turn = Math.round(pose.bearing / 3) * 3;
  const east = Math.round(pose.east / 5) * 5;
  const north = Math.round(pose.north / 5) * 5;
  return useMemo(() => {
    if (!products) return "";
    const b = (turn * Math.PI) / 180;
    const far = Math.max(plot.width_m, plot.depth_m);
    const points: string[] = [];
    for (let i = 0; i <= 90; i++) {
      const d = far * Math.pow(i / 90, 1.6);
      const x = Math.min(plot.width_m, Math.max(0, east + Math.sin(b) * d));
      const y = Math.min(plot.depth_m, Math.max(0, north + Math.cos(b) * d));
      const z = heightAt(products.field, x, y) - products.manifest.lowest;
      points.push(`L${LEFT + ((WIDE - LEFT) * i) / 90} ${yOf(z).toFixed(1)}`);
    }
    return `M${LEFT} ${GROUND + 6}${points.join("")}L${WIDE} ${GROUND + 6}Z`;
  }, [products, turn, east, north, plot]);
}

/** Clouds and haze by height, over the land's own profile. */
export function AirSection() {
  const light = usePage((s) => s.doc!.light);
  const profile = useProfile();
  const lines = linesOf(light);
  const change = (line: Line, y: number) => (d: Scene) =>
    put(d, ["light", line.field], line.value(heightOf(y)));
  return (
    <svg
      viewBox={`0 0 ${WIDE} ${HIGH}`}
      className="mt-1 block w-full touch-none select-none"
      fontSize="9.5"
      fill={INK}
      data-air-section
    >
      <title>{HINT}</title>
      <defs>
        <pattern id="haze-ink" width="3" height="3" patternUnits="userSpaceOnUse">
          <path d="M0 1.5H3" stroke="#44697a" strokeWidth="0.7" />
        </pattern>
        <pattern
          id="cloud-ink"
          width="4"
          height="4"
          patternUnits="userSpaceOnUse"
          patternTransform="rotate(45)"
        >
          <path d="M0 0V4" stroke="#586159" strokeWidth="0.9" />
        </pattern>
        <linearGradient id="haze-thins" x1="0" x2="0" y1="1" y2="0">
          <stop offset="0" stopColor="#fff" stopOpacity="1" />
          <stop offset="1" stopColor="#fff" stopOpacity="0" />
        </linearGradient>
        <mask id="haze-mask">
          <rect
            x={LEFT}
            y={yOf(light.haze_top_m * 3)}
            width={WIDE - LEFT}
            height={GROUND + 6 - yOf(light.haze_top_m * 3)}
            fill="url(#haze-thins)"
          />
        </mask>
      </defs>
      <rect x={LEFT} y="14" width={WIDE - LEFT} height={GROUND - 8} fill="#eef0ea" />
      {[0, 200, 1000, 3000, 8000].map((m) => (
        <g key={m}>
          <path d={`M${LEFT} ${yOf(m)}H${WIDE}`} stroke="#c9c0ab" strokeWidth="0.6" />
          <text x={LEFT - 4} y={yOf(m) + 3} textAnchor="end" fill="#586159">
            {m >= 1000 ? `${m / 1000} km` : `${m}`}
          </text>
        </g>
      ))}
      <Cloud amount={light.veil} base={light.veil_base_m} top={light.veil_base_m * 1.1} seed={1} />
      <Cloud
        amount={light.layer}
        base={light.layer_base_m}
        top={light.layer_base_m + light.layer_thick_m}
        seed={2}
      />
      <Cloud
        amount={light.clouds}
        base={light.cloud_base_m}
        top={light.cloud_base_m + light.cloud_thick_m}
        seed={3}
      />
      {light.bank > 0 && (
        <rect
          x={WIDE - 60}
          width="46"
          y={yOf(light.bank_base_m + light.bank_thick_m)}
          height={yOf(light.bank_base_m) - yOf(light.bank_base_m + light.bank_thick_m)}
          rx="10"
          fill="url(#cloud-ink)"
          stroke={INK}
          strokeWidth="0.8"
        />
      )}
      <rect
        x={LEFT}
        y="14"
        width={WIDE - LEFT}
        height={GROUND - 8}
        fill="url(#haze-ink)"
        mask="url(#haze-mask)"
        opacity={Math.min(1, 0.15 + 0.85 * Math.pow(2000 / light.haze_m, 0.5))}
      />
      <path d={profile} fill="#ddd4bf" stroke={INK} strokeWidth="1" />
      {lines.map((line) => (
        <Grip
          key={line.field}
          line={line}
          onDrag={(y) => drag(change(line, y))}
          onKeep={(y) => void edit(`Light: ${line.label}`, change(line, y))}
        />
      ))}
      <text x={LEFT} y={HIGH - 8} fill="#586159">
        haze: seen to {shown(light.haze_m)} m
        {light.haze_from_m ? `, from ${shown(light.haze_from_m)} m on` : ""}
      </text>
    </svg>
  );
}

/** Cloud of an amount in per cent as patches between its base and its top. */
function Cloud({
  amount,
  base,
  top,
  seed,
}: {
  amount: number;
  base: number;
  top: number;
  seed: number;
}) {
  if (!amount) return null;
  const y0 = yOf(top);
  const y1 = yOf(base);
  const span = (WIDE - LEFT) / 7;
  const wide = span * Math.min(1, 0.15 + amount / 110);
  return (
    <>
      {Array.from({ length: 7 }, (_, i) => {
        const x = LEFT + i * span + ((i * 37 + seed * 17) % 13);
        return (
          <rect
            key={i}
            x={x}
            y={y0}
            width={Math.min(wide, WIDE - x)}
            height={Math.max(2, y1 - y0)}
            rx={Math.min(8, (y1 - y0) / 2)}
            fill="url(#cloud-ink)"
            stroke="#586159"
            strokeWidth="0.6"
          />
        );
      })}
    </>
  );
}

function Grip({
  line,
  onDrag,
  onKeep,
}: {
  line: Line;
  onDrag: (y: number) => void;
  onKeep: (y: number) => void;
}) {
  const y = yOf(line.at);
  const at = (e: React.PointerEvent<SVGGElement>) => {
    const box = e.currentTarget.ownerSVGElement!.getBoundingClientRect();
    return ((e.clientY - box.top) * HIGH) / box.height;
  };
  return (
    <g
      className="cursor-ns-resize"
      data-grip={line.field}
      onPointerDown={(e) => e.currentTarget.setPointerCapture(e.pointerId)}
      onPointerMove={(e) => {
        if (e.currentTarget.hasPointerCapture(e.pointerId)) onDrag(at(e));
      }}
      onPointerUp={(e) => onKeep(at(e))}
    >
      <title>{`${line.label}, ${shown(Math.round(line.at))} m`}</title>
      <path d={`M${LEFT} ${y}H${WIDE}`} stroke="transparent" strokeWidth="7" />
      <path d={`M${LEFT} ${y}h14M${WIDE} ${y}h-14`} stroke="#4d6a3a" strokeWidth="2" />
    </g>
  );
}
