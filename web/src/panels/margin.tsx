/**
 * The key: headed sections in the order of the work, each a numbered legend whose chosen entry
 * unfolds in place.
 */
import { ChevronDown, ChevronUp, Copy, Eye, EyeOff, Trash2 } from "lucide-react";
import { useEffect, useLayoutEffect, useRef, useState } from "react";
import { action, keepShot, listOf, pathOf, type ListName } from "../actions/actions";
import { ask, type Job, type Scene, type SceneLine } from "../api/client";
import { fetchSheet } from "../view/products";
import { edit, engine, freshId, get, set, tell, usePage, without, type Section } from "../state";
import { dropRaster, RASTERS } from "./drop";
import { sowingOf } from "./cabinet";
import { HandPanel, MaskBrush } from "./hand";
import { MaskPanel, newMask } from "./masks";
import { contourHere, fillHollow, reshape } from "../actions/place";
import { Match } from "./ground";
import { SurveyChoice } from "./judge";
import { AddMenu } from "./menu";
import { Mix, Pieces, PlanFiles, SaveMix, SeasonLine, StanceFor, Tones } from "./planting";
import { PlacesButton, PlacesTable } from "./places";
import { Thinning } from "./thinning";
import { at, complete, Fold, modelOf, put, Range, Settings, shown } from "./settings";
import { Where } from "./where";

const FORMS: Record<string, string> = {
  slope: "Slope",
  valley: "Valley",
  ridge: "Ridge",
  dome: "Dome",
  cone: "Cone with crater",
  basin: "Basin",
  ring: "Ring of hills",
  island: "Island",
  plateau: "Plateau",
};
const WORDS: Record<string, string> = {
  add: "add",
  subtract: "subtract",
  highest: "highest of",
  lowest: "lowest of",
  replace: "replace",
};
const round = (v: number, digits = 0) => +v.toFixed(digits);

/** What "add" offers in each section, with first values that suit the plot's size. */
function offers(
  list: ListName,
): { key: string; label: string; note?: string; make: (d: Scene) => Record<string, unknown> }[] {
  const { doc, manifest } = get();
  const reach = Math.max(doc!.plot.width_m, doc!.plot.depth_m);
  const centre = { east_m: round(doc!.plot.width_m / 2), north_m: round(doc!.plot.depth_m / 2) };
  const nice = (v: number) => +v.toPrecision(2);
  const low = manifest?.lowest ?? 0;
  const span = (manifest?.highest ?? 0) - low;
  const seed = Math.floor(Math.random() * 900) + 1;
  if (list === "land" || list === "far") {
    const firstLine = doc!.marks.find((m) => m.kind === "line")?.id ?? "";
    const k = list === "far" ? 5 : 1;
    const made =
      (kind: string, name: string, values: Record<string, unknown> = {}) =>
      () => ({ kind, name, ...values });
    const noise = (form: string, label: string, part: number, high: number) => ({
      key: `noise-${form}`,
      label,
      note: "noise",
      make: made(
        "noise",
        label.replace("Noise, ", "").replace(/^./, (c) => c.toUpperCase()) + " noise",
        { form, feature_m: nice(reach * part * k), height_m: nice(reach * high * k), seed },
      ),
    });
    return [
      noise("smooth", "Noise, smooth", 0.3, 0.07),
      noise("billow", "Noise, billow", 0.35, 0.06),
      noise("ridged", "Noise, ridged", 0.25, 0.08),
      noise("washed", "Noise, washed ridges", 0.35, 0.12),
      {
        key: "cells",
        label: "Cells",
        note: "cellular noise",
        make: made("cells", "Cells", {
          feature_m: nice(reach * 0.12 * k),
          height_m: nice(reach * 0.05 * k),
          seed,
        }),
      },
      {
        key: "dunes",
        label: "Dunes",
        note: "drifted by wind",
        make: made("dunes", "Dunes", {
          feature_m: nice(reach * 0.12 * k),
          height_m: nice(reach * 0.014 * k),
          seed,
        }),
      },
      ...Object.entries(FORMS).map(([form, label]) => ({
        key: `form-${form}`,
        label,
        note: "broad form",
        make: made("form", label, {
          form,
          height_m: nice(reach * 0.08 * k),
          length_m: nice(reach * 0.7 * k),
          breadth_m: nice(reach * k * (form === "valley" || form === "ridge" ? 0.35 : 0.7)),
          rough_m: nice(reach * 0.15 * k),
          ...centre,
          ...(form === "cone"
            ? {
                inner: 18,
                profile: [
                  [0, 1],
                  [0.25, 0.7],
                  [0.55, 0.28],
                  [1, 0],
                ],
              }
            : {}),
          ...(form === "plateau"
            ? {
                inner: 60,
                profile: [
                  [0, 1],
                  [0.3, 0.93],
                  [0.6, 0.35],
                  [1, 0],
                ],
              }
            : {}),
        }),
      })),
      {
        key: "heightmap",
        label: "Heightmap",
        note: "file, photo or ready one",
        make: made("heightmap", "Heightmap", {
          lowest_m: 0,
          highest_m: nice(reach * 0.14 * k),
          width_m: reach * k,
          depth_m: reach * k,
          ...centre,
        }),
      },
      ...(list === "land"
        ? [
            {
              key: "contours",
              label: "Contours",
              note: "drawn, GeoJSON, SVG",
              make: made("contours", "Contours", {
                step_m: Math.max(0.5, Math.round(reach * 0.012 * 2) / 2),
              }),
            },
            {
              key: "borrowed",
              label: "Another scene's land",
              note: "at its revision",
              make: made("borrowed", "Another land", { ...centre }),
            },
          ]
        : []),
      ...(list === "land"
        ? [
            {
              key: "hand",
              label: "By hand",
              note: "brushes",
              make: made("hand", "By hand", {
                posts: Math.min(2049, Math.max(1025, doc!.plot.posts)),
              }),
            },
          ]
        : []),
      {
        key: "wear",
        label: "Wear by water",
        note: "process",
        make: made("wear", "Wear by water", {
          hardness_m: nice(reach * 0.15 * k),
          creep_m: nice(reach * 0.0025 * k),
          layers_m: nice(reach * 0.02 * k),
        }),
      },
      {
        key: "slump",
        label: "Slope collapse",
        note: "process: scree",
        make: made("slump", "Slope collapse"),
      },
      {
        key: "ice",
        label: "Scour by ice",
        note: "process",
        make: made("ice", "Scour by ice", {
          valley_m: nice(reach * 0.16 * k),
          depth_m: nice(Math.max(1, span * 0.22)),
        }),
      },
      {
        key: "laying",
        label: "Lay loose material",
        note: "process: sand, snow, peat",
        make: made("laying", "Loose material", {
          depth_m: nice(Math.max(0.05, reach * 0.0015)),
          reach_m: nice(reach * 0.03),
        }),
      },
      ...(list === "land"
        ? [
            {
              key: "path",
              label: "Path along a line",
              note: "process",
              make: made("path", "Path", { mark: firstLine }),
            },
            {
              key: "stream",
              label: "Stream bed along a line",
              note: "process",
              make: made("stream", "Stream", { mark: firstLine }),
            },
            {
              key: "rib",
              label: "Ridge or valley along a line",
              note: "process",
              make: made("rib", "Ridge line", {
                mark: firstLine,
                height_m: nice(reach * 0.03),
                reach_m: nice(reach * 0.06),
              }),
            },
          ]
        : []),
      {
        key: "terraces",
        label: "Terraces",
        note: "process",
        make: made("terraces", "Terraces", { spacing_m: nice(Math.max(0.05, span * 0.08)) }),
      },
      { key: "curve", label: "Curve", note: "process", make: made("curve", "Curve") },
      {
        key: "clip",
        label: "Clip",
        note: "process",
        make: made("clip", "Clip", {
          low_m: round(low + span * 0.15, 1),
          high_m: round(low + span * 0.9, 1),
          soft_m: nice(Math.max(0.01, span * 0.03)),
        }),
      },
      {
        key: "smooth",
        label: "Smooth",
        note: "process",
        make: made("smooth", "Smooth", { reach_m: nice(reach * 0.015 * k) }),
      },
      {
        key: "roughen",
        label: "Roughen",
        note: "process",
        make: made("roughen", "Roughen", {
          size_m: nice(reach * 0.02 * k),
          height_m: nice(reach * 0.002 * k),
          seed,
        }),
      },
      {
        key: "exaggerate",
        label: "Exaggerate",
        note: "process",
        make: made("exaggerate", "Exaggerate", { about_m: round(low) }),
      },
      { key: "invert", label: "Invert", note: "process", make: made("invert", "Invert") },
      {
        key: "fade",
        label: "Fade the edges",
        note: "process",
        make: made("fade", "Faded edges", { level_m: round(low, 1), reach_m: nice(reach * 0.2) }),
      },
      {
        key: "move",
        label: "Turn and move all below",
        note: "process",
        make: made("move", "Turned and moved"),
      },
    ];
  }
  if (list === "water")
    return [
      {
        key: "sea",
        label: "Sea or lake",
        note: "all low ground",
        make: () => ({
          kind: "standing",
          name: "Lake",
          level_m: round(low + span * 0.12, 1),
          reach: "everywhere",
          clear_m: 3,
        }),
      },
      {
        key: "pool",
        label: "Pool",
        note: "one hollow",
        make: () => ({
          kind: "standing",
          name: "Pool",
          level_m: round(low + span * 0.12, 1),
          reach: "pool",
          ...centre,
        }),
      },
      {
        key: "stream",
        label: "Stream",
        note: "along a line",
        make: (d) => ({
          kind: "standing",
          name: "Stream",
          reach: "stream",
          mark: d.marks.find((m) => m.kind === "line")?.id ?? "",
          width_m: nice(Math.max(0.5, reach * 0.004)),
          clear_m: 1,
        }),
      },
    ];
  if (list === "ground")
    return get()
      .cabinet!.grounds.filter((g) => g.family === g.name)
      .map((g) => ({
        key: g.name,
        label: g.label,
        make: (d) => ({
          name: g.label,
          ground: g.name,
          ...(g.grown ? { stands: 20 } : {}),
          where: d.ground.length
            ? [
                ["granite", "scree", "sandstone"].includes(g.name)
                  ? { kind: "slope", low: 28, high: 90, soft: 8 }
                  : ["snow", "sand", "ice"].includes(g.name)
                    ? { kind: "slope", low: 0, high: 22, soft: 8 }
                    : ["wet-sand", "cobbles"].includes(g.name) && d.water.length
                      ? { kind: "shore", low: -20, high: g.name === "cobbles" ? 2 : 0.6, soft: 0.6 }
                      : g.name === "mud"
                        ? { kind: "wetness", low: 8, high: 40, soft: 1.5 }
                        : { kind: "patches", size_m: nice(reach * 0.06), share: 45, seed },
              ]
            : [],
        }),
      }));
  if (list === "planting")
    return get()
      .cabinet!.kinds.filter((k) => k.family !== "figure")
      .map((k) => ({ key: k.name, label: k.label, note: k.family, make: () => sowingOf(k) }));
  return [];
}

