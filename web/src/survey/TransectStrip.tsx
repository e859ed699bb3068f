import { useEffect, useRef, useState } from "react";
import * as calls from "../api/calls";
import { saveFile, Trouble } from "../api/client";
import * as urls from "../api/urls";
import { shown } from "../document/numbers";
import { engine } from "../state/engine";
import { readPlace } from "../state/place";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";
import { STRIP_HEIGHT } from "../controls/stripHeight";

export function TransectStrip({ width }: { width: number }) {
  const cut = usePage((s) => s.transect);
  const doc = usePage((s) => s.doc);
  const manifest = usePage((s) => s.manifest);
  const cabinet = usePage((s) => s.cabinet);
  const id = usePage((s) => s.id);
  const [at, setAt] = useState<number | null>(null);
  const busy = useRef(false);
  const next = useRef(false);
  const line = cut?.line.join(" ");
  const key =
    `${line} ${manifest?.heights} ${manifest?.weights} ` +
    `${manifest?.sown.map((s) => s.key).join("")} ${JSON.stringify(doc?.water)}`;
  useEffect(() => {
    if (!get().transect || !get().manifest) return;
    const work = async () => {
      busy.current = true;
      do {
        next.current = false;
        const now = get().transect;
        if (!now) break;
        try {
          const answer = await calls.cutTransect(get().id!, {
            document: get().doc,
            line: now.line,
            samples: 360,
          });
          set((s) => ({ transect: s.transect && { ...s.transect, answer } }));
        } catch (e) {
          if (!(e instanceof Trouble && e.problem.status === 422)) tell(e);
        }
      } while (next.current);
      busy.current = false;
    };
    if (busy.current) next.current = true;
    else void work();
  }, [key]);
  if (!cut || !doc) return null;
  const a = cut.answer;
  const W = Math.max(200, width);
  const left = 46;
  const right = 12;
  const span = W - left - right;
  const save = (kind: "csv" | "svg") =>
    calls
      .transectFile(id!, kind, {
        document: get().doc,
        line: cut.line,
        samples: kind === "csv" ? 800 : 600,
        times:
          cut.times ||
          Math.max(
            1,
            (0.1 * cut.answer!.length) /
              Math.max(1e-3, Math.max(...cut.answer!.height) - Math.min(...cut.answer!.height)),
          ),
      })
      .then((b) => saveFile(b, `${doc.name}-transect.${kind}`))
      .catch(tell);
  let body: React.ReactNode = (
    <text x={left} y={60} fill="#586159">
      cutting the land…
    </text>
  );
  let step = 1;
  if (a) {
    const n = a.height.length;
    const low = Math.min(...a.height);
    const high = Math.max(...a.height, ...a.plants.map((p) => p.foot + p.height));
    const scale = span / a.length;
    const most = STRIP_HEIGHT - 46;
    const tall = Math.min(most, Math.max((high - low) * scale * cut.times, 2));
    const per = cut.times === 0 ? most / (high - low || 1) : tall / (high - low || 1);
    const x = (i: number) => left + (i / (n - 1)) * span;
    const xm = (m: number) => left + m * scale;
    const y = (h: number) =>
      STRIP_HEIGHT - 30 - (h - low) * (cut.times === 0 ? most / (high - low || 1) : per);
    const ground = a.height
      .map((h, i) => `${i ? "L" : "M"}${x(i).toFixed(1)} ${y(h).toFixed(1)}`)
      .join("");
    const tone = (kind: string) => {
      const c = cabinet?.kinds.find((k) => k.name === kind)?.colour ?? [0.1, 0.2, 0.05];
      return `rgb(${c.map((v) => Math.round(255 * Math.pow(Math.min(1, v), 1 / 2.2))).join(" ")})`;
    };
    const wet: string[] = [];
    for (let i = 0; i < n; i++)
      if (a.water[i] !== null) {
        let j = i;
        while (j + 1 < n && a.water[j + 1] !== null) j++;
        wet.push(
          `M${x(i)} ${y(a.height[i])}L${x(i)} ${y(a.water[i]!)}L${x(j)} ${y(a.water[j]!)}${a.height
            .slice(i, j + 1)
            .map((_, k) => `L${x(j - k)} ${y(a.height[j - k])}`)
            .join("")}Z`,
        );
        i = j;
      }
    const bands: React.ReactNode[] = [];
    for (let i = 0; i < n;) {
      let j = i;
      while (j + 1 < n && a.most[j + 1] === a.most[i]) j++;
      const m = doc.ground[a.most[i]];
      if (m)
        bands.push(
          <rect
            key={i}
            x={x(i)}
            y={STRIP_HEIGHT - 28}
            width={Math.max(1, x(Math.min(j + 1, n - 1)) - x(i))}
            height="7"
            fill={`url(#t-${m.ground})`}
          >
            <title>{m.name}</title>
          </rect>,
        );
      i = j + 1;
    }
    step =
      Math.pow(10, Math.floor(Math.log10(a.length / 4))) *
      ([1, 2, 5].find(
        (k) => a.length / (Math.pow(10, Math.floor(Math.log10(a.length / 4))) * k) < 9,
      ) ?? 5);
    const hs = Math.max((high - low) / 3, 1e-3);
    const hstep =
      Math.pow(10, Math.floor(Math.log10(hs))) *
      ([1, 2, 5, 10].find((k) => k * Math.pow(10, Math.floor(Math.log10(hs))) >= hs) ?? 10);
    const i = at;
    body = (
      <>
        <defs>
          {[...new Set(doc.ground.map((m) => m.ground))].map((g) => (
            <pattern key={g} id={`t-${g}`} width="60" height="60" patternUnits="userSpaceOnUse">
              <image href={urls.drawerPicture("grounds", g)} width="60" height="60" />
            </pattern>
          ))}
        </defs>
        {Array.from(
          { length: Math.floor(high / hstep) - Math.ceil(low / hstep) + 1 },
          (_, k) => (Math.ceil(low / hstep) + k) * hstep,
        ).map((h) => (
          <g key={h}>
            <path d={`M${left} ${y(h)}H${W - right}`} stroke="#d8cfba" />
            <text x={left - 5} y={y(h) + 4} textAnchor="end">
              {shown(h)}
            </text>
          </g>
        ))}
        <path
          d={`${ground}L${x(n - 1)} ${STRIP_HEIGHT - 28}L${left} ${STRIP_HEIGHT - 28}Z`}
          fill="#ddd4bf"
        />
        {a.plants.map((p, k) => {
          const r = Math.max(0.7, p.height * 0.22 * scale);
          return (
            <g key={k} fill={tone(p.kind)}>
              <path
                d={`M${xm(p.along)} ${y(p.foot)}V${y(p.foot + p.height * 0.5)}`}
                stroke={tone(p.kind)}
              />
              <ellipse
                cx={xm(p.along)}
                cy={(y(p.foot + p.height * 0.25) + y(p.foot + p.height)) / 2}
                rx={r}
                ry={Math.max(0.6, (y(p.foot + p.height * 0.25) - y(p.foot + p.height)) / 2)}
                fillOpacity="0.75"
              />
            </g>
          );
        })}
        {wet.map((d) => (
          <path key={d} d={d} fill="#8fb0bd" />
        ))}
        <path d={ground} fill="none" stroke="#23302b" strokeWidth="1.4" />
        {bands}
        {Array.from({ length: Math.floor(a.length / step) + 1 }, (_, k) => k * step).map((m) => (
          <g key={m}>
            <path d={`M${xm(m)} ${STRIP_HEIGHT - 21}v4`} stroke="#23302b" />
            <text x={xm(m)} y={STRIP_HEIGHT - 6} textAnchor="middle">
              {shown(m)}
              {m === 0 ? " m" : ""}
            </text>
          </g>
        ))}
        <g transform={`translate(${left + 8} ${y(a.height[Math.round((8 / span) * (n - 1))])})`}>
          <title>a person, 1.75 m</title>
          <path d={`M0 0V${-Math.max(1, 1.75 * (y(0) - y(1)))}`} stroke="#a3432a" strokeWidth="2" />
        </g>
        {i !== null && (
          <g>
            <path d={`M${x(i)} 4V${STRIP_HEIGHT - 28}`} stroke="#9a6a1c" />
            <circle
              cx={x(i)}
              cy={y(a.height[i])}
              r="3.5"
              fill="#f4efe4"
              stroke="#9a6a1c"
              strokeWidth="1.6"
            />
            <text x={Math.min(x(i) + 7, W - 270)} y={14} fontWeight="600">
              {shown((i / (n - 1)) * a.length)} m along · {a.height[i].toFixed(1)} m · slope{" "}
              {a.slope[i].toFixed(0)}°{a.most[i] >= 0 ? ` · ${a.names[a.most[i]]}` : ""}
              {a.water[i] !== null ? ` · ${(a.water[i]! - a.height[i]).toFixed(1)} m deep` : ""}
            </text>
          </g>
        )}
      </>
    );
  }
  const point = (e: React.PointerEvent<SVGSVGElement>) => {
    if (!a) return;
    const r = e.currentTarget.getBoundingClientRect();
    const i = Math.round(((e.clientX - r.left - left) / span) * (a.height.length - 1));
    if (i < 0 || i >= a.height.length) {
      setAt(null);
      return;
    }
    setAt(i);
    set({ place: readPlace(a.east[i], a.north[i]), pinned: true });
    engine.view?.ring(a.east[i], a.north[i], Math.max(1.5, a.length * 0.008));
  };
  return (
    <div
      className="absolute right-0 bottom-0 left-0 border-t-[1.5px] border-ink bg-paper"
      style={{ height: STRIP_HEIGHT }}
      data-transect={a ? a.height.length : 0}
    >
      <svg
        width={W}
        height={STRIP_HEIGHT}
        fontSize="11"
        fill="#23302b"
        onPointerMove={point}
        onPointerLeave={() => {
          setAt(null);
          set({ pinned: false, place: null });
          engine.view?.ring(0, 0, null);
        }}
      >
        {body}
      </svg>
      <div className="absolute top-1 right-2 flex items-center gap-1 text-[11.5px]">
        <select
          className="text"
          aria-label="Heights drawn"
          value={cut.times}
          onChange={(e) => set({ transect: { ...cut, times: +e.target.value } })}
        >
          <option value={1}>true heights</option>
          <option value={2}>heights × 2</option>
          <option value={5}>heights × 5</option>
          <option value={0}>heights to fit</option>
        </select>
        <button className="btn" onClick={() => void save("csv")} data-csv>
          CSV
        </button>
        <button className="btn" onClick={() => void save("svg")} data-svg>
          SVG
        </button>
        <button className="btn" onClick={() => set({ transect: null })}>
          fold
        </button>
      </div>
    </div>
  );
}
