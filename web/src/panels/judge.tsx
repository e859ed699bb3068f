/**
 * What a land is judged by: the sheets of the survey, the proof sheet, the reality check, the
 * ready-made lands.
 */
import { useEffect, useRef, useState } from "react";
import { find, pathOf } from "../actions/actions";
import {
  ask,
  fileOf,
  Trouble,
  type LandLine,
  type MeasureLine,
  type Scene,
  type SceneState,
  type SurveyAnswer,
} from "../api/client";
import { edit, engine, freshId, get, openScene, set, tell, usePage } from "../state";
import { fetchSheet } from "../view/products";
import { at, modelOf, put, Range, shown, type Path } from "./settings";
import { SheetBox } from "./sheetbox";

/**
 * Measures the sheet that is laid out again whenever the land changes, and lays it over the view.
 */
export function SurveyWash() {
  const sheet = usePage((s) => s.sheet);
  const manifest = usePage((s) => s.manifest);
  const id = usePage((s) => s.id);
  const key = sheet && `${sheet.kind} ${sheet.entry} ${sheet.latitude} ${sheet.day}`;
  useEffect(() => {
    if (!sheet || !manifest || manifest.draft || sheet.kind === "difference") return;
    const stop = new AbortController();
    void (async () => {
      try {
        const { kind, entry, latitude, day } = sheet;
        const answer = await ask<SurveyAnswer>(
          "POST",
          `/api/scenes/${id}/surveys`,
          { document: get().doc, kind, entry: entry ?? "", latitude, day },
          {},
          stop.signal,
        );
        const values = await fetchSheet(answer.key);
        if (!stop.signal.aborted)
          set((s) => ({ sheet: s.sheet && { ...s.sheet, answer, values } }));
      } catch (e) {
        if (!stop.signal.aborted) {
          tell(e);
          set({ sheet: null });
        }
      }
    })();
    return () => stop.abort();
  }, [key, manifest?.heights, manifest?.draft, id]);
  useEffect(() => {
    const a = sheet?.answer;
    if (!sheet?.values || !a) {
      engine.view?.sheet(null);
      return;
    }
    engine.view?.sheet(sheet.values, a.low, a.high, 8, a.log);
  }, [sheet?.values]);
  return null;
}

/** The key of the sheet that is laid out: its wash, its histogram, its ends. */
export function SurveyKey() {
  const sheet = usePage((s) => s.sheet);
  const a = sheet?.answer;
  const place = usePage((s) => s.place);
  const products = usePage((s) => s.products);
  if (!sheet) return null;
  const top = Math.max(...(a?.bins ?? [1]), 1e-6);
  const f = products?.field;
  const here =
    place && f && sheet.values?.length === f.values.length
      ? sheet.values[
          Math.round(f.ny - 1 - place.north / f.spacing) * f.nx + Math.round(place.east / f.spacing)
        ]
      : null;
  return (
    <div className="w-[218px] border border-ink bg-paper/95 px-3 pt-1 pb-2" data-survey-key>
      <div className="flex items-baseline justify-between">
        <b className="font-show">{a?.label ?? "measuring…"}</b>
        <button className="text-soft underline" onClick={() => set({ sheet: null })}>
          put away
        </button>
      </div>
      {a && (
        <>
          <svg viewBox="0 0 192 34" className="block h-[34px] w-full" preserveAspectRatio="none">
            {a.bins.map((b, i) => (
              <rect
                key={i}
                x={i * 3}
                width="3"
                y={34 - 33 * Math.sqrt(b / top)}
                height="34"
                fill={`rgb(${[0, 1, 2].map((n) => Math.round([232, 224, 205][n] + ([36, 64, 78][n] - [232, 224, 205][n]) * (i / 63))).join(" ")})`}
                stroke="#23302b"
                strokeWidth="0.15"
              />
            ))}
          </svg>
          <div className="flex justify-between text-[11.5px]">
            <span>{shown(a.low)}</span>
            <span className="text-soft">
              {here !== null && here !== undefined
                ? `here ${shown(here)}`
                : `mean ${shown(a.mean)}`}
            </span>
            <span>
              {shown(a.high)} {a.unit}
            </span>
          </div>
          <p className="text-[11px] leading-tight text-soft">{a.help}</p>
        </>
      )}
    </div>
  );
}