function add(list: ListName, key: string) {
  const offer = offers(list).find((o) => o.key === key)!;
  const id = freshId(key);
  void edit(`${offer.label} added`, (d) => {
    const made = { id, on: true, ...offer.make(d) };
    const schema = get().schema;
    listOf(d, list).push(
      complete(schema, modelOf(schema, list, (made as { kind?: string }).kind), made),
    );
  });
  set({ chosen: id });
}

export function Margin() {
  const doc = usePage((s) => s.doc);
  return (
    <div className="margin-scroll min-h-0 flex-1 overflow-x-hidden overflow-y-auto pr-[6px]">
      {doc && (
        <>
          <Head section="land" title="Land" figure={<Relief />}>
            <List
              list="land"
              empty="Flat ground. Add noise, a broad form or a heightmap; later entries act on what lies before them."
            />
            <BeyondPanel />
            <SurveyChoice />
          </Head>
          <Head section="water" title="Water" figure={<Wet />}>
            <List
              list="water"
              empty="No water yet. Add a lake over all low ground, or a pool that fills one hollow."
            />
          </Head>
          <Head section="ground" title="Ground" figure={<Cover />}>
            <List
              list="ground"
              empty="Bare ground. The first material lies everywhere; each later one lies over it where its rules hold."
            />
          </Head>
          <Head section="planting" title="Planting" figure={<PlantCount />}>
            <SeasonLine />
            <List
              list="planting"
              empty="Nothing sown yet. Add large things first, then small ones."
            />
            <Pieces />
            <Thinning />
          </Head>
          <Head section="light" title="Light and air" figure={<SunFigure />}>
            <LightPanel />
          </Head>
          <Head section="shots" title="Shots" figure={<>{doc.shots.length}</>}>
            <List list="shots" empty="No shot yet. Find a view on the face, then keep it." />
          </Head>
          <Head section="handover" title="Hand over" figure={<HandFigure />}>
            <HandOverPanel />
          </Head>
          <Head
            section="marks"
            title="Marks"
            figure={
              <>
                {doc.marks.length
                  ? (["line", "area", "mask"] as const)
                      .map((k) => [doc.marks.filter((m) => m.kind === k).length, k] as const)
                      .filter(([n]) => n)
                      .map(([n, k]) => `${n} ${k}${n > 1 ? "s" : ""}`)
                      .join(", ")
                  : "none"}
              </>
            }
          >
            <List
              list="marks"
              empty="Lines and areas drawn on the map, masks from pictures: drawn once, used by land, ground and planting alike."
            />
          </Head>
          <div className="border-t border-ink" />
        </>
      )}
    </div>
  );
}

function Head({
  section,
  title,
  figure,
  children,
}: {
  section: Section;
  title: string;
  figure: React.ReactNode;
  children: React.ReactNode;
}) {
  const open = usePage((s) => s.open === section);
  const ref = useRef<HTMLElement>(null);
  useLayoutEffect(() => {
    if (open) ref.current?.scrollIntoView({ block: "nearest" });
  }, [open]);
  return (
    <section
      ref={ref}
      data-section={section}
      className={open ? "border-t-2 border-moss" : "border-t border-ink"}
    >
      <button
        className={`flex w-full items-baseline justify-between gap-3 bg-paper py-[5px] text-left ${open ? "sticky top-0 z-10" : ""}`}
        aria-expanded={open}
        onClick={() => set({ open: open ? null : section })}
      >
        <h2
          className={`font-show text-[14.5px] leading-tight font-semibold ${open ? "text-moss" : ""}`}
        >
          {title}
        </h2>
        <span className="truncate text-[12px] text-soft">{figure}</span>
      </button>
      {open && <div className="pb-2">{children}</div>}
    </section>
  );
}

