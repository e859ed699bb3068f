/**
 * The face: the picture or the map within its neat line, which is an instrument, and the inset in
 * its corner.
 */
import { ArrowLeftRight } from "lucide-react";
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { action, find } from "../actions/actions";
import { brush, endStroke, moveStroke, startStroke } from "../actions/brush";
import { fillHollow } from "../actions/place";
import { BrushTools } from "./hand";
import { CabinetSheet, useForeignKinds } from "./cabinet";
import { Collar } from "./collar";
import { complete } from "./settings";
import { drag, edit, engine, freshId, get, readPlace, set, usePage } from "../state";
import { View } from "../view/view";
import { Walk } from "../view/walk";
import { WhyHere } from "./ground";
import { SurveyKey, SurveyWash } from "./judge";
import { Wipe } from "./history";
import { MaskWash } from "./masks";
import { frameOf, interval, MapCanvas } from "./map";
import { TRANSECT_HEIGHT, TransectStrip } from "./transect";

const TOP = 21;
const LEFT = 34;
const INSET = { width: 222, height: 158, left: 14, bottom: 14 };

function usePlaceSize() {
  const ref = useRef<HTMLDivElement>(null);
  const [size, setSize] = useState({ width: 0, height: 0 });
  useLayoutEffect(() => {
    const watch = new ResizeObserver(([e]) =>
      setSize({ width: Math.floor(e.contentRect.width), height: Math.floor(e.contentRect.height) }),
    );
    watch.observe(ref.current!);
    return () => watch.disconnect();
  }, []);
  return [ref, size] as const;
}

/** What a click on the ground does: the chosen tool's work, or reading the place. */
export function onGround(east: number, north: number) {
  const { tool, doc, chosen } = get();
  if (!doc) return;
  if (tool === "figure") {
    standOne(get().placing, east, north);
    return;
  }
  if (tool === "pool") {
    const c = find(doc, chosen);
    if (c?.list === "water") void fillHollow(c.entry.id, east, north);
    set({ tool: null });
    return;
  }
  set({ place: readPlace(east, north), pinned: true });
  engine.view?.ring(east, north, 1.5);
}

/**
 * One piece of a kind at a place: stones and trees turned at random, others with their face to the
 * eye.
 */
function standOne(placing: string, east: number, north: number) {
  const id = freshId("figure");
  const b = engine.view?.pose.bearing ?? 0;
  const { schema, cabinet } = get();
  const kind = cabinet!.kinds.find((k) => k.name === placing);
  const person = placing === "person";
  const name = person ? "Person" : (kind?.label ?? placing);
  const loose = kind && ["stone", "wood", "tree", "shrub"].includes(kind.family);
  const turn = loose ? Math.random() * 360 : (b + (person ? 20 : 0)) % 360;
  void edit(person ? "Person for scale" : `${name} placed`, (d) =>
    d.pieces.push(
      complete(schema, schema.scene.$defs.Piece, {
        id,
        name,
        on: true,
        kind: placing,
        east_m: +east.toFixed(2),
        north_m: +north.toFixed(2),
        turn: +turn.toFixed(1),
        size: 100,
        sink_cm:
          kind?.family === "stone"
            ? +(kind.height_m * 18).toFixed(0)
            : kind?.family === "tree"
              ? 8
              : 0,
        variant: loose ? Math.floor(Math.random() * kind.variants) : 0,
      }),
    ),
  );
  set({ tool: null, chosen: id, open: "planting" });
}

