import { useEffect, useRef, useState } from "react";
import * as calls from "../../api/calls";
import type { Scene, SurveyAnswer } from "../../api/shapes";
import { shown } from "../../document/numbers";
import { at, type Path } from "../../document/path";
import { drag, edit } from "../../state/edits";
import { get, usePage } from "../../state/store";

/** Measures whose histogram comes with the manifest. */
const PLAIN_BINS = ["slope", "height"];

/** Conditions that have no histogram. */
export const PLAIN = ["shore", "covered", "near-sowing", "near-material", "near-landform"];

/** A condition with a band; hours of sun are asked for a latitude and a day. */
interface Measured {
  low: number;
  high: number;
  invert?: boolean;
  latitude?: number;
  day?: number;
}

/**
 * Histogram of what a condition measures: of the manifest for slope and height, of the survey for
 * the rest.
 */
function useBins(
  kind: string,
  c: Measured | undefined,
): { bins: number[]; min: number; max: number; unit: string } | null {
  const manifest = usePage((s) => s.manifest);
  const id = usePage((s) => s.id);
  const sheets = usePage((s) => s.catalogue!.sheets);
  const [found, setFound] = useState<SurveyAnswer | null>(null);
  const measured = sheets.some((x) => x.kind === kind) && !PLAIN_BINS.includes(kind);
  const land = manifest && !manifest.draft ? manifest.heights : null;
  const { latitude, day } = kind === "sunlit" && c ? c : {};
  useEffect(() => {
    if (!measured || land === null) return;
    const stop = new AbortController();
    calls
      .survey(id!, { document: get().doc, kind, latitude, day }, stop.signal)
      .then((a) => !stop.signal.aborted && setFound(a))
      .catch(() => {
        /* a land that cannot be measured tells so by itself */
      });
    return () => stop.abort();
  }, [id, kind, land, measured, latitude, day]);
  if (!manifest) return null;
  if (kind === "slope") return { bins: manifest.slope_bins, min: 0, max: 70, unit: "°" };
  if (kind === "height")
    return { bins: manifest.height_bins, min: manifest.lowest, max: manifest.highest, unit: "m" };
  return (
    found && {
      bins: found.bins,
      min: found.log ? Math.log10(Math.max(found.low, 1e-4)) : found.low,
      max: found.log ? Math.log10(found.high) : found.high,
      unit: found.unit,
    }
  );
}

/**
 * A band over the histogram of what it measures; its ends are dragged or stepped with the arrow
 * keys. Beyond the ends of the scale it is open.
 */
export function Band({ path, kind, owner }: { path: Path; kind: string; owner: string }) {
  const c = usePage((s) => at<Measured | undefined>(s.doc, path));
  const found = useBins(kind, c);
  const plot = usePage((s) => s.doc!.plot);
  const sheets = usePage((s) => s.catalogue!.sheets);
  const svg = useRef<SVGSVGElement>(null);
  if (!c) return null;
  if (!found) return <div className="h-[38px] text-soft">measuring…</div>;
  const log = !!sheets.find((x) => x.kind === kind)?.log;
  const { bins, min, max, unit } = found;
  const scale = (v: number) => (log ? Math.log10(Math.max(v, 1e-4)) : v);
  const back = (t: number) => (log ? Math.pow(10, t) : t);
  const top = Math.max(...bins, 1e-6);
  const x = (v: number) =>
    ((Math.min(Math.max(scale(v), min), max) - min) / (max - min || 1)) * 256;
  const openHigh = scale(c.high) >= max;
  const openLow = scale(c.low) <= min;
  const share = bins.reduce((sum, b, i) => {
    const v = min + ((i + 0.5) / 64) * (max - min);
    return sum + ((v >= scale(c.low) || openLow) && (v <= scale(c.high) || openHigh) ? b : 0);
  }, 0);
  const taken = c.invert ? 1 - share : share;
  const steps = bins.map((b, i) => {
    const y = 34 - 30 * Math.sqrt(b / top);
    return `L${i * 4} ${y} L${i * 4 + 4} ${y}`;
  });
  const outline = `M0 34 ${steps.join(" ")} L256 34Z`;
  const grain =
    kind === "slope"
      ? 1
      : Math.max(0, Math.min(4, 2 - Math.floor(Math.log10((max - min) / 10 || 1))));
  const move = (end: "low" | "high", t: number) => (d: Scene) => {
    const b = at<Measured>(d, path);
    const v = +back(Math.min(max, Math.max(min, t))).toFixed(grain);
    const whole = end === "high" && t >= max - (max - min) * 0.004;
    if (end === "low") b.low = Math.min(v, b.high);
    else
      b.high =
        whole && kind !== "slope" && kind !== "height" ? Math.max(b.high, v) : Math.max(v, b.low);
  };
  const handle = (end: "low" | "high") => ({
    role: "slider",
    tabIndex: 0,
    "aria-label": `${kind} ${end === "low" ? "from" : "to"}`,
    "aria-valuenow": c[end],
    "aria-valuemin": back(min),
    "aria-valuemax": back(max),
    onPointerDown: (e: React.PointerEvent) => {
      e.preventDefault();
      (e.target as Element).setPointerCapture(e.pointerId);
    },
    onPointerMove: (e: React.PointerEvent) => {
      if (!(e.target as Element).hasPointerCapture(e.pointerId)) return;
      const r = svg.current!.getBoundingClientRect();
      drag(move(end, min + ((e.clientX - r.left) / r.width) * (max - min)));
    },
    onPointerUp: (e: React.PointerEvent) => {
      (e.target as Element).releasePointerCapture(e.pointerId);
      void edit(`${owner}: ${kind} band`);
    },
    onKeyDown: (e: React.KeyboardEvent) => {
      const s = e.key === "ArrowRight" ? 1 : e.key === "ArrowLeft" ? -1 : 0;
      if (s) {
        e.preventDefault();
        e.stopPropagation();
        void edit(
          `${owner}: ${kind} band`,
          move(end, Math.min(max, Math.max(min, scale(c[end]))) + (s * (max - min)) / 70),
        );
      }
    },
  });
  return (
    <div className="mt-1">
      <svg
        ref={svg}
        viewBox="0 0 256 38"
        className="block h-[38px] w-full touch-none overflow-visible"
        preserveAspectRatio="none"
      >
        <path d={outline} fill="#c9c0ab" />
        <clipPath id={`band-${path.join("-")}`}>
          <rect x={x(c.low)} width={Math.max(0, x(c.high) - x(c.low))} y="0" height="38" />
        </clipPath>
        <path d={outline} fill="#b9812a" clipPath={`url(#band-${path.join("-")})`} />
        {(["low", "high"] as const).map((end) => (
          <g key={end} {...handle(end)} className="cursor-ew-resize">
            <rect x={x(c[end]) - 7} width="14" y="0" height="38" fill="transparent" />
            <path
              d={`M${x(c[end])} 0V38`}
              stroke="#7c520f"
              strokeWidth="2.4"
              vectorEffect="non-scaling-stroke"
            />
          </g>
        ))}
      </svg>
      <div className="flex justify-between text-soft">
        <span>
          {openLow ? "the lowest" : shown(c.low)} to{" "}
          {openHigh ? (kind === "slope" ? "90 °" : "the highest") : `${shown(c.high)} ${unit}`}
        </span>
        <span>
          takes {Math.round(taken * 100)} %, {shown((taken * plot.width_m * plot.depth_m) / 1e4)} ha
        </span>
      </div>
    </div>
  );
}