function Relief() {
  const m = usePage((s) => s.manifest);
  return <>{m ? `relief ${shown(m.highest - m.lowest)} m` : "…"}</>;
}
function Wet() {
  const m = usePage((s) => s.manifest);
  const n = usePage((s) => s.doc!.water.filter((w) => w.on).length);
  const plot = usePage((s) => s.doc!.plot);
  const wet = m?.water.reduce((a, w) => a + w.wet_m2, 0) ?? 0;
  return <>{n ? `${shown((100 * wet) / plot.width_m / plot.depth_m)} % under water` : "dry"}</>;
}
function Cover() {
  const m = usePage((s) => s.manifest);
  const ground = usePage((s) => s.doc!.ground);
  if (!ground.length) return <>bare</>;
  return (
    <span className="inline-flex h-[9px] w-[140px] border border-ink align-middle">
      {ground.map((g) => (
        <i
          key={g.id}
          title={`${g.name} ${Math.round((m?.shares[g.id] ?? 0) * 100)} %`}
          style={{
            flex: m?.shares[g.id] ?? 0,
            background: `url(/api/cabinet/grounds/${g.ground}.png) center / 60px`,
          }}
        />
      ))}
    </span>
  );
}
function PlantCount() {
  const m = usePage((s) => s.manifest);
  const n = usePage((s) => s.doc!.pieces.length);
  return <>{m ? `${(m.cost.plants + n).toLocaleString("en")} plants and stones` : "…"}</>;
}
function SunFigure() {
  const l = usePage((s) => s.doc!.light);
  const points = [
    "N",
    "NNE",
    "NE",
    "ENE",
    "E",
    "ESE",
    "SE",
    "SSE",
    "S",
    "SSW",
    "SW",
    "WSW",
    "W",
    "WNW",
    "NW",
    "NNW",
  ];
  return (
    <>
      sun {shown(l.sun_height)}° from {points[Math.round(l.sun_bearing / 22.5) % 16]}
    </>
  );
}
function HandFigure() {
  const m = usePage((s) => s.manifest);
  return <>{m ? `about ${shown(m.cost.full_megabytes)} MB` : "…"}</>;
}

/** Lines and areas are drawn on the map, or come from a file. */
function DrawButtons() {
  const tool = usePage((s) => s.tool);
  const pinned = usePage((s) => s.pinned && !!s.place);
  const input = useRef<HTMLInputElement>(null);
  const read = async (file: File) => {
    try {
      const { id, schema } = get();
      const lines = await ask<{ points: number[][] }[]>("POST", `/api/scenes/${id}/lines`, file, {
        "X-Name": encodeURIComponent(file.name).slice(0, 180),
        "Content-Type": "application/octet-stream",
      });
      await edit(`Lines of ${file.name}`, (d) =>
        lines.slice(0, 100).forEach((l, i) => {
          const closed =
            l.points.length > 3 && l.points[0].join() === l.points[l.points.length - 1].join();
          const kind = closed ? "area" : "line";
          d.marks.push(
            complete(schema, schema.scene.$defs[closed ? "Area" : "Line"], {
              id: freshId(kind),
              name: `${file.name.replace(/\.[^.]+$/, "").slice(0, 60)} ${i + 1}`,
              kind,
              on: true,
              smooth: false,
              points: closed ? l.points.slice(0, -1) : l.points,
            }),
          );
        }),
      );
    } catch (e) {
      tell(e);
    }
  };
  return (
    <>
      {(["line", "area"] as const).map((k) => (
        <button
          key={k}
          className={`btn ${tool === k ? "on" : ""}`}
          data-draw={k}
          onClick={() =>
            set({ tool: tool === k ? null : k, drawing: [], mapOnFace: true, chosen: null })
          }
        >
          Draw {k === "line" ? "a line" : "an area"}
        </button>
      ))}
      <button
        className="btn"
        data-contour-line
        title="Point at a place and click it first"
        disabled={!pinned}
        onClick={() => void contourHere()}
      >
        Contour here
      </button>
      <button className="btn" onClick={() => input.current?.click()}>
        GeoJSON, SVG…
      </button>
      <input
        ref={input}
        type="file"
        accept=".json,.geojson,.svg"
        className="hidden"
        onChange={(e) => {
          const f = e.target.files?.[0];
          if (f) void read(f);
          e.target.value = "";
        }}
      />
    </>
  );
}

/** Work on the whole of a line. */
/** A material that lies along a line or in an area; on a path it takes the way's own width. */
function carry(mark: { id: string; name: string; kind: string; clear_m: number }, ground: string) {
  const { schema, doc } = get();
  const id = freshId("material");
  const way = doc!.land.find((l) => (l as { mark?: string }).mark === mark.id && "width_m" in l) as
    { width_m: number } | undefined;
  const rule =
    mark.kind === "area"
      ? { kind: "in-area", mark: mark.id, soft: 2 }
      : {
          kind: "near-line",
          mark: mark.id,
          within_m: way ? way.width_m / 2 : Math.max(1, mark.clear_m),
          soft: 1,
        };
  void edit(`${mark.name}: ${ground} laid`, (d) => {
    d.ground.push(
      complete(schema, schema.scene.$defs.Material, {
        id,
        on: true,
        name: mark.name.slice(0, 80),
        ground,
        edge: 80,
        broken_m: 3,
        where: [complete(schema, modelOf(schema, "where", rule.kind), rule)],
      }) as never,
    );
  });
  set({ chosen: id, open: "ground" });
}