export function Face() {
  const [ref, size] = usePlaceSize();
  const canvas = useRef<HTMLCanvasElement>(null);
  const pad = useRef<HTMLDivElement>(null);
  const mapOnFace = usePage((s) => s.mapOnFace);
  const doc = usePage((s) => s.doc);
  const products = usePage((s) => s.products);
  const tool = usePage((s) => s.tool);
  const clean = usePage((s) => s.clean);
  const pinned = usePage((s) => s.pinned);
  const insetShot = usePage((s) => s.insetShot);
  const chosenShot = doc?.shots.find((s) => s.id === insetShot) ?? null;
  const trouble = usePage((s) => s.trouble);
  const told = usePage((s) => s.told);
  const cutting = usePage((s) => !!s.transect);
  const drawing = usePage((s) => s.drawing.length);
  useForeignKinds();
  const faceSize = { width: Math.max(2, size.width), height: Math.max(2, size.height) };

  useEffect(() => {
    const view = (engine.view = new View(
      canvas.current!,
      new URLSearchParams(location.search).get("quality"),
    ));
    view.onFrame = () => set({ settled: view.settled && !get().building, frames: view.frames });
    const cabinet = get().cabinet;
    if (cabinet) view.setCabinet(cabinet);
    const s = get();
    if (s.doc && s.products) view.setScene(s.doc, s.products, s.hidden);
    let last = 0;
    const walk = new Walk(
      view,
      pad.current!,
      () => set({ pose: { ...view.pose } }),
      (x, y) => {
        const p = view.pick(x, y);
        if (p) onGround(p.x, p.y);
        else {
          set({ pinned: false, place: null });
          view.ring(0, 0, null);
        }
      },
      (x, y) => {
        if (get().pinned || performance.now() - last < 60) return;
        last = performance.now();
        const p = view.pick(x, y);
        set({ place: p ? readPlace(p.x, p.y) : null });
      },
    );
    walk.grab = (what, x, y, e) => {
      if (get().tool !== "brush") return false;
      const p = what === "up" ? null : view.pick(x, y);
      const force = e.pointerType === "pen" && e.pressure > 0 ? e.pressure * 2 : 1;
      if (p) {
        view.ring(p.x, p.y, brush().size_m);
        set({ place: readPlace(p.x, p.y) });
      }
      if (what === "down") {
        if (p) void startStroke(p.x, p.y, force, e.clientY);
        return !!p;
      }
      if (what === "up") return endStroke();
      return moveStroke(p?.x ?? null, p?.y ?? null, force, e.clientY);
    };
    (window as unknown as Record<string, unknown>).sow = { view, get, set, drag };
  }, []);
  useEffect(() => {
    if (!pinned) engine.view?.ring(0, 0, null);
  }, [pinned]);
  useEffect(() => {
    const v = engine.view;
    if (!v || size.width < 4) return;
    const [w, h] = mapOnFace ? [INSET.width, INSET.height] : [faceSize.width, faceSize.height];
    v.inset =
      !mapOnFace && chosenShot
        ? {
            shot: chosenShot as never,
            x: INSET.left,
            y: faceSize.height - INSET.bottom - INSET.height,
            width: INSET.width,
            height: INSET.height,
          }
        : null;
    if (canvas.current!.width !== w || canvas.current!.height !== h) v.resize(w, h);
    else v.changed();
  }, [size.width, size.height, mapOnFace, chosenShot, clean]);

  const swap = (
    <button
      className="icon bg-paper/90!"
      aria-label={action("map").name}
      title={`${action("map").name} (M)`}
      onClick={action("map").run}
    >
      <ArrowLeftRight size={13} />
    </button>
  );
  return (
    <div className="relative min-h-0 border-[1.5px] border-ink bg-paper">
      <Rulers width={faceSize.width} height={faceSize.height} map={mapOnFace} />
      <div
        ref={ref}
        className="absolute overflow-hidden"
        style={{
          left: LEFT,
          top: TOP,
          right: 0,
          bottom: cutting && !clean ? TRANSECT_HEIGHT : 0,
          background: "#b9c0bd",
        }}
      >
        {mapOnFace && (
          <MapCanvas
            width={faceSize.width}
            height={faceSize.height}
            big
            onPlace={onGround}
            onHover={(e, n) => {
              if (!get().pinned) set({ place: readPlace(e, n) });
            }}
          />
        )}
        <div
          className="absolute"
          style={
            mapOnFace
              ? {
                  left: INSET.left,
                  bottom: INSET.bottom,
                  width: INSET.width,
                  height: INSET.height,
                  boxShadow: "0 0 0 1.5px #23302b, 0 0 0 5.5px #f4efe4",
                }
              : { inset: 0 }
          }
        >
          <canvas ref={canvas} className="block" data-view />
          <div
            ref={pad}
            tabIndex={0}
            role="application"
            aria-label="View of the land"
            className={`absolute inset-0 ${tool ? "cursor-crosshair" : ""}`}
            style={{ touchAction: "none" }}
            data-pad
            onDragOver={(e) => {
              if (e.dataTransfer.types.includes("sow/kind")) {
                e.preventDefault();
                e.stopPropagation();
                e.dataTransfer.dropEffect = "copy";
                const r = e.currentTarget.getBoundingClientRect();
                const p = engine.view?.pick(
                  (e.clientX - r.left) / r.width,
                  (e.clientY - r.top) / r.height,
                );
                if (p) engine.view?.ring(p.x, p.y, 0.8);
              }
            }}
            onDrop={(e) => {
              const kind = e.dataTransfer.getData("sow/kind");
              if (!kind) return;
              e.preventDefault();
              e.stopPropagation();
              const r = e.currentTarget.getBoundingClientRect();
              const p = engine.view?.pick(
                (e.clientX - r.left) / r.width,
                (e.clientY - r.top) / r.height,
              );
              engine.view?.ring(0, 0, null);
              if (p) standOne(kind, p.x, p.y);
            }}
          />
        </div>
        {!mapOnFace && !clean && (
          <div
            className="pointer-events-none absolute"
            style={{
              left: INSET.left,
              bottom: INSET.bottom,
              width: INSET.width,
              height: INSET.height,
              boxShadow: "0 0 0 1.5px #23302b, 0 0 0 5.5px #f4efe4",
            }}
          >
            {!chosenShot && (
              <div className="pointer-events-auto">
                <MapCanvas
                  width={INSET.width}
                  height={INSET.height}
                  big={false}
                  onPlace={onGround}
                />
              </div>
            )}
          </div>
        )}
        {!clean && (
          <div
            className="absolute flex items-center gap-1"
            style={{ left: INSET.left + 4, bottom: INSET.bottom + INSET.height - 22 }}
          >
            <span className="bg-paper/90 px-1 text-[11.5px]">
              {mapOnFace
                ? "view"
                : chosenShot
                  ? chosenShot.name
                  : doc
                    ? `map · contours ${interval((products?.manifest.highest ?? 100) - (products?.manifest.lowest ?? 0))} m`
                    : "map"}
            </span>
            {swap}
            {chosenShot && !mapOnFace && (
              <button
                className="bg-paper/90 px-1 text-[11.5px] underline"
                onClick={() => set({ insetShot: null })}
              >
                map
              </button>
            )}
          </div>
        )}
        {!clean && <FaceTools />}
        {tool && tool !== "brush" && (
          <div className="absolute top-3 left-1/2 -translate-x-1/2 border border-ink bg-paper px-3 py-1">
            {tool === "figure"
              ? "Click the ground to stand a person of 1.75 m there"
              : ["contour", "line", "area"].includes(tool)
                ? drawing
                  ? `${drawing} points; Enter or a double click ends the line, near its beginning closes it`
                  : "Click on the map, point by point"
                : "Click the hollow that the pool fills"}{" "}
            ·{" "}
            <button className="underline" onClick={() => set({ tool: null })}>
              leave
            </button>
          </div>
        )}
        {!clean && (
          <div className="pointer-events-none absolute top-3 left-3 flex max-w-[calc(100%-300px)] flex-col items-start gap-2 *:pointer-events-auto">
            <BrushTools />
            <SurveyKey />
          </div>
        )}
        {!clean && <WhyHere />}
        {!mapOnFace && !clean && <Collar width={faceSize.width} height={faceSize.height} />}
        <Wipe />
        <CabinetSheet />
        {told && (
          <div
            role="status"
            className="absolute bottom-3 left-1/2 flex -translate-x-1/2 gap-3 border border-ink bg-paper px-3 py-1"
          >
            <span>{told}</span>
            <button className="text-soft underline" onClick={() => set({ told: null })}>
              put away
            </button>
          </div>
        )}
        {trouble && <Trouble />}
        {doc && !doc.land.length && !mapOnFace && (
          <div className="absolute top-14 left-1/2 w-[380px] -translate-x-1/2 border border-ink bg-paper/95 px-4 py-3">
            <b className="font-show">Flat ground.</b> Drop a heightmap here (PNG or TIFF), or add
            noise or a broad form under <b>Land</b> in the key.{" "}
            <button className="underline" onClick={action("lands").run}>
              Ready-made lands…
            </button>
          </div>
        )}
      </div>
      <SurveyWash />
      <MaskWash />
      {cutting && !clean && <TransectStrip width={faceSize.width + LEFT} />}
    </div>
  );
}

