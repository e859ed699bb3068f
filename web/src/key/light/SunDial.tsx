import { useEffect, useState } from "react";
import * as calls from "../../api/calls";
import type { Scene, SunPath } from "../../api/shapes";
import { put } from "../../document/path";
import { drag, edit } from "../../state/edits";
import { usePage } from "../../state/store";

const SIZE = 268;
const MIDDLE = SIZE / 2;
const RING = 104; // px from the zenith to the horizon
const INK = "#23302b";
const RULE = "#c9c0ab";
const SUN = "#b9812a";
const HINT =
  "The sun over the place: zenith in the middle, horizon at the ring. " +
  "Drag it, or use the arrow keys.";

/** Where a bearing and a height (degrees) lie on the dial; below the horizon outside the ring. */
function onDial(bearing: number, height: number): [number, number] {
  const r = RING * (1 - height / 90);
  const b = (bearing * Math.PI) / 180;
  return [MIDDLE + r * Math.sin(b), MIDDLE - r * Math.cos(b)];
}

function fromDial(x: number, y: number): { bearing: number; height: number } {
  const dx = x - MIDDLE;
  const dy = MIDDLE - y;
  const bearing = ((Math.atan2(dx, dy) * 180) / Math.PI + 360) % 360;
  const height = 90 * (1 - Math.hypot(dx, dy) / RING);
  return { bearing: Math.round(bearing * 10) / 10, height: Math.round(height * 10) / 10 };
}

/** The sun's way over the day that the light names. */
function useSunPath(): SunPath | null {
  const light = usePage((s) => s.doc!.light);
  const [path, setPath] = useState<SunPath | null>(null);
  const { latitude, longitude, moment } = light;
  const noon = `${moment.slice(0, 11)}12:00:00${moment.slice(19)}`;
  useEffect(() => {
    const halt = new AbortController();
    const asked = { sun_by: "date" as const, latitude, longitude, moment: noon };
    calls.sunPath(asked, halt.signal).then(setPath, () => {});
    return () => halt.abort();
  }, [latitude, longitude, noon]);
  return path;
}

/** The land's skyline around the place that is read, or around the eye. */
function useSkyline(): number[] {
  const field = usePage((s) => (s.manifest?.draft ? null : s.products?.field));
  const key = usePage((s) => s.manifest?.heights);
  const pinned = usePage((s) => (s.pinned ? s.place : null));
  const pose = usePage((s) => s.pose);
  const [line, setLine] = useState<number[]>([]);
  const east = Math.round(pinned?.east ?? pose.east);
  const north = Math.round(pinned?.north ?? pose.north);
  useEffect(() => {
    if (!field || !key) return;
    const { nx, ny, spacing } = field;
    const asked = { key, nx, ny, spacing, east, north };
    const ask = () => calls.horizon(asked).then((a) => setLine(a.heights));
    const later = setTimeout(() => void ask().catch(() => {}), 150);
    return () => clearTimeout(later);
  }, [field, key, east, north]);
  return line;
}

const polyline = (points: [number, number][]) =>
  points.map(([x, y], i) => `${i ? "L" : "M"}${x.toFixed(1)} ${y.toFixed(1)}`).join("");