/** The list of sheets, as a line in the section Land. */
export function SurveyChoice() {
  const sheets = usePage((s) => s.sheets);
  const sheet = usePage((s) => s.sheet);
  const lay = (kind: string) =>
    set((s) => ({
      sheet: kind ? { kind, latitude: s.sheet?.latitude ?? 50, day: s.sheet?.day ?? 172 } : null,
    }));
  return (
    <div className="mt-2 border-t border-rule pt-1" data-survey>
      <label className="flex items-center justify-between gap-2">
        <span className="font-semibold">Survey sheet</span>
        <select
          className="text max-w-[180px]"
          aria-label="Survey sheet"
          value={sheet && sheet.kind !== "shows" && sheet.kind !== "difference" ? sheet.kind : ""}
          onChange={(e) => lay(e.target.value)}
        >
          <option value="">none laid out</option>
          {sheets.map((x) => (
            <option key={x.kind} value={x.kind}>
              {x.label}
            </option>
          ))}
        </select>
      </label>
      {sheet?.kind === "sunlit" && (
        <>
          <Range
            label="Latitude"
            value={sheet.latitude}
            unit="°"
            min={-90}
            max={90}
            low={-90}
            high={90}
            log={false}
            step={1}
            onDrag={() => {}}
            onKeep={(v) => set({ sheet: { ...sheet, latitude: v } })}
          />
          <Range
            label="Day of the year"
            value={sheet.day}
            unit=""
            min={1}
            max={366}
            low={1}
            high={365}
            log={false}
            step={1}
            onDrag={() => {}}
            onKeep={(v) => set({ sheet: { ...sheet, day: Math.round(v) } })}
          />
        </>
      )}
    </div>
  );
}

export function Reality() {
  const [list, setList] = useState<MeasureLine[] | null>(null);
  const id = usePage((s) => s.id);
  useEffect(() => {
    ask<MeasureLine[]>("POST", `/api/scenes/${id}/reality`, { document: get().doc })
      .then(setList)
      .catch((e) => {
        tell(e);
        set({ dialog: null });
      });
  }, []);
  const bar = (m: MeasureLine) => {
    const span = m.high - m.low;
    const from = m.low - span * 0.6;
    const to = m.high + span * 0.6;
    const x = (v: number) => Math.min(100, Math.max(0, ((v - from) / (to - from)) * 100));
    return (
      <svg viewBox="0 0 100 10" className="h-[10px] w-full" preserveAspectRatio="none">
        <rect x="0" y="4" width="100" height="2" fill="#c9c0ab" />
        <rect x={x(m.low)} y="2.5" width={x(m.high) - x(m.low)} height="5" fill="#b7c2a6" />
        {m.value !== null && (
          <rect
            x={x(m.value!) - 0.9}
            y="0"
            width="1.8"
            height="10"
            fill={m.fits ? "#4d6a3a" : "#a3432a"}
          />
        )}
      </svg>
    );
  };
  return (
    <SheetBox title="Reality check" wide={620}>
      {!list && <p className="text-soft">Measuring the land…</p>}
      <div data-reality>
        {list?.map((m, i) => (
          <div
            key={m.name}
            className={`border-b border-rule/60 py-[4px] ${i === 4 ? "mt-1 border-t border-t-ink" : ""}`}
          >
            <div className="grid grid-cols-[1fr_150px_96px] items-center gap-3">
              <span className={m.tells ? "font-semibold" : ""}>{m.label}</span>
              {bar(m)}
              <span className={`text-right font-semibold ${m.fits ? "text-moss" : "text-rust"}`}>
                {m.value === null ? "none" : shown(m.value!)} {m.unit}
              </span>
            </div>
            <div className="text-[11.5px] text-soft">
              {m.fits ? `as in real land: ${m.source}` : `${m.source}. ${m.advice}`}
            </div>
          </div>
        ))}
      </div>
      <p className="mt-2 text-[11.5px] text-soft">
        The upper four tell real land from made land; the others only show what is far off. Dunes,
        drumlins and craters have hollows and need not pass.
      </p>
    </SheetBox>
  );
}