function LineTools({ entry }: { entry: any }) {
  const length = entry.points
    .slice(1)
    .reduce(
      (a: number, p: number[], i: number) =>
        a + Math.hypot(p[0] - entry.points[i][0], p[1] - entry.points[i][1]),
      0,
    );
  const line = entry.kind === "line";
  const marks = usePage((s) => s.doc!.marks);
  const others = marks.filter((m) => m.kind === "line" && m.id !== entry.id);
  const plot = usePage((s) => s.doc!.plot);
  const reach = Math.max(plot.width_m, plot.depth_m);
  const nice = (v: number) => +v.toPrecision(2);
  const grounds = usePage((s) => s.cabinet!.grounds);
  const [cloth, setCloth] = useState("gravel");
  const [other, setOther] = useState("");
  const [off, setOff] = useState(nice(reach * 0.01));
  const [spare, setSpare] = useState(nice(reach * 0.004));
  const [from, setFrom] = useState(0);
  const [to, setTo] = useState(100);
  const second = other || others[0]?.id || "";
  const button = (
    k: Parameters<typeof reshape>[0],
    label: string,
    value?: number | string,
    more?: number,
  ) => (
    <button key={k} className="btn" data-reshape={k} onClick={() => reshape(k, value, more)}>
      {label}
    </button>
  );
  const number = (label: string, value: number, put: (v: number) => void, unit: string) => (
    <>
      <input
        className="num w-[6ch]"
        aria-label={label}
        value={value}
        onChange={(e) => put(+e.target.value || 0)}
        onKeyDown={(e) => e.stopPropagation()}
      />
      <span className="text-soft">{unit}</span>
    </>
  );
  return (
    <div className="mt-1" data-line-tools>
      <div className="text-[11.5px] text-soft">
        {entry.points.length} points, {shown(length)} m. On the map: drag a point, press on the way
        to add one, double-click a point to take it out, Shift-click it to make it a corner.
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        {button("reverse", "Turn round")}
        {button(line ? "close" : "open", line ? "Close to an area" : "Open to a line")}
        {line && button("split", "Split in the middle")}
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        {button("simplify", "Simplify", spare)}within{" "}
        {number("Tolerance in m", spare, setSpare, "m")}
      </div>
      {line && (
        <div className="mt-1 flex flex-wrap items-center gap-1">
          Copy at {number("Offset in m", off, setOff, "m")}
          {button("left", "to its left", off)}
          {button("right", "to its right", off)}
        </div>
      )}
      {line && (
        <div className="mt-1 flex flex-wrap items-center gap-1">
          {button("stretch", "Copy the stretch", from, to)}from{" "}
          {number("From per cent", from, setFrom, "%")}to {number("To per cent", to, setTo, "%")}
        </div>
      )}
      <div className="mt-1 flex flex-wrap items-center gap-1">
        <button className="btn" data-carry onClick={() => carry(entry, cloth)}>
          Lay a material {line ? "along it" : "in it"}
        </button>
        <select
          className="text"
          aria-label="Material to lay"
          value={cloth}
          onChange={(e) => setCloth(e.target.value)}
        >
          {grounds
            .filter((g) => g.family === g.name)
            .map((g) => (
              <option key={g.name} value={g.name}>
                {g.label}
              </option>
            ))}
        </select>
      </div>
      {line && others.length > 0 && (
        <div className="mt-1 flex flex-wrap items-center gap-1">
          {button("join", "Join with", second)}
          <select
            className="text max-w-[130px]"
            aria-label="Line to join with"
            value={second}
            onChange={(e) => setOther(e.target.value)}
          >
            {others.map((m) => (
              <option key={m.id} value={m.id}>
                {m.name}
              </option>
            ))}
          </select>
        </div>
      )}
    </div>
  );
}

/** How the land goes on beyond the plot, with the far land's own entries. */
function BeyondPanel() {
  const beyond = usePage((s) => s.doc!.beyond);
  const schema = usePage((s) => s.schema);
  const note = `${beyond.edge === "run on" ? "runs on" : beyond.edge}${beyond.land!.length ? `, ${beyond.land!.length} of its own` : ""}`;
  return (
    <Fold title="Beyond the plot" note={note}>
      <Settings path={["beyond"]} model={schema.scene.$defs.Beyond} owner="Beyond the plot" />
      {(beyond.edge === "run on" || beyond.edge === "rise") && (
        <div className="mt-1">
          <div className="text-soft">
            {beyond.land!.length
              ? "Far land, in the order in which it acts"
              : "The plot's own land runs on. Add far land to put other land there."}
          </div>
          <List list="far" />
        </div>
      )}
    </Fold>
  );
}

/** The tools that judge or replace a whole section. */
function Tools({ which }: { which: string[] }) {
  return (
    <>
      {which.map((id) => {
        const a = action(id);
        const Icon = a.icon!;
        return (
          <button
            key={id}
            className="btn px-[5px]!"
            aria-label={a.name}
            title={`${a.name} (${a.keys})`}
            data-action={id}
            onClick={a.run}
          >
            <Icon size={13} />
          </button>
        );
      })}
    </>
  );
}

const ADD: Partial<Record<ListName, string>> = {
  land: "landform or process",
  far: "far land",
  water: "water",
  ground: "material",
  planting: "sowing",
};

function List({ list, empty }: { list: ListName; empty?: string }) {
  const entries = usePage((s) => listOf(s.doc!, list));
  const input = useRef<HTMLInputElement>(null);
  const [folded, setFolded] = useState<Set<string>>(new Set());
  const rows: React.ReactNode[] = [];
  // a group of these may span ground, plants and pieces
  const spanning = list === "ground" || list === "planting";
  const whole = usePage((s) => s.doc!);
  const others = spanning
    ? ([...whole.ground, ...whole.planting, ...whole.pieces] as { group?: string }[])
    : [];
  entries.forEach((e, i) => {
    const group = (e.group ?? "") as string;
    const first = group && group !== (entries[i - 1]?.group ?? "");
    if (first) {
      const n = entries.findIndex((x, k) => k > i && x.group !== group);
      const last = n < 0 ? entries.length : n;
      const ids = entries.slice(i, last).map((x) => x.id);
      const on = entries.slice(i, last).every((x) => x.on);
      rows.push(
        <div
          key={`g-${e.id}`}
          className="mt-1 flex items-center gap-2 border-b border-rule bg-paper2/70 px-1 text-[12px]"
        >
          <button
            className="grow text-left font-semibold"
            aria-expanded={!folded.has(group)}
            onClick={() =>
              setFolded((f) => {
                const g = new Set(f);
                if (g.has(group)) g.delete(group);
                else g.add(group);
                return g;
              })
            }
          >
            {folded.has(group) ? "▸" : "▾"} {group}{" "}
            <span className="font-normal text-soft">
              {ids.length}
              {others.filter((o) => o.group === group).length > ids.length
                ? `, ${others.filter((o) => o.group === group).length} with ground, plants and pieces`
                : ""}
            </span>
          </button>
          <label className="flex items-center gap-1 text-soft">
            <input
              type="checkbox"
              className="accent-moss"
              aria-label={`Group ${group} on`}
              checked={on}
              onChange={(ev) =>
                void edit(`Group ${group}: ${ev.target.checked ? "on" : "off"}`, (d) => {
                  for (const x of spanning
                    ? ([...d.ground, ...d.planting, ...d.pieces] as {
                        group?: string;
                        on: boolean;
                      }[])
                    : listOf(d, list))
                    if (x.group === group) x.on = ev.target.checked;
                })
              }
            />
            on
          </label>
        </div>,
      );
    }
    if (!group || !folded.has(group)) rows.push(<Row key={e.id} list={list} index={i} entry={e} />);
  });
  return (
    <div>
      {!entries.length && empty && <p className="mb-1 text-soft">{empty}</p>}
      {rows}
      <div className="mt-1 flex flex-wrap gap-1">
        {ADD[list] && (
          <AddMenu label={ADD[list]!} items={offers(list)} onPick={(k) => add(list, k)} />
        )}
        {list === "land" && <Tools which={["proof", "reality", "lands"]} />}
        {list === "ground" && <Tools which={["ground-presets", "texture-sizes", "why"]} />}
        {list === "planting" && (
          <>
            <Tools
              which={["cabinet", "mixes", "proof", "faults", "why", "alone", "cards", "play"]}
            />
            <PlacesButton />
          </>
        )}
        {list === "shots" && (
          <button className="btn" onClick={keepShot}>
            Keep this view
          </button>
        )}
        {list === "marks" && (
          <>
            <DrawButtons />
            <button className="btn" data-new-mask onClick={newMask}>
              Paint a mask
            </button>
            <button className="btn" onClick={() => input.current?.click()}>
              Mask picture…
            </button>
            <button className="btn" data-zone-map onClick={() => set({ dialog: "zones" })}>
              Zone map…
            </button>
            <input
              ref={input}
              type="file"
              accept={RASTERS}
              className="hidden"
              onChange={(e) => {
                const f = e.target.files?.[0];
                if (f) void dropRaster(f);
                e.target.value = "";
              }}
            />
          </>
        )}
      </div>
    </div>
  );
}

