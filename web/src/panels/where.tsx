/** Where an entry acts: its conditions, with bands dragged over the land's own histogram. */
import { X } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { ask, type SurveyAnswer } from "../api/client";
import { drag, edit, engine, get, set, usePage } from "../state";
import { fetchBytes } from "../view/products";
import { LABELS } from "./labels";
import { AddMenu } from "./menu";
import { at, complete, modelOf, put, Settings, shown, type Path } from "./settings";

interface Holds {
  key: string;
  grid: { nx: number; ny: number };
  share: number;
  conditions: {
    index: number;
    share: number | null;
    low: number | null;
    high: number | null;
    absent: string;
  }[];
}

/**
 * What the list of an entry holds, live: its cover, absent references, thresholds that were found;
 * hatched over view and map while it changes.
 */
function useHolds(path: Path): Holds | null {
  const entry = usePage((s) => at(s.doc, path));
  const ready = usePage((s) => !!s.products);
  const id = usePage((s) => s.id);
  const asked =
    path.length === 2 && ["land", "ground", "planting"].includes(String(path[0]))
      ? JSON.stringify(entry?.where ?? [])
      : "[]";
  const [holds, setHolds] = useState<Holds | null>(null);
  const first = useRef(asked);
  useEffect(() => {
    if (asked === "[]" || !ready) {
      setHolds(null);
      return;
    }
    const halt = new AbortController();
    const changed = asked !== first.current;
    first.current = asked;
    let fade: ReturnType<typeof setTimeout> | undefined;
    const wait = setTimeout(async () => {
      try {
        const found = await ask<Holds>(
          "POST",
          `/api/scenes/${id}/where`,
          { document: get().doc, list: path[0], index: path[1] },
          {},
          halt.signal,
        );
        if (halt.signal.aborted) return;
        setHolds(found);
        if (!changed || get().doc?.marks.some((m) => m.id === get().chosen)) return;
        const values = (await fetchBytes(found.key)).slice();
        if (halt.signal.aborted) return;
        engine.view?.wash(values);
        set({ mask: { id: "", nx: found.grid.nx, ny: found.grid.ny, values, share: found.share } });
        fade = setTimeout(clear, 1800);
      } catch {
        /* an entry that can't be asked yet shows no cover */
      }
    }, 60);
    const clear = () => {
      if (get().mask?.id === "") {
        engine.view?.wash(null);
        set({ mask: null });
      }
    };
    return () => {
      halt.abort();
      clearTimeout(wait);
      if (fade) {
        clearTimeout(fade);
        clear();
      }
    };
  }, [asked, ready, id]);
  return holds;
}