function FaceTools() {
  const tool = usePage((s) => s.tool);
  const ready = usePage((s) => !!s.products);
  return (
    <div className="absolute top-3 right-3 flex">
      {["figure", "transect", "shot", "still", "goto", "overview", "clean"].map((id) => {
        const a = action(id);
        const Icon = a.icon!;
        return (
          <button
            key={id}
            disabled={!ready}
            className={`btn -ml-px h-[26px] px-[7px]! ${tool === id ? "on" : ""}`}
            aria-label={a.name}
            title={`${a.name} (${a.keys})`}
            onClick={a.run}
            data-action={id}
          >
            <Icon size={15} strokeWidth={1.7} />
          </button>
        );
      })}
    </div>
  );
}

function Trouble() {
  const t = usePage((s) => s.trouble)!;
  const lost = usePage((s) => s.lost);
  return (
    <div
      role="alert"
      className="absolute right-3 bottom-3 w-[370px] border-[1.5px] border-rust bg-paper px-3 py-2 shadow-[3px_3px_0_#a3432a33]"
    >
      <div className="flex justify-between">
        <b className="text-rust">{t.title}</b>
        {!lost && (
          <button className="text-soft underline" onClick={() => set({ trouble: null })}>
            put away
          </button>
        )}
      </div>
      <p>{t.detail}</p>
      {t.advice && <p className="text-soft">{t.advice}</p>}
      {t.path && <p className="text-[11.5px] text-soft">at {t.path}</p>}
      {!lost && t.status !== 409 && <p className="text-[11.5px] text-soft">Nothing was changed.</p>}
    </div>
  );
}