function subtitle(list: ListName, e: any, s: ReturnType<typeof get>): string {
  const m = s.manifest;
  if (list === "land" || list === "far") {
    const tells: Record<string, () => string> = {
      noise: () => `${e.form}, ${shown(e.feature_m)} m, ${e.octaves} octaves`,
      cells: () => `${e.form}, ${shown(e.feature_m)} m`,
      dunes: () => `${shown(e.feature_m)} m apart, wind from ${shown(e.wind)}°`,
      form: () =>
        `${FORMS[e.form].toLowerCase()}, ${shown(e.form === "valley" ? e.breadth_m : e.length_m)} m`,
      heightmap: () =>
        e.raster || e.ready ? `${shown(e.lowest_m)} to ${shown(e.highest_m)} m` : "no file yet",
      borrowed: () => e.source || "no scene yet",
      hand: () => `${e.count} stroke${e.count === 1 ? "" : "s"}`,
      contours: () => `${e.lines.length} line${e.lines.length === 1 ? "" : "s"}`,
      wear: () => `strength ${shown(e.strength)}${e.rise ? `, rising ${shown(e.rise)} %` : ""}`,
      smooth: () => `${shown(e.reach_m)} m`,
      exaggerate: () => `× ${shown(e.times)}`,
      slump: () => `rests at ${shown(e.rest)}°`,
      ice: () => `valleys of ${shown(e.valley_m)} m`,
      laying: () => `${e.of}, ${shown(e.depth_m)} m`,
      terraces: () => `every ${shown(e.spacing_m)} m`,
      roughen: () => `${shown(e.height_m)} m high`,
      fade: () => `to ${shown(e.level_m)} m`,
      clip: () => `${shown(e.low_m)} to ${shown(e.high_m)} m`,
    };
    return tells[e.kind]?.() ?? "process";
  }
  if (list === "marks")
    return e.kind === "mask" ? "mask picture" : `${e.kind}${e.clearing ? ", a clearing" : ""}`;
  if (list === "water")
    return `${e.reach === "stream" ? `stream, ${shown(e.deep_m)} m deep` : `level ${shown(e.level_m)} m`}, ${shown(m?.water.find((w) => w.id === e.id)?.wet_m2 ?? 0)} m²`;
  if (list === "ground") return `${shown((m?.shares[e.id] ?? 0) * 100)} % of the ground`;
  if (list === "planting") {
    const line = m?.sown.find((x) => x.id === e.id);
    return line
      ? `${line.count.toLocaleString("en")}${line.capped ? ", no room for more" : ""}`
      : "off";
  }
  if (list === "shots") return `${shown(e.focal_mm)} mm, eye ${shown(e.eye_m)} m`;
  return "";
}

function Row({ list, index, entry }: { list: ListName; index: number; entry: any }) {
  const chosen = usePage(
    (s) => s.chosen === entry.id || (list === "planting" && s.chosen === `sown-${entry.id}`),
  );
  const [over, setOver] = useState(false);
  const picture = usePage((s) => s.manifest?.pictures[entry.id]);
  const page = usePage();
  const hidden = usePage((s) => s.hidden.has(entry.id));
  const last = useRef<string | undefined>(undefined);
  const ref = useRef<HTMLDivElement>(null);
  if (picture) last.current = picture;
  useLayoutEffect(() => {
    if (chosen) ref.current?.scrollIntoView({ block: "nearest" });
  }, [chosen]);
  const src =
    list === "shots" || list === "marks" || list === "water" ? null : (picture ?? last.current);
  return (
    <div
      ref={ref}
      data-entry={entry.id}
      onDragOver={(ev) => {
        if (ev.dataTransfer.types.includes(`sow/${list}`)) {
          ev.preventDefault();
          ev.stopPropagation();
          setOver(true);
        }
      }}
      onDragLeave={() => setOver(false)}
      onDrop={(ev) => {
        setOver(false);
        const from = +ev.dataTransfer.getData(`sow/${list}`);
        if (!ev.dataTransfer.types.includes(`sow/${list}`)) return;
        ev.preventDefault();
        ev.stopPropagation();
        if (from !== index)
          void edit(`${listOf(get().doc!, list)[from].name}: moved`, (d) => {
            const l = listOf(d, list);
            l.splice(index, 0, ...l.splice(from, 1));
          });
      }}
      style={over ? { boxShadow: "0 -2px 0 #4d6a3a" } : undefined}
      className={
        chosen
          ? "my-[3px] scroll-mt-8 border-l-[3px] border-gold bg-paper2 py-1 pr-2 pl-2"
          : "py-[3px]"
      }
    >
      <div
        className="flex cursor-pointer items-center gap-2"
        draggable
        onDragStart={(ev) => {
          ev.dataTransfer.setData(`sow/${list}`, String(index));
          ev.dataTransfer.effectAllowed = "move";
        }}
        onClick={() => set({ chosen: chosen ? null : entry.id })}
      >
        <span className="h-[17px] w-[17px] shrink-0 rounded-full border border-ink text-center text-[11px] leading-[15px]">
          {index + 1}
        </span>
        {src ? (
          <img
            src={`/api/products/${src}`}
            alt=""
            className="h-[26px] w-[36px] shrink-0 border border-ink object-cover"
            onError={(e) => {
              (e.target as HTMLImageElement).style.visibility = "hidden";
            }}
          />
        ) : list === "water" ? (
          <span
            className="h-[26px] w-[36px] shrink-0 border border-ink bg-slate"
            style={{ background: `linear-gradient(#8fb0bd, ${entry.tint ?? "#2e3a33"})` }}
          />
        ) : null}
        <button
          className={`min-w-0 grow text-left leading-tight ${entry.on ? "" : "opacity-45"}`}
          aria-expanded={chosen}
          onClick={(e) => {
            e.stopPropagation();
            set({ chosen: chosen ? null : entry.id });
          }}
        >
          <span className="block truncate">{entry.name}</span>
          <small className="block truncate text-[11.5px] text-soft">
            {subtitle(list, entry, page)}
          </small>
        </button>
        {(list === "land" || list === "far") && (
          <small className="text-soft">
            {entry.combine ? (WORDS[entry.combine] ?? `mix ${shown(entry.share)} %`) : "rework"}
          </small>
        )}
        {list === "planting" && (
          <button
            className="icon"
            title={
              hidden ? "Hidden in the view only; it is in the picture's files" : "Hide in the view"
            }
            aria-label={`Hide ${entry.name} in the view`}
            aria-pressed={hidden}
            onClick={(e) => {
              e.stopPropagation();
              const h = new Set(get().hidden);
              if (h.has(entry.id)) h.delete(entry.id);
              else h.add(entry.id);
              set({ hidden: h });
              const s = get();
              if (s.products) engine.view?.setScene(s.doc!, s.products, h);
            }}
          >
            {hidden ? <EyeOff size={13} /> : <Eye size={13} />}
          </button>
        )}
        {list === "shots" && (
          <button
            className="btn"
            onClick={(e) => {
              e.stopPropagation();
              set({ chosen: entry.id, insetShot: entry.id });
              action("goto").run();
            }}
          >
            step in
          </button>
        )}
      </div>
      {chosen && <Unfolded list={list} index={index} entry={entry} />}
    </div>
  );
}