export function Lands() {
  const [list, setList] = useState<LandLine[] | null>(null);
  useEffect(() => {
    ask<LandLine[]>("GET", "/api/lands").then(setList).catch(tell);
  }, []);
  const begin = async (name: string) => {
    try {
      const document = await ask<Scene>("GET", `/api/lands/${name}`);
      const made = await ask<SceneState>("POST", "/api/scenes", { document });
      set({ dialog: null, open: "land" });
      await openScene(made.id);
    } catch (e) {
      tell(e);
    }
  };
  /** The land's entries join this scene's, sized to its plot, as one group. */
  const bring = async (line: LandLine) => {
    try {
      const document = await ask<Scene>("GET", `/api/lands/${line.name}`);
      const own = get().doc!.plot;
      const k =
        Math.max(own.width_m, own.depth_m) / Math.max(document.plot.width_m, document.plot.depth_m);
      const ids = new Map<string, string>();
      for (const e of document.land) ids.set(e.id, freshId(e.id));
      const scaled = (e: any): any =>
        Object.fromEntries(
          Object.entries(e).map(([n, v]) => [
            n,
            n === "where"
              ? (v as any[]).map(scaled)
              : n === "lines"
                ? v
                : typeof v === "number" &&
                    (n.endsWith("_m") ||
                      (("low" === n || "high" === n || "soft" === n) &&
                        ["height", "lowered", "laid", "scree", "roughness"].includes(e.kind))) &&
                    Math.abs(v) < 12000
                  ? +(v * k).toPrecision(6)
                  : v,
          ]),
        );
      await edit(`Land: ${line.label}`, (d) => {
        for (const e of document.land)
          d.land.push({ ...scaled(e), id: ids.get(e.id), group: line.label } as never);
      });
      set({ dialog: null, open: "land" });
    } catch (e) {
      tell(e);
    }
  };
  return (
    <SheetBox title="Ready-made lands" wide={760}>
      <div className="grid max-h-[66vh] grid-cols-4 gap-3 overflow-auto">
        {list?.map((l) => (
          <div key={l.name} className="border border-rule bg-[#fffdf7] p-1">
            <img
              src={`/api/lands/${l.name}.png`}
              alt=""
              className="aspect-square w-full bg-[#e6dfce] object-cover"
            />
            <div className="leading-tight font-semibold">{l.label}</div>
            <div className="h-[30px] text-[11.5px] leading-tight text-soft">{l.note}</div>
            <div className="text-[11px] text-soft">
              {shown(l.width_m / 1000)} km, relief {shown(l.relief_m)} m
            </div>
            <div className="mt-1 flex gap-1">
              <button className="btn do" data-land={l.name} onClick={() => void begin(l.name)}>
                New scene
              </button>
              {get().doc && (
                <button className="btn" onClick={() => void bring(l)}>
                  Add here
                </button>
              )}
            </div>
          </div>
        ))}
      </div>
    </SheetBox>
  );
}

interface Choice {
  path: Path;
  label: string;
  seed: boolean;
  low: number;
  high: number;
  log: boolean;
  step?: number;
  unit: string;
}