/** A ring of bearings with the day's arc, the land's skyline within it, and the sun to drag. */
export function SunDial() {
  const light = usePage((s) => s.doc!.light);
  const drawn = usePage((s) => s.sun);
  const pose = usePage((s) => s.pose);
  const path = useSunPath();
  const skyline = useSkyline();
  const dated = light.sun_by === "date";
  const bearing = dated ? (drawn?.bearing ?? path?.bearing ?? 0) : light.sun_bearing;
  const height = dated ? (drawn?.height ?? path?.height ?? 0) : light.sun_height;
  const moved = (b: number, h: number) => (d: Scene) => {
    put(d, ["light", "sun_by"], "bearing");
    put(d, ["light", "sun_bearing"], (b + 360) % 360);
    put(d, ["light", "sun_height"], Math.min(90, Math.max(-18, h)));
  };
  const atHour = (x: number, y: number) => {
    const near = path?.hours
      .map((h) => ({ h, at: onDial(h.bearing, h.height) }))
      .sort((a, b) => Math.hypot(a.at[0] - x, a.at[1] - y) - Math.hypot(b.at[0] - x, b.at[1] - y));
    return near?.[0]?.h.hour ?? 12;
  };
  const put_ = (x: number, y: number): ((d: Scene) => void) => {
    if (!dated) {
      const to = fromDial(x, y);
      return moved(to.bearing, to.height);
    }
    const minutes = Math.min(1439, Math.round(atHour(x, y) * 60));
    const two = (n: number) => String(n).padStart(2, "0");
    const clock = `${two(Math.floor(minutes / 60))}:${two(minutes % 60)}:00`;
    const moment = `${light.moment.slice(0, 11)}${clock}${light.moment.slice(19)}`;
    return (d) => put(d, ["light", "moment"], moment);
  };
  const point = (e: React.PointerEvent<SVGSVGElement>): [number, number] => {
    const box = e.currentTarget.getBoundingClientRect();
    const k = SIZE / box.width;
    return [(e.clientX - box.left) * k, (e.clientY - box.top) * k];
  };
  const keyed = (e: React.KeyboardEvent) => {
    const steps: Record<string, [number, number]> = {
      ArrowLeft: [-2, 0],
      ArrowRight: [2, 0],
      ArrowUp: [0, 1],
      ArrowDown: [0, -1],
    };
    const step = steps[e.key];
    if (!step) return;
    e.preventDefault();
    e.stopPropagation();
    void edit("Light: the sun moved", moved(bearing + step[0], height + step[1]));
  };
  const [sx, sy] = onDial(bearing, height);
  const up = path?.hours.filter((h) => h.height > -8) ?? [];
  return (
    <svg
      viewBox={`0 0 ${SIZE} ${SIZE}`}
      className="mx-auto block w-full max-w-[268px] touch-none select-none"
      role="slider"
      tabIndex={0}
      aria-label="Sun on the dial"
      aria-valuenow={Math.round(height)}
      aria-valuetext={`${Math.round(height)} degrees high, bearing ${Math.round(bearing)}`}
      data-dial
      fontSize="10.5"
      fill={INK}
      onPointerDown={(e) => {
        e.currentTarget.setPointerCapture(e.pointerId);
        drag(put_(...point(e)));
      }}
      onPointerMove={(e) => {
        if (e.currentTarget.hasPointerCapture(e.pointerId)) drag(put_(...point(e)));
      }}
      onPointerUp={(e) => void edit("Light: the sun moved", put_(...point(e)))}
      onKeyDown={keyed}
    >
      <title>{HINT}</title>
      {[30, 60].map((h) => (
        <g key={h}>
          <circle cx={MIDDLE} cy={MIDDLE} r={RING * (1 - h / 90)} fill="none" stroke={RULE} />
          <text x={MIDDLE + 3} y={MIDDLE - RING * (1 - h / 90) + 10} fill="#586159" fontSize="9">
            {h}°
          </text>
        </g>
      ))}
      <Skyline heights={skyline} />
      <circle cx={MIDDLE} cy={MIDDLE} r={RING} fill="none" stroke={INK} strokeWidth="1.3" />
      <Bearings />
      {up.length > 1 && (
        <path
          d={polyline(up.map((h) => onDial(h.bearing, h.height)))}
          fill="none"
          stroke={SUN}
          strokeWidth={dated ? 1.6 : 0.9}
          strokeDasharray={dated ? undefined : "3 3"}
        />
      )}
      {up
        .filter((h) => h.hour % 3 === 0 && h.height > -3)
        .map((h) => {
          const [x, y] = onDial(h.bearing, h.height);
          return (
            <g key={h.hour}>
              <circle cx={x} cy={y} r="2" fill={SUN} />
              <text x={x + 4} y={y - 3} fontSize="9" fill="#7a541a">
                {h.hour}
              </text>
            </g>
          );
        })}
      <Sight bearing={pose.bearing} focal={pose.focal} />
      <g transform={`translate(${sx} ${sy})`} data-sun>
        {[0, 45, 90, 135].map((a) => (
          <path key={a} d="M-10 0H10" stroke={SUN} strokeWidth="1.2" transform={`rotate(${a})`} />
        ))}
        <circle r="5.5" fill={height > 0 ? SUN : "#f4efe4"} stroke={INK} />
      </g>
    </svg>
  );
}

function Bearings() {
  const points = ["N", "NE", "E", "SE", "S", "SW", "W", "NW"];
  return (
    <>
      {Array.from({ length: 36 }, (_, i) => i * 10).map((b) => {
        const out = b % 45 === 0 ? 8 : b % 30 === 0 ? 6 : 4;
        const a = (b * Math.PI) / 180;
        const [s, c] = [Math.sin(a), -Math.cos(a)];
        return (
          <path
            key={b}
            d={`M${MIDDLE} ${MIDDLE}m${RING * s} ${RING * c}l${out * s} ${out * c}`}
            stroke={INK}
            strokeWidth="0.8"
          />
        );
      })}
      {points.map((p, i) => {
        const a = (i * Math.PI) / 4;
        const r = RING + 17;
        return (
          <text
            key={p}
            x={MIDDLE + r * Math.sin(a)}
            y={MIDDLE - r * Math.cos(a) + 4}
            textAnchor="middle"
            fontWeight={p === "N" ? 700 : 400}
          >
            {p}
          </text>
        );
      })}
    </>
  );
}

/** The land's skyline as a band within the ring. */
function Skyline({ heights }: { heights: number[] }) {
  if (!heights.length) return null;
  const inner = heights.map((h, i) => onDial((i * 360) / heights.length, Math.max(0, h)));
  const half = (across: number) => `a${RING} ${RING} 0 1 0 ${across} 0`;
  const ring = `M${MIDDLE - RING} ${MIDDLE}${half(2 * RING)}${half(-2 * RING)}Z`;
  return (
    <path
      d={`${ring}${polyline(inner)}Z`}
      fill="#a9a184"
      fillOpacity="0.55"
      fillRule="evenodd"
      stroke="#6b6a52"
      strokeWidth="0.8"
    >
      <title>the land's skyline from here</title>
    </path>
  );
}

/** What the eye sees now. */
function Sight({ bearing, focal }: { bearing: number; focal: number }) {
  const half = (Math.atan(18 / focal) * 180) / Math.PI;
  const [ax, ay] = onDial(bearing - half, 0);
  const [bx, by] = onDial(bearing + half, 0);
  return (
    <path
      d={`M${MIDDLE} ${MIDDLE}L${ax} ${ay}M${MIDDLE} ${MIDDLE}L${bx} ${by}`}
      stroke="#a3432a"
      strokeWidth="0.8"
      strokeDasharray="2 3"
    />
  );
}