function Unfolded({ list, index, entry }: { list: ListName; index: number; entry: any }) {
  const schema = usePage((s) => s.schema);
  const count = usePage((s) => listOf(s.doc!, list).length);
  const defs = schema.scene.$defs;
  const path = pathOf(list, index);
  const owner = entry.name as string;
  const model =
    list === "marks"
      ? defs[{ mask: "Mask", line: "Line", area: "Area" }[entry.kind as string]!]
      : modelOf(schema, list, entry.kind);
  const [name, setName] = useState(entry.name);
  useEffect(() => setName(entry.name), [entry.name]);
  const inset = usePage((s) => s.insetShot === entry.id);
  return (
    <div className="mt-1 pl-[2px]">
      <div className="flex items-center gap-1">
        <input
          className="text grow"
          aria-label="Name"
          value={name}
          maxLength={80}
          onChange={(e) => setName(e.target.value)}
          onBlur={() => {
            if (name.trim() && name !== entry.name)
              void edit(`${entry.name}: renamed`, (d) => put(d, [...path, "name"], name.trim()));
          }}
          onKeyDown={(e) => {
            if (e.key === "Enter") (e.target as HTMLInputElement).blur();
            e.stopPropagation();
          }}
        />
        <label
          className="flex items-center gap-1 px-1 text-soft"
          title="Off leaves it out of the scene"
        >
          <input
            type="checkbox"
            className="accent-moss"
            aria-label={`${entry.name} on`}
            checked={entry.on}
            onChange={(e) =>
              void edit(`${entry.name}: ${e.target.checked ? "on" : "off"}`, (d) =>
                put(d, [...path, "on"], e.target.checked),
              )
            }
          />
          on
        </label>
        <button
          className="icon"
          disabled={index === 0}
          title="Earlier (Alt+↑)"
          aria-label="Move earlier"
          onClick={action("earlier").run}
        >
          <ChevronUp size={14} />
        </button>
        <button
          className="icon"
          disabled={index === count - 1}
          title="Later (Alt+↓)"
          aria-label="Move later"
          onClick={action("later").run}
        >
          <ChevronDown size={14} />
        </button>
        <button
          className="icon"
          title="Duplicate with a new seed (Ctrl+D)"
          aria-label="Duplicate"
          onClick={action("duplicate").run}
        >
          <Copy size={13} />
        </button>
        <button
          className="icon"
          title="Remove (Delete)"
          aria-label="Remove"
          onClick={action("remove").run}
        >
          <Trash2 size={13} />
        </button>
      </div>
      {(list === "land" || list === "far") && (
        <LandLineTools list={list} entry={entry} path={path} />
      )}
      {list === "marks" && entry.kind !== "mask" && <LineTools entry={entry} />}
      {list === "marks" && entry.kind === "mask" && (
        <>
          <MaskBrush />
          <MaskPanel path={path} entry={entry} />
        </>
      )}
      {list === "planting" && entry.layout === "given" && (
        <PlacesTable index={index} entry={entry} />
      )}
      {list === "planting" && <Mix path={path} entry={entry} />}
      {entry.kind === "hand" && <HandPanel path={path} entry={entry} />}
      {model && entry.kind !== "hand" && (
        <Settings
          path={path}
          model={model}
          owner={owner}
          skip={list === "planting" ? ["density"] : []}
        />
      )}
      {entry.octaves && entry.feature_m ? <Finest entry={entry} /> : null}
      {entry.kind === "heightmap" && <OwnPosts entry={entry} />}
      {entry.kind === "borrowed" && <BorrowFrom path={path} entry={entry} />}
      {list === "ground" && (
        <>
          <Match entry={entry} index={index} />
          <ShowWhere index={index} />
        </>
      )}
      {list === "planting" && <StancePanel path={path} owner={owner} model={defs.Stance} />}
      {list === "planting" && (
        <>
          <Tones index={index} entry={entry} />
          <SaveMix entry={entry} />
        </>
      )}
      {list === "water" && entry.reach !== "stream" && (
        <button
          className="btn mt-1"
          onClick={() => set((s) => ({ tool: s.tool === "pool" ? null : "pool" }))}
        >
          Place the pool by a click
        </button>
      )}
      {list === "water" && entry.reach === "pool" && (
        <button
          className="btn mt-1 ml-1"
          onClick={() =>
            void fillHollow(entry.id, entry.east_m, entry.north_m, entry.level_m + 0.06)
          }
          title="Up to where it runs over into lower ground; again, to the next rim out"
        >
          Fill to the next rim
        </button>
      )}
      {list === "shots" && (
        <div className="mt-2 flex gap-2">
          <button
            className="btn"
            onClick={() => {
              const v = engine.view!;
              const p = v.pose;
              void edit(`${entry.name}: view taken`, (d) =>
                Object.assign(d.shots[index], {
                  east_m: round(p.east, 2),
                  north_m: round(p.north, 2),
                  eye_m: round(
                    Math.max(
                      0.05,
                      p.up - v.poseOf({ ...entry, east_m: p.east, north_m: p.north, eye_m: 0 }).up,
                    ),
                    2,
                  ),
                  bearing: round(p.bearing, 2),
                  tilt: round(p.tilt, 2),
                }),
              );
            }}
          >
            Take this view
          </button>
          <button
            className={`btn ${inset ? "on" : ""}`}
            aria-pressed={inset}
            onClick={() => set({ insetShot: inset ? null : entry.id })}
          >
            In the inset
          </button>
          <button className="btn" onClick={() => set({ dialog: "still" })}>
            Save still…
          </button>
        </div>
      )}
      {["land", "far", "ground", "planting"].includes(list) && (
        <Where path={path} stage={(list === "far" ? "land" : list) as "land"} owner={owner} />
      )}
    </div>
  );
}

/** Hold to see the scene without an entry; where its land shows; its group. */
function LandLineTools({
  list,
  entry,
  path,
}: {
  list: ListName;
  entry: any;
  path: (string | number)[];
}) {
  const held = usePage((s) => s.without === entry.id);
  const shows = usePage((s) => s.sheet?.kind === "shows" && s.sheet.entry === entry.id);
  const [group, setGroup] = useState(entry.group ?? "");
  useEffect(() => setGroup(entry.group ?? ""), [entry.group]);
  // choosing a landform lights up its extent for a moment
  useEffect(() => {
    if (!entry.combine || list !== "land" || !get().manifest || get().manifest!.draft || !entry.on)
      return;
    let over = false;
    void (async () => {
      try {
        const a = await ask<{ key: string }>("POST", `/api/scenes/${get().id}/surveys`, {
          document: get().doc,
          kind: "shows",
          entry: entry.id,
        });
        const values = await fetchSheet(a.key);
        if (over || get().sheet) return;
        engine.view?.wash(Uint8Array.from(values, (v) => Math.round(v * 255)));
        setTimeout(() => {
          if (!over && !get().sheet) engine.view?.wash(null);
        }, 1500);
      } catch {
        /* the build tells what is wrong */
      }
    })();
    return () => {
      over = true;
      if (!get().sheet) engine.view?.wash(null);
    };
  }, [entry.id]);
  const release = () => {
    if (get().without) without(null);
  };
  return (
    <div className="mt-1 flex items-center gap-1">
      <button
        className={`btn ${held ? "on" : ""}`}
        title="Held, the scene is shown without this entry"
        data-without
        onPointerDown={() => without(entry.id)}
        onPointerUp={release}
        onPointerLeave={release}
        onKeyDown={(e) => {
          if ((e.key === " " || e.key === "Enter") && !e.repeat) {
            e.preventDefault();
            without(entry.id);
          }
        }}
        onKeyUp={release}
        onBlur={release}
      >
        hold: without
      </button>
      {entry.combine && list === "land" && (
        <button
          className={`btn ${shows ? "on" : ""}`}
          aria-pressed={shows}
          onClick={() =>
            set((s) => ({
              sheet: shows
                ? null
                : {
                    kind: "shows",
                    entry: entry.id,
                    latitude: s.sheet?.latitude ?? 50,
                    day: s.sheet?.day ?? 172,
                  },
            }))
          }
        >
          where it shows
        </button>
      )}
      <input
        className="text min-w-0 grow"
        placeholder="group"
        aria-label="Group"
        value={group}
        maxLength={40}
        onChange={(e) => setGroup(e.target.value)}
        onBlur={() => {
          if (group.trim() !== (entry.group ?? ""))
            void edit(`${entry.name}: group`, (d) => put(d, [...path, "group"], group.trim()));
        }}
        onKeyDown={(e) => {
          if (e.key === "Enter") (e.target as HTMLInputElement).blur();
          e.stopPropagation();
        }}
      />
    </div>
  );
}