/** The numeric settings of an entry that can be varied; the seed first. */
function choices(
  doc: Scene,
  chosen: string | null,
): { owner: string; id: string; sowing: boolean; list: Choice[] } | null {
  const schema = get().schema;
  const c =
    find(doc, chosen) ?? (doc.land.length ? find(doc, doc.land[doc.land.length - 1].id) : null);
  if (!c || !["land", "far", "planting"].includes(c.list)) return null;
  const own = pathOf(c.list, c.index);
  const of = (model: any, entry: any, path: Path, word = ""): Choice[] =>
    Object.entries<any>(model.properties)
      .filter(
        ([n, p]) =>
          (p.type === "number" || p.type === "integer") &&
          p.sow &&
          typeof p.sow.slider?.[0] === "number" &&
          (!p.sow.only ||
            Object.entries<string[]>(p.sow.only).every(([k, v]) => v.includes(entry[k]))) &&
          !p.sow.fold &&
          n !== "share" &&
          n !== "number",
      )
      .map(([n, p]): Choice => ({
        path: [...path, n],
        label: word + p.title,
        seed: n === "seed",
        low: p.sow.slider[0],
        high: p.sow.slider[1],
        log: p.sow.scale === "log",
        step: p.sow.step ?? (p.type === "integer" ? 1 : undefined),
        unit: p.sow.unit,
      }));
  const list = [
    ...of(modelOf(schema, c.list, c.entry.kind), c.entry, own),
    ...(c.list === "planting"
      ? of(schema.scene.$defs.Stance, c.entry.stance, [...own, "stance"], "Stance: ")
      : []),
  ];
  return {
    owner: c.entry.name,
    id: c.entry.id,
    sowing: c.list === "planting",
    list: list.sort((a, b) => +b.seed - +a.seed),
  };
}

/**
 * Twelve small pictures of one setting varied. A picture is chosen, or varied around; they fill in
 * one by one and can be stopped.
 */