export function Where({
  path,
  stage,
  owner,
  title = "Where",
  none = ": everywhere",
}: {
  path: Path;
  stage: "land" | "ground" | "planting";
  owner: string;
  title?: string;
  none?: string;
}) {
  const list = usePage((s) => at(s.doc, [...path, "where"]) as any[]);
  const schema = usePage((s) => s.schema);
  const stages = usePage((s) => s.stages);
  const manifest = usePage((s) => s.manifest);
  const model = (kind: string) => modelOf(schema, "where", kind);
  const holds = useHolds(path);
  const plot = usePage((s) => s.doc!.plot);
  const order = ["land", "water", "ground", "planting"];
  const kinds = Object.keys(stages).filter(
    (k) =>
      order.indexOf(stages[k]) <= order.indexOf(stage) &&
      !(path[1] === 0 && ((k === "covered" && path[0] === "ground") || k === "near-sowing")),
  );
  const fresh = (kind: string) => {
    const m = manifest;
    const span = m ? m.highest - m.lowest : 100;
    const extra =
      kind === "height" && m
        ? {
            low: Math.round(m.lowest + span * 0.4),
            high: Math.ceil(m.highest),
            soft: Math.max(1, Math.round(span * 0.08)),
          }
        : kind === "slope"
          ? stage === "planting"
            ? { low: 0, high: 28, soft: 6 }
            : { low: 26, high: 90, soft: 6 }
          : {};
    const forms = (get().doc!.land as { id: string; combine?: string }[]).filter((e) => e.combine);
    const own = forms.find((e) => e.id === at(get().doc, path).id);
    return complete(schema, model(kind), {
      kind,
      ...extra,
      ...(kind === "shows"
        ? { landform: forms[0]?.id ?? "" }
        : kind === "mask"
          ? {
              mark: get().doc!.marks.find((m) => m.kind === "mask")?.id ?? "",
              bound: own?.id ?? "",
            }
          : kind === "covered"
            ? {
                material:
                  get().doc!.ground[path[0] === "ground" ? Math.max(0, (path[1] as number) - 1) : 0]
                    ?.id ?? "",
              }
            : kind === "near-sowing"
              ? { sowing: get().doc!.planting[Math.max(0, (path[1] as number) - 1)]?.id ?? "" }
              : kind === "near-line" || kind === "in-area"
                ? {
                    mark:
                      get().doc!.marks.find(
                        (m) => m.kind === (kind === "in-area" ? "area" : "line"),
                      )?.id ?? "",
                  }
                : {}),
    });
  };
  const told = (i: number) => holds?.conditions.find((x) => x.index === i);
  return (
    <div className="mt-2 border-t border-rule pt-1">
      <div className="flex items-center justify-between">
        <span className="font-semibold">
          {title}
          {holds && list.length ? (
            <span className="font-normal text-soft" data-holds>
              {" "}
              {shown(holds.share * 100)} %,{" "}
              {shown((holds.share * plot.width_m * plot.depth_m) / 1e4)} ha
            </span>
          ) : null}
          {list.length ? "" : <span className="font-normal text-soft">{none}</span>}
        </span>
        <AddMenu
          label="rule"
          items={[
            ...kinds.map((k) => ({ key: k, label: LABELS[k] ?? k })),
            ...(stage === "land"
              ? []
              : Object.entries(SHORE).map(([k, r]) => ({ key: k, label: r.label, note: "ready" }))),
          ]}
          onPick={(k) =>
            void edit(`${owner}: where ${SHORE[k]?.label ?? LABELS[k] ?? k}`, (d) => {
              for (const rule of SHORE[k]?.rules ?? [null])
                at(d, path).where.push(rule ? complete(schema, model(rule.kind), rule) : fresh(k));
            })
          }
        />
      </div>
      {list.map((c, i) => {
        const here = [...path, "where", i];
        const name = LABELS[c.kind] ?? c.kind;
        return (
          <div key={i} className="mt-1 border-l-2 border-gold/60 pl-2" data-where={c.kind}>
            {i > 0 && (
              <div
                className="flex gap-2 text-[11.5px]"
                role="radiogroup"
                aria-label={`How ${name} joins`}
              >
                {(["all", "any", "except"] as const).map((j) => (
                  <button
                    key={j}
                    role="radio"
                    aria-checked={(c.join ?? "all") === j}
                    className={
                      (c.join ?? "all") === j
                        ? "font-semibold text-moss"
                        : "text-soft underline decoration-dotted"
                    }
                    onClick={() =>
                      void edit(`${owner}: ${name} joins`, (d) => put(d, [...here, "join"], j))
                    }
                  >
                    {{ all: "and", any: "or", except: "except" }[j]}
                  </button>
                ))}
              </div>
            )}
            {told(i)?.absent && (
              <div className="text-rust" data-absent>
                {told(i)!.absent} It asks nothing until one is chosen.
              </div>
            )}
            <div className="flex items-center justify-between">
              <label className="flex items-center gap-1 text-soft">
                <input
                  type="checkbox"
                  className="accent-moss"
                  aria-label={`${name} on`}
                  checked={c.on !== false}
                  onChange={(e) =>
                    void edit(`${owner}: ${name}`, (d) => put(d, [...here, "on"], e.target.checked))
                  }
                />
                {name}
              </label>
              <span className="flex items-center gap-2">
                <label className="flex items-center gap-1 text-soft">
                  <input
                    type="checkbox"
                    className="accent-moss"
                    checked={!!c.invert}
                    onChange={(e) =>
                      void edit(`${owner}: invert ${name}`, (d) =>
                        put(d, [...here, "invert"], e.target.checked),
                      )
                    }
                  />
                  invert
                </label>
                <button
                  className="icon"
                  aria-label={`Remove ${name}`}
                  onClick={() =>
                    void edit(`${owner}: no ${name}`, (d) => at(d, path).where.splice(i, 1))
                  }
                >
                  <X size={13} />
                </button>
              </span>
            </div>
            {c.take && c.take !== "band" ? (
              <div className="text-soft" data-found>
                {c.take === "lowest"
                  ? `up to ${shown(told(i)?.high ?? 0)}`
                  : `from ${shown(told(i)?.low ?? 0)}`}
                : found for {shown(c.share)} % of what the rules before it leave
              </div>
            ) : "low" in c && !PLAIN.includes(c.kind) ? (
              <Band path={here} kind={c.kind} owner={owner} />
            ) : null}
            <Settings
              path={here}
              model={model(c.kind)}
              owner={owner}
              skip={[
                "join",
                ...("low" in c && (!PLAIN.includes(c.kind) || (c.take && c.take !== "band"))
                  ? ["low", "high"]
                  : []),
              ]}
            />
          </div>
        );
      })}
    </div>
  );
}