/** The finest detail that the octaves make, beside what each grid can hold. */
function Finest({ entry }: { entry: any }) {
  const plot = usePage((s) => s.doc!.plot);
  const reach = Math.max(plot.width_m, plot.depth_m);
  const finest = entry.feature_m / Math.pow(entry.lacunarity, entry.octaves - 1);
  return (
    <div className="text-[11.5px] text-soft">
      finest detail {shown(finest)} m; the view holds{" "}
      {shown((2 * reach) / (Math.min(plot.posts, 513) - 1))} m, the full grid{" "}
      {shown((2 * reach) / (plot.posts - 1))} m
    </div>
  );
}

/** A heightmap's own resolution beside the plot's. */
function OwnPosts({ entry }: { entry: any }) {
  const plot = usePage((s) => s.doc!.plot);
  const [info, setInfo] = useState<{ rows: number; columns: number; dtype: string } | null>(null);
  useEffect(() => {
    setInfo(null);
    if (entry.raster)
      ask<{ rows: number; columns: number; dtype: string }>("GET", `/api/rasters/${entry.raster}`)
        .then(setInfo)
        .catch(() => {});
  }, [entry.raster]);
  const columns = entry.raster ? info?.columns : entry.ready ? 513 : 0;
  if (!columns) return null;
  return (
    <div className="text-[11.5px] text-soft">
      {info ? `${info.columns} × ${info.rows} posts, ${info.dtype}; ` : ""}one every{" "}
      {shown((entry.area === "own" ? entry.width_m : plot.width_m) / (columns - 1))} m, the plot's
      every {shown(Math.max(plot.width_m, plot.depth_m) / (plot.posts - 1))} m
      {info?.dtype === "uint8" ? "; its 256 steps are smoothed away" : ""}
    </div>
  );
}

function BorrowFrom({ path, entry }: { path: (string | number)[]; entry: any }) {
  const [list, setList] = useState<SceneLine[]>([]);
  const id = usePage((s) => s.id);
  useEffect(() => {
    ask<SceneLine[]>("GET", "/api/scenes")
      .then((l) => setList(l.filter((x) => x.id !== id)))
      .catch(tell);
  }, [id]);
  const take = (source: number) =>
    ask<{ raster: string; name: string; width_m: number; depth_m: number; source: string }>(
      "POST",
      `/api/scenes/${id}/borrowed`,
      { source },
    )
      .then((b) =>
        edit(`${entry.name}: land of ${b.name}`, (d) =>
          Object.assign(at(d, path), {
            raster: b.raster,
            source: b.source,
            area: "own",
            width_m: b.width_m,
            depth_m: b.depth_m,
          }),
        ),
      )
      .catch(tell);
  return (
    <label className="mt-1 flex items-center justify-between gap-2">
      Take the land of
      <select
        className="text max-w-[170px]"
        aria-label="Scene whose land is taken"
        value=""
        onChange={(e) => void take(+e.target.value)}
      >
        <option value="">{list.length ? "choose a scene…" : "no other scene"}</option>
        {list.map((s) => (
          <option key={s.id} value={s.id}>
            {s.name}
          </option>
        ))}
      </select>
    </label>
  );
}

/** Hatches the ground where a material lies, for as long as it is asked for and chosen. */
function ShowWhere({ index }: { index: number }) {
  const [on, setOn] = useState(false);
  const products = usePage((s) => s.products);
  useEffect(() => {
    if (!on || !products) return;
    const n = products.field.nx * products.field.ny;
    const layer = Math.floor(index / 4) * n * 4 + (index % 4);
    const out = new Uint8Array(n);
    for (let i = 0; i < n; i++) out[i] = products.weights[layer + i * 4];
    engine.view?.wash(out);
    return () => engine.view?.wash(null);
  }, [on, products, index]);
  return (
    <button className={`btn mt-1 ${on ? "on" : ""}`} aria-pressed={on} onClick={() => setOn(!on)}>
      Hatch where it lies
    </button>
  );
}

function StancePanel({
  path,
  owner,
  model,
}: {
  path: (string | number)[];
  owner: string;
  model: any;
}) {
  const [open, setOpen] = useState(false);
  return (
    <div className="mt-2 border-t border-rule pt-1">
      <button
        className="flex w-full justify-between font-semibold"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        Stance
        <span className="font-normal text-soft">{open ? "fold" : "turn, size, lean, sink"}</span>
      </button>
      {open && (
        <>
          <Settings path={[...path, "stance"]} model={model} owner={owner} />
          <StanceFor index={path[1] as number} />
        </>
      )}
    </div>
  );
}

const LIGHTS: { name: string; light: Record<string, number | string> }[] = [
  {
    name: "Clear morning",
    light: {
      sun_bearing: 110,
      sun_height: 19,
      clouds: 22,
      haze_m: 9000,
      haze_tint: "#d9dfe2",
      exposure: 0,
    },
  },
  {
    name: "Low evening",
    light: {
      sun_bearing: 262,
      sun_height: 8,
      clouds: 38,
      haze_m: 5000,
      haze_tint: "#e6d4bd",
      exposure: 0.35,
    },
  },
  {
    name: "Overcast",
    light: {
      sun_bearing: 200,
      sun_height: 38,
      clouds: 96,
      haze_m: 3800,
      haze_tint: "#ccd2d3",
      exposure: 0.1,
    },
  },
  {
    name: "Mist",
    light: {
      sun_bearing: 130,
      sun_height: 14,
      clouds: 55,
      haze_m: 700,
      haze_top_m: 60,
      haze_tint: "#dcdfdd",
      exposure: 0.15,
    },
  },
];

function LightPanel() {
  const schema = usePage((s) => s.schema);
  return (
    <div>
      <div className="mb-1 flex flex-wrap gap-1">
        {LIGHTS.map((l) => (
          <button
            key={l.name}
            className="btn"
            onClick={() =>
              void edit(`Light: ${l.name.toLowerCase()}`, (d) => Object.assign(d.light, l.light))
            }
          >
            {l.name}
          </button>
        ))}
      </div>
      <Settings path={["light"]} model={schema.scene.$defs.Light} owner="Light" />
    </div>
  );
}

