import { frameOf, interval } from "../map/frame";
import { usePage } from "../state/store";
import { LEFT, TOP } from "./neatLine";

/** The neat line: bearings above and angles beside the view, metres around the map. */
export function Rulers({ width, height, map }: { width: number; height: number; map: boolean }) {
  const pose = usePage((s) => s.pose);
  const doc = usePage((s) => s.doc);
  const sun = usePage((s) => s.sun);
  const mapAt = usePage((s) => s.mapAt);
  const hidden = usePage((s) => s.hidden);
  const ticks: React.ReactNode[] = [];
  const text = (key: string, x: number, y: number, s: string, extra = {}) => (
    <text key={key} x={x} y={y} fontSize="11" fill="#23302b" {...extra}>
      {s}
    </text>
  );
  if (map && doc) {
    const m = frameOf(doc, width, height, 26, mapAt);
    const seen = width / m.scale;
    const plot = Math.max(doc.plot.width_m, doc.plot.depth_m);
    // zoomed out beyond the plot, the neat line measures the far land
    const out = seen > 2.6 * plot;
    const step = interval(out ? seen * 1.4 : Math.min(plot, seen * 1.4));
    const depth = doc.plot.depth_m;
    const text_ = (v: number) => (+v.toFixed(3)).toLocaleString("en");
    const first = (least: number) => Math.ceil((out ? least : Math.max(0, least)) / step) * step;
    const most = (side: number) => (out ? Infinity : side + 1e-6);
    for (let e = first(-m.x0 / m.scale); e <= most(doc.plot.width_m); e += step) {
      const x = LEFT + m.x0 + e * m.scale;
      if (x > LEFT + width) break;
      ticks.push(
        <path key={`e${e}`} d={`M${x} ${TOP - 6}V${TOP}`} stroke="#23302b" />,
        text(`te${e}`, x, 12, e === 0 ? "0 m E" : text_(e), { textAnchor: "middle" }),
      );
    }
    for (let n = first(depth - (height - m.y0) / m.scale); n <= most(depth); n += step) {
      const y = TOP + m.y0 + (depth - n) * m.scale;
      if (y < TOP) break;
      ticks.push(
        <path key={`n${n}`} d={`M${LEFT - 6} ${y}H${LEFT}`} stroke="#23302b" />,
        text(`tn${n}`, LEFT - 7, y + 4, n === 0 ? "0 N" : text_(n), {
          textAnchor: "end",
          ...(Math.abs(n) >= 10000 ? { fontSize: "9" } : {}),
        }),
      );
    }
  } else {
    const half = Math.atan(18 / pose.focal);
    const f = width / 2 / Math.tan(half);
    const deg = 180 / Math.PI;
    const step = half * deg > 25 ? 5 : half * deg > 10 ? 2 : 1;
    const xOf = (bearing: number) => {
      const d = ((bearing - pose.bearing + 540) % 360) - 180;
      return Math.abs(d) > half * deg ? null : LEFT + width / 2 + Math.tan(d / deg) * f;
    };
    for (
      let k = Math.ceil((pose.bearing - half * deg) / step);
      k * step <= pose.bearing + half * deg;
      k++
    ) {
      const b = k * step;
      const x = xOf(b);
      if (x === null) continue;
      const big = k % 2 === 0;
      const named = ((b % 360) + 360) % 360;
      const points: Record<number, string> = {
        0: "N",
        45: "NE",
        90: "E",
        135: "SE",
        180: "S",
        225: "SW",
        270: "W",
        315: "NW",
      };
      ticks.push(<path key={`b${k}`} d={`M${x} ${TOP - (big ? 7 : 4)}V${TOP}`} stroke="#23302b" />);
      if (big && x > LEFT + 14 && x < LEFT + width - 14)
        ticks.push(
          text(`tb${k}`, x, 12, points[named] ?? `${named}°`, {
            textAnchor: "middle",
            fontWeight: points[named] ? 700 : 400,
          }),
        );
    }
    if (doc) {
      const x = sun && xOf(sun.bearing);
      if (x !== null)
        ticks.push(
          <g key="sun" transform={`translate(${x} 14)`}>
            <circle r="4" fill="#b9812a" />
            {[0, 45, 90, 135].map((a) => (
              <path key={a} d="M-7 0H7" stroke="#b9812a" transform={`rotate(${a})`} />
            ))}
          </g>,
        );
      doc.shots
        .filter((s) => s.on && !hidden.has(s.id))
        .forEach((s) => {
          const away = Math.hypot(s.east_m - pose.east, s.north_m - pose.north);
          const xs =
            away > 1
              ? xOf((Math.atan2(s.east_m - pose.east, s.north_m - pose.north) * deg + 360) % 360)
              : null;
          if (xs !== null)
            ticks.push(
              <g key={s.id}>
                <path d={`M${xs - 4} ${TOP - 8}h8l-4 7z`} fill="#a3432a" />
                <title>{s.name}</title>
              </g>,
            );
        });
    }
    const halfUp = Math.atan(height / 2 / f);
    const vstep = halfUp * deg > 18 ? 5 : 2;
    for (
      let k = Math.ceil((pose.tilt - halfUp * deg) / vstep);
      k * vstep <= pose.tilt + halfUp * deg;
      k++
    ) {
      const a = k * vstep;
      const y = TOP + height / 2 - Math.tan((a - pose.tilt) / deg) * f;
      if (y < TOP + 6 || y > TOP + height - 4) continue;
      ticks.push(
        <path key={`v${k}`} d={`M${LEFT - (k % 2 ? 4 : 7)} ${y}H${LEFT}`} stroke="#23302b" />,
      );
      if (k % 2 === 0)
        ticks.push(
          text(`tv${k}`, LEFT - 8, y + 4, `${a > 0 ? "+" : a < 0 ? "−" : ""}${Math.abs(a)}°`, {
            textAnchor: "end",
            fontWeight: a === 0 ? 700 : 400,
          }),
        );
    }
  }
  return (
    <svg className="absolute inset-0 h-full w-full" aria-hidden>
      <g fontFamily="var(--font-sans)">{ticks}</g>
      <path d={`M${LEFT} ${TOP}H4000`} stroke="#23302b" />
      <path d={`M${LEFT} ${TOP}V4000`} stroke="#23302b" />
    </svg>
  );
}