/** Ready rules for the water's edge. */
const SHORE: Record<string, { label: string; rules: { kind: string; [k: string]: unknown }[] }> = {
  "shore-wet": {
    label: "shore: wet band",
    rules: [{ kind: "shore", low: -0.3, high: 0.35, soft: 0.3, within_m: 25 }],
  },
  "shore-foam": {
    label: "shore: foam line",
    rules: [
      { kind: "shore", low: -0.06, high: 0.08, soft: 0.08, within_m: 12 },
      { kind: "patches", size_m: 6, share: 60, soft: 30 },
    ],
  },
  "shore-flat": {
    label: "shore: flat sand",
    rules: [
      { kind: "shore", low: -2, high: 1.2, soft: 0.8, within_m: 60 },
      { kind: "slope", low: 0, high: 9, soft: 4 },
    ],
  },
};

const PLAIN = ["shore", "covered", "near-sowing"]; // bands without a sheet of the survey

/**
 * Histogram of what a condition measures: of the manifest for slope and height, of the survey for
 * the rest.
 */
function useBins(
  kind: string,
  c: any,
): { bins: number[]; min: number; max: number; unit: string } | null {
  const manifest = usePage((s) => s.manifest);
  const id = usePage((s) => s.id);
  const sheets = usePage((s) => s.sheets);
  const [found, setFound] = useState<SurveyAnswer | null>(null);
  const plain = kind === "slope" || kind === "height";
  const asked = kind === "sunlit" ? { latitude: c?.latitude, day: c?.day } : {};
  const key = `${manifest?.draft ? "" : manifest?.heights} ${kind} ${JSON.stringify(asked)}`;
  useEffect(() => {
    if (plain || !manifest || manifest.draft || !sheets.some((x) => x.kind === kind)) return;
    const stop = new AbortController();
    ask<SurveyAnswer>(
      "POST",
      `/api/scenes/${id}/surveys`,
      { document: get().doc, kind, ...asked },
      {},
      stop.signal,
    )
      .then((a) => !stop.signal.aborted && setFound(a))
      .catch(() => {});
    return () => stop.abort();
  }, [key]);
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
function Band({ path, kind, owner }: { path: Path; kind: string; owner: string }) {
  const c = usePage((s) => at(s.doc, path));
  const found = useBins(kind, c);
  const plot = usePage((s) => s.doc!.plot);
  const svg = useRef<SVGSVGElement>(null);
  if (!c) return null;
  if (!found) return <div className="h-[38px] text-soft">measuring…</div>;
  const log = kind === "gathers";
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
  const outline = `M0 34 ${bins.map((b, i) => `L${i * 4} ${34 - 30 * Math.sqrt(b / top)} L${i * 4 + 4} ${34 - 30 * Math.sqrt(b / top)}`).join(" ")} L256 34Z`;
  const grain =
    kind === "slope"
      ? 1
      : Math.max(0, Math.min(4, 2 - Math.floor(Math.log10((max - min) / 10 || 1))));
  const move = (end: "low" | "high", t: number) => (d: any) => {
    const b = at(d, path);
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