function HandOverPanel() {
  const plot = usePage((s) => s.doc!.plot);
  const id = usePage((s) => s.id);
  const job = usePage((s) => s.job);
  const m = usePage((s) => s.manifest);
  const [posts, setPosts] = useState<number | null>(null);
  const [ground, setGround] = useState({ bits: 8, packed: false, picture_px: 0, textures: false });
  const [plants, setPlants] = useState({ json: false, geojson: false, kinds: true, tile_m: 256 });
  const [cost, setCost] = useState<{
    megabytes: number;
    seconds: number;
    plants: number;
    triangles: number;
  } | null>(null);
  const revision = usePage((s) => s.state?.revision);
  const n = posts ?? plot.posts;
  const running = job?.state === "running";
  const order = { posts: n, ground, plants };
  const asked = JSON.stringify(order);
  useEffect(() => {
    if (!m || m.draft || running) return;
    const halt = new AbortController();
    ask<NonNullable<typeof cost>>(
      "POST",
      `/api/scenes/${id}/hand-over-forecasts`,
      order,
      {},
      halt.signal,
    )
      .then(setCost)
      .catch(() => {
        /* a scene that cannot be built tells so by itself */
      });
    return () => halt.abort();
  }, [asked, revision, !m || m.draft, running]);
  const poll = async (job: Job) => {
    for (let now = job; ;) {
      set({ job: now });
      if (now.state !== "running") return;
      await new Promise((r) => setTimeout(r, 400));
      now = await ask<Job>("GET", `/api/hand-overs/${job.id}`);
    }
  };
  return (
    <div>
      <p className="text-soft">
        Heightmap (PNG, TIFF), material masks, plant positions (CSV), the scene as glTF, a report.
        Metres, row 0 north.
      </p>
      <Range
        label="Grid"
        value={n}
        unit="posts"
        min={33}
        max={4097}
        low={129}
        high={4097}
        log
        step={1}
        onDrag={(v) => setPosts(Math.round(v))}
        onKeep={(v) => setPosts(Math.round(v))}
      />
      <p className="text-[11.5px] text-soft">
        {shown(Math.max(plot.width_m, plot.depth_m) / (n - 1))} m between posts
        {cost ? (
          <span data-forecast={cost.megabytes}>
            {" "}
            · about {shown(cost.megabytes)} MB, {shown(cost.seconds)} s,{" "}
            {cost.plants.toLocaleString("en")} plants, {shown(cost.triangles / 1e6)} M triangles of
            land
          </span>
        ) : (
          ""
        )}
      </p>
      <Fold
        title="Ground"
        note={`weights ${ground.bits} bit${ground.packed ? ", packed" : ""}${ground.picture_px ? `, picture ${ground.picture_px} px` : ""}${ground.textures ? ", textures" : ""}`}
      >
        <div className="mt-1 flex items-center justify-between">
          <span>Weights</span>
          <span className="flex">
            {[8, 16].map((b) => (
              <button
                key={b}
                className={`btn -ml-px ${ground.bits === b ? "on" : ""}`}
                aria-pressed={ground.bits === b}
                onClick={() => setGround({ ...ground, bits: b })}
              >
                {b} bit
              </button>
            ))}
          </span>
        </div>
        <label className="mt-1 flex items-center gap-2">
          <input
            type="checkbox"
            className="accent-moss"
            checked={ground.packed}
            onChange={(e) => setGround({ ...ground, packed: e.target.checked })}
          />
          four materials to a picture
        </label>
        <label className="mt-1 flex items-center justify-between">
          Picture of the whole ground
          <select
            className="text"
            aria-label="Picture of the whole ground"
            value={ground.picture_px}
            onChange={(e) => setGround({ ...ground, picture_px: +e.target.value })}
          >
            {[0, 1024, 2048, 4096, 8192, 16384].map((v) => (
              <option key={v} value={v}>
                {v ? `${v} px${v > 4096 ? ", in tiles" : ""}` : "none"}
              </option>
            ))}
          </select>
        </label>
        <label className="mt-1 flex items-center gap-2">
          <input
            type="checkbox"
            className="accent-moss"
            checked={ground.textures}
            onChange={(e) => setGround({ ...ground, textures: e.target.checked })}
          />
          texture sets
        </label>
        <p className="text-[11.5px] text-soft">A legend (JSON, and a drawn key) goes with them.</p>
      </Fold>
      <Fold
        title="Plants"
        note={["CSV", plants.json && "JSON", plants.geojson && "GeoJSON", plants.kinds && "kinds"]
          .filter(Boolean)
          .join(", ")}
      >
        {(
          [
            ["json", "positions as JSON"],
            ["geojson", "positions as GeoJSON points"],
            ["kinds", "kinds as GLB with their levels"],
          ] as const
        ).map(([k, label]) => (
          <label key={k} className="mt-1 flex items-center gap-2">
            <input
              type="checkbox"
              className="accent-moss"
              data-plant-files={k}
              checked={plants[k]}
              onChange={(e) => setPlants({ ...plants, [k]: e.target.checked })}
            />
            {label}
          </label>
        ))}
        <label className="mt-1 flex items-center justify-between">
          Instances in tiles of
          <select
            className="text"
            aria-label="Tiles of the scene's instances"
            value={plants.tile_m}
            onChange={(e) => setPlants({ ...plants, tile_m: +e.target.value })}
          >
            {[64, 128, 256, 512, 100000].map((v) => (
              <option key={v} value={v}>
                {v < 100000 ? `${v} m` : "the whole plot"}
              </option>
            ))}
          </select>
        </label>
      </Fold>
      <div className="mt-1 flex flex-wrap items-center gap-2">
        <button
          className="btn do"
          disabled={running}
          data-grow
          onClick={() => {
            void ask<Job>("POST", `/api/scenes/${id}/hand-overs`, order).then(poll).catch(tell);
          }}
        >
          Grow files
        </button>
        {running && (
          <>
            <span className="text-soft">{job.step}…</span>
            <button className="btn" onClick={() => void ask("DELETE", `/api/hand-overs/${job.id}`)}>
              stop
            </button>
          </>
        )}
        {job?.state === "done" && (
          <a className="btn" href={`/api/hand-overs/${job.id}/files.zip`} download data-files>
            Download files (.zip)
          </a>
        )}
        {job?.state === "failed" && <span className="text-rust">{job.problem?.detail}</span>}
        {job?.state === "stopped" && <span className="text-soft">stopped</span>}
      </div>
      {job?.state === "done" && job.report ? (
        <p className="mt-1 text-[11.5px] text-soft">
          {(job.report as any).grid.join(" × ")} posts,{" "}
          {(job.report as any).plants_total.toLocaleString("en")} plants,{" "}
          {(job.report as any).seconds_total} s
        </p>
      ) : null}
      <PlanFiles />
      <div className="mt-2 border-t border-rule pt-1">
        <a className="btn" href={`/api/scenes/${id}/scene.zip`} download>
          Scene itself (.zip)
        </a>{" "}
        <span className="text-soft">
          for <code>./sow grow</code>
        </span>
      </div>
    </div>
  );
}