/** The neat line: bearings above and angles beside the view, metres around the map. */
function Rulers({ width, height, map }: { width: number; height: number; map: boolean }) {
  const pose = usePage((s) => s.pose);
  const doc = usePage((s) => s.doc);
  const mapAt = usePage((s) => s.mapAt);
  const ticks: React.ReactNode[] = [];
  const text = (key: string, x: number, y: number, s: string, extra = {}) => (
    <text key={key} x={x} y={y} fontSize="11" fill="#23302b" {...extra}>
      {s}
    </text>
  );
  if (map && doc) {
    const m = frameOf(doc, width, height, 26, mapAt);
    const step = interval(
      Math.min(Math.max(doc.plot.width_m, doc.plot.depth_m), (width / m.scale) * 1.4),
    );
    const depth = doc.plot.depth_m;
    const text_ = (v: number) => (+v.toFixed(3)).toLocaleString("en");
    for (
      let e = Math.max(0, Math.ceil(-m.x0 / m.scale / step) * step);
      e <= doc.plot.width_m + 1e-6;
      e += step
    ) {
      const x = LEFT + m.x0 + e * m.scale;
      if (x > LEFT + width) break;
      ticks.push(
        <path key={`e${e}`} d={`M${x} ${TOP - 6}V${TOP}`} stroke="#23302b" />,
        text(`te${e}`, x, 12, e === 0 ? "0 m E" : text_(e), { textAnchor: "middle" }),
      );
    }
    for (
      let n = Math.max(0, Math.ceil((depth - (height - m.y0) / m.scale) / step) * step);
      n <= depth + 1e-6;
      n += step
    ) {
      const y = TOP + m.y0 + (depth - n) * m.scale;
      if (y < TOP) break;
      ticks.push(
        <path key={`n${n}`} d={`M${LEFT - 6} ${y}H${LEFT}`} stroke="#23302b" />,
        text(`tn${n}`, LEFT - 7, y + 4, n === 0 ? "0 N" : text_(n), {
          textAnchor: "end",
          ...(n >= 10000 ? { fontSize: "9" } : {}),
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
      const x = xOf(doc.light.sun_bearing);
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
        .filter((s) => s.on)
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