export function Proof() {
  const doc = usePage((s) => s.doc)!;
  const id = usePage((s) => s.id);
  const place = get().pinned ? get().place : null;
  const found = choices(doc, get().chosen);
  const [name, setName] = useState(0);
  const [shot, setShot] = useState("");
  const [middle, setMiddle] = useState<number | null>(null);
  const [spread, setSpread] = useState(1);
  const [round, setRound] = useState(0);
  const [made, setMade] = useState<{ value: number; url: string }[]>([]);
  const [running, setRunning] = useState(false);
  const stop = useRef<AbortController | null>(null);
  const choice = found?.list[name];
  useEffect(() => {
    if (!choice) return;
    const halt = (stop.current = new AbortController());
    const now = at(doc, choice.path) as number;
    const urls: string[] = [];
    const centre = middle ?? now;
    const values = choice.seed
      ? Array.from({ length: 12 }, (_, i) =>
          i ? ((now + 37 * round + i * 83 + ((i * i * 7 + round * 11) % 53)) % 997) + 1 : now,
        )
      : ladder(choice, centre, spread);
    const pose = shot ? doc.shots.find((x) => x.id === shot) : null;
    const view = shot === "view" ? engine.view?.pose : null;
    const seen = pose
      ? {
          east: pose.east_m,
          north: pose.north_m,
          eye: pose.eye_m,
          bearing: pose.bearing,
          tilt: pose.tilt,
          focal: pose.focal_mm,
        }
      : view
        ? {
            east: view.east,
            north: view.north,
            up: view.up,
            bearing: view.bearing,
            tilt: view.tilt,
            focal: view.focal,
          }
        : null;
    setMade([]);
    setRunning(true);
    void (async () => {
      for (const value of values) {
        const next = structuredClone(doc);
        put(next, choice.path, value);
        try {
          const url = URL.createObjectURL(
            await fileOf(
              `/api/scenes/${id}/proofs`,
              {
                document: next,
                pose: seen,
                width_px: seen ? 240 : 170,
                height_px: 150,
                ...(found!.sowing
                  ? {
                      sowing: found!.id,
                      ...(place ? { east: place.east, north: place.north } : {}),
                    }
                  : {}),
              },
              halt.signal,
            ),
          );
          if (halt.signal.aborted) return;
          urls.push(url);
          setMade((m) => [...m, { value, url }]);
        } catch (e) {
          if (halt.signal.aborted) return;
          if (!(e instanceof Trouble)) {
            tell(e);
            break;
          }
          setMade((m) => [...m, { value, url: "" }]);
        }
      }
      setRunning(false);
    })();
    return () => {
      halt.abort();
      setTimeout(() => urls.forEach((u) => URL.revokeObjectURL(u)), 1000);
    };
  }, [name, shot, middle, spread, round]);
  if (!found || !choice)
    return (
      <SheetBox title="Proof sheet">
        <p>
          Choose an entry of the land or a sowing first; then one of its settings is varied here.
        </p>
      </SheetBox>
    );
  const now = at(doc, choice.path) as number;
  const take = (value: number) => {
    set({ dialog: null });
    if (value !== now)
      void edit(`${found.owner}: ${choice.label.toLowerCase()} from the proof sheet`, (d) =>
        put(d, choice.path, value),
      );
  };
  return (
    <SheetBox title={`Proof sheet: ${found.owner}`} wide={860}>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <label>
          Vary{" "}
          <select
            className="text"
            aria-label="Setting to vary"
            value={name}
            onChange={(e) => {
              setName(+e.target.value);
              setMiddle(null);
              setSpread(1);
            }}
          >
            {found.list.map((c, i) => (
              <option key={c.label} value={i}>
                {c.label}
              </option>
            ))}
          </select>
        </label>
        <label>
          seen from{" "}
          <select
            className="text"
            aria-label="Seen from"
            value={shot}
            onChange={(e) => setShot(e.target.value)}
          >
            <option value="">above</option>
            <option value="view">the view as it is</option>
            {doc.shots.map((s) => (
              <option key={s.id} value={s.id}>
                {s.name}
              </option>
            ))}
          </select>
        </label>
        {choice.seed ? (
          <button className="btn" onClick={() => setRound(round + 1)}>
            Twelve others
          </button>
        ) : (
          <button
            className="btn"
            onClick={() => {
              setMiddle(null);
              setSpread(Math.min(1, spread * 2));
            }}
          >
            Wider
          </button>
        )}
        {running && (
          <button
            className="btn"
            data-stop-proof
            onClick={() => {
              stop.current?.abort();
              setRunning(false);
            }}
          >
            Stop
          </button>
        )}
        <span className="text-soft">
          {running ? `${made.length} of 12` : "Take one, or vary around it."}
        </span>
      </div>
      <div className="grid grid-cols-4 gap-2" data-proofs={made.length}>
        {Array.from({ length: 12 }, (_, i) => made[i]).map((m, i) => (
          <div
            key={i}
            className={`border p-[3px] ${m && m.value === now ? "border-moss bg-paper2" : "border-rule"}`}
          >
            {m?.url ? (
              <button
                className="block w-full"
                aria-label={`Take ${choice.label} ${m.value}`}
                onClick={() => take(m.value)}
              >
                <img src={m.url} alt="" className="h-[118px] w-full object-cover" />
              </button>
            ) : (
              <div className="grid h-[118px] place-items-center text-soft">
                {m ? "can't be built" : running ? "…" : ""}
              </div>
            )}
            <div className="flex justify-between text-[11.5px]">
              <span>
                {m ? `${shown(m.value)} ${choice.unit}` : " "}
                {m && m.value === now ? " · as now" : ""}
              </span>
              {m?.url && !choice.seed && (
                <button
                  className="underline"
                  onClick={() => {
                    setMiddle(m.value);
                    setSpread(spread * 0.45);
                  }}
                >
                  vary around
                </button>
              )}
            </div>
          </div>
        ))}
      </div>
    </SheetBox>
  );
}

/** Twelve values about a middle, over a part of the slider's range, within it. */
function ladder(c: Choice, middle: number, spread: number): number[] {
  const low = c.log ? Math.log(Math.max(c.low, 1e-6)) : c.low;
  const high = c.log ? Math.log(c.high) : c.high;
  const m = Math.min(high, Math.max(low, c.log ? Math.log(Math.max(middle, 1e-6)) : middle));
  const half = ((high - low) / 2) * spread;
  const from = Math.max(low, Math.min(m - half, high - 2 * half));
  const to = Math.min(high, from + 2 * half);
  const values = Array.from({ length: 12 }, (_, i) => {
    const t = from + ((to - from) * i) / 11;
    const v = c.log ? Math.exp(t) : t;
    return c.step ? +(Math.round(v / c.step) * c.step).toFixed(4) : +v.toPrecision(3);
  });
  return [...new Set(values)];
}
