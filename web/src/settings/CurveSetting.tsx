import { useRef, useState } from "react";
import type { Scene } from "../api/shapes";
import { at, type Path, put } from "../document/path";
import { drag, edit } from "../state/edits";
import { usePage } from "../state/store";

const W = 256;

const H = 96;

const PAD = 7;

/**
 * Slopes of a cubic without overshoot (Fritsch & Carlson 1980), so that what is drawn is what the
 * core reads.
 */
function tangents(p: number[][]): number[] {
  const n = p.length;
  const h = p.slice(1).map((q, i) => q[0] - p[i][0]);
  const d = p.slice(1).map((q, i) => (q[1] - p[i][1]) / h[i]);
  if (n === 2) return [d[0], d[0]];
  const end = (h0: number, h1: number, d0: number, d1: number) => {
    const m = ((2 * h0 + h1) * d0 - h0 * d1) / (h0 + h1);
    return m * d0 <= 0 ? 0 : d0 * d1 <= 0 && Math.abs(m) > 3 * Math.abs(d0) ? 3 * d0 : m;
  };
  const inner = d.slice(1).map((b, i) => {
    const a = d[i];
    const w1 = 2 * h[i + 1] + h[i];
    const w2 = h[i + 1] + 2 * h[i];
    return a * b <= 0 ? 0 : (w1 + w2) / (w1 / a + w2 / b);
  });
  return [end(h[0], h[1], d[0], d[1]), ...inner, end(h[n - 2], h[n - 3], d[n - 2], d[n - 3])];
}

export function CurveSetting({
  path,
  name,
  label,
  axes,
  owner,
  help,
}: {
  path: Path;
  name: string;
  label: string;
  axes: [string, string];
  owner: string;
  help?: string;
}) {
  const points = usePage((s) => at(s.doc, [...path, name]) as number[][]);
  const svg = useRef<SVGSVGElement>(null);
  const [now, setNow] = useState<number | null>(null);
  const x = (v: number) => PAD + v * (W - 2 * PAD);
  const y = (v: number) => H - PAD - v * (H - 2 * PAD);
  const m = tangents(points);
  const line = points
    .map((p, i) => {
      if (!i) return `M${x(p[0])} ${y(p[1])}`;
      const q = points[i - 1];
      const h = (p[0] - q[0]) / 3;
      return (
        `C${x(q[0] + h)} ${y(q[1] + h * m[i - 1])} ${x(p[0] - h)} ` +
        `${y(p[1] - h * m[i])} ${x(p[0])} ${y(p[1])}`
      );
    })
    .join("");
  const place = (e: { clientX: number; clientY: number }): [number, number] => {
    const r = svg.current!.getBoundingClientRect();
    return [
      (((e.clientX - r.left) / r.width) * W - PAD) / (W - 2 * PAD),
      (H - PAD - ((e.clientY - r.top) / r.height) * H) / (H - 2 * PAD),
    ];
  };
  const moved = (i: number, [px, py]: [number, number]) =>
    points.map((p, k) => {
      if (k !== i) return p;
      const low = i ? points[i - 1][0] + 0.01 : 0;
      const high = i < points.length - 1 ? points[i + 1][0] - 0.01 : 1;
      const nx = i === 0 || i === points.length - 1 ? p[0] : Math.min(high, Math.max(low, px));
      return [+nx.toFixed(3), +Math.min(1, Math.max(0, py)).toFixed(3)];
    });
  const set = (next: number[][]) => (d: Scene) => put(d, [...path, name], next);
  const keep = (next: number[][]) => void edit(`${owner}: ${label.toLowerCase()}`, set(next));
  const remove = (i: number) => {
    if (points.length > 2 && i > 0 && i < points.length - 1) keep(points.filter((_, k) => k !== i));
  };
  return (
    <div className="mt-1" title={help}>
      <div className="flex justify-between">
        <span>{label}</span>
        <span className="text-[11px] text-soft">click adds a point, Delete takes it out</span>
      </div>
      <svg
        ref={svg}
        viewBox={`0 0 ${W} ${H}`}
        className="block w-full touch-none border border-rule bg-[#fffdf7]"
        data-curve={name}
        onPointerDown={(e) => {
          if (e.target !== svg.current && (e.target as Element).tagName !== "path") return;
          const [px, py] = place(e);
          if (
            points.length >= 16 ||
            points.some((p) => Math.abs(p[0] - px) < 0.02) ||
            px <= 0 ||
            px >= 1
          )
            return;
          keep(
            [...points, [+px.toFixed(3), +Math.min(1, Math.max(0, py)).toFixed(3)]].sort(
              (a, b) => a[0] - b[0],
            ),
          );
        }}
      >
        {[0.25, 0.5, 0.75].map((t) => (
          <path
            key={t}
            d={`M${x(t)} ${PAD}V${H - PAD}M${PAD} ${y(t)}H${W - PAD}`}
            stroke="#e4dccb"
          />
        ))}
        <path d={line} fill="none" stroke="#4d6a3a" strokeWidth="1.8" />
        {points.map((p, i) => (
          <circle
            key={i}
            cx={x(p[0])}
            cy={y(p[1])}
            r={now === i ? 5 : 4}
            fill="#f4efe4"
            stroke="#4d6a3a"
            strokeWidth="2"
            tabIndex={0}
            role="slider"
            aria-label={`${label} point ${i + 1}`}
            aria-valuenow={p[1]}
            className="cursor-move"
            onPointerDown={(e) => {
              e.stopPropagation();
              (e.target as Element).setPointerCapture(e.pointerId);
              setNow(i);
            }}
            onPointerMove={(e) => {
              if ((e.target as Element).hasPointerCapture(e.pointerId))
                drag(set(moved(i, place(e))));
            }}
            onPointerUp={(e) => {
              if ((e.target as Element).hasPointerCapture(e.pointerId)) {
                (e.target as Element).releasePointerCapture(e.pointerId);
                setNow(null);
                void edit(`${owner}: ${label.toLowerCase()}`);
              }
            }}
            onDoubleClick={() => remove(i)}
            onKeyDown={(e) => {
              const step = (
                {
                  ArrowLeft: [-0.02, 0],
                  ArrowRight: [0.02, 0],
                  ArrowUp: [0, 0.02],
                  ArrowDown: [0, -0.02],
                } as Record<string, number[]>
              )[e.key];
              if (step) {
                e.preventDefault();
                e.stopPropagation();
                keep(moved(i, [p[0] + step[0], p[1] + step[1]]));
              }
              if (e.key === "Delete" || e.key === "Backspace") {
                e.stopPropagation();
                remove(i);
              }
            }}
          />
        ))}
      </svg>
      <div className="flex justify-between text-[11px] text-soft">
        <span>{axes[0]} →</span>
        <span>↑ {axes[1]}</span>
      </div>
    </div>
  );
}
