/** The key: headed sections in the order of the work, each a numbered legend whose chosen entry unfolds in place. */
import { ChevronDown, ChevronUp, Copy, Eye, EyeOff, Trash2 } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import { action, keepShot, type ListName } from "../actions/actions";
import { ask, type Job, type Scene } from "../api/client";
import { drag, edit, engine, freshId, get, set, tell, usePage, type Section } from "../state";
import { dropRaster } from "./drop";
import { AddMenu } from "./menu";
import { at, complete, Drawer, modelOf, put, Range, Settings, shown } from "./settings";
import { Where } from "./where";

const FORMS: Record<string, string> = { slope: "Slope", valley: "Valley", dome: "Dome", basin: "Basin" };
const round = (v: number, digits = 0) => +v.toFixed(digits);

/** What "add" offers in each section, with first values that suit the plot's size. */
function offers(list: ListName): { key: string; label: string; note?: string; make: (d: Scene) => Record<string, unknown> }[] {
  const { doc, manifest } = get(), reach = Math.max(doc!.plot.width_m, doc!.plot.depth_m), centre = { east_m: round(doc!.plot.width_m / 2), north_m: round(doc!.plot.depth_m / 2) };
  const nice = (v: number) => +v.toPrecision(2), low = manifest?.lowest ?? 0, span = (manifest?.highest ?? 0) - low, seed = Math.floor(Math.random() * 900) + 1;
  if (list === "land") return [
    { key: "noise-smooth", label: "Noise, smooth", make: () => ({ kind: "noise", name: "Noise", form: "smooth", feature_m: nice(reach * 0.3), height_m: nice(reach * 0.07), seed }) },
    { key: "noise-ridged", label: "Noise, ridged", make: () => ({ kind: "noise", name: "Ridged noise", form: "ridged", feature_m: nice(reach * 0.25), height_m: nice(reach * 0.08), seed }) },
    ...Object.entries(FORMS).map(([form, label]) => ({ key: `form-${form}`, label, note: "broad form", make: () => ({ kind: "form", name: label, form, height_m: nice(reach * 0.08), length_m: nice(reach * 0.7), breadth_m: nice(reach * (form === "valley" ? 0.35 : 0.7)), ...centre }) })),
    { key: "heightmap", label: "Heightmap", note: "PNG or TIFF", make: () => ({ kind: "heightmap", name: "Heightmap", lowest_m: 0, highest_m: nice(reach * 0.14) }) },
    { key: "wear", label: "Wear by water", note: "process", make: () => ({ kind: "wear", name: "Wear by water", hardness_m: nice(reach * 0.15), creep_m: nice(reach * 0.005) }) },
    { key: "smooth", label: "Smooth", note: "process", make: () => ({ kind: "smooth", name: "Smooth", reach_m: nice(reach * 0.015) }) },
    { key: "exaggerate", label: "Exaggerate", note: "process", make: () => ({ kind: "exaggerate", name: "Exaggerate", about_m: round(low) }) },
    { key: "invert", label: "Invert", note: "process", make: () => ({ kind: "invert", name: "Invert" }) }];
  if (list === "water") return [
    { key: "sea", label: "Sea or lake", note: "all low ground", make: () => ({ kind: "standing", name: "Lake", level_m: round(low + span * 0.12, 1), reach: "everywhere", clear_m: 3 }) },
    { key: "pool", label: "Pool", note: "one hollow", make: () => ({ kind: "standing", name: "Pool", level_m: round(low + span * 0.12, 1), reach: "pool", ...centre }) }];
  if (list === "ground") return get().cabinet!.grounds.map((g) => ({ key: g.name, label: g.label, make: (d) => ({ name: g.label, ground: g.name, where: d.ground.length ? [g.name === "granite" || g.name === "scree" ? { kind: "slope", low: 28, high: 90, soft: 8 } : g.name === "snow" || g.name === "sand" ? { kind: "slope", low: 0, high: 22, soft: 8 } : { kind: "patches", size_m: nice(reach * 0.06), share: 45, seed }] : [] }) }));
  if (list === "planting") return get().cabinet!.kinds.filter((k) => k.family !== "figure").map((k) => {
    const stone = k.family === "stone", tree = k.family === "tree", apart = round(Math.max(0.05, k.reach_m * (tree ? 0.9 : 0.75)), 2), density = +Math.min(100 * (0.35 / (apart * apart)), tree ? 1.2 : stone ? 2 : 400, 6e6 / (doc!.plot.width_m * doc!.plot.depth_m)).toPrecision(2); // at most 60,000 to begin with
    return { key: k.name, label: k.label, note: k.family, make: () => ({ name: k.label, mix: [{ kind: k.name, share: 100 }], density, apart_m: apart, seed,
      stance: stone ? { smallest: 40, largest: 170, lean: 80, sway: 12, sink_cm: round(k.height_m * 22) } : { smallest: 70, largest: 130, lean: tree ? 0 : 35, sway: tree ? 2 : 6, sink_cm: tree ? 10 : 1 },
      where: [{ kind: "slope", low: 0, high: tree ? 32 : 38, soft: 6 }, ...(tree ? [{ kind: "patches", size_m: nice(Math.max(20, reach * 0.05)), share: 30, seed }] : [])] }) };
  });
  return [];
}

function add(list: ListName, key: string) {
  const offer = offers(list).find((o) => o.key === key)!, id = freshId(key);
  void edit(`${offer.label} added`, (d) => { const made = { id, on: true, ...offer.make(d) }, schema = get().schema; (d[list] as unknown[]).push(complete(schema, modelOf(schema, list, (made as { kind?: string }).kind), made)); });
  set({ chosen: id });
}

export function Margin() {
  const doc = usePage((s) => s.doc);
  return (
    <div className="margin-scroll min-h-0 flex-1 overflow-x-hidden overflow-y-auto pr-[6px]">
      {doc && <>
        <Head section="land" title="Land" figure={<Relief />}><List list="land" /></Head>
        <Head section="water" title="Water" figure={<Wet />}><List list="water" empty="No water yet. Add a lake over all low ground, or a pool that fills one hollow." /></Head>
        <Head section="ground" title="Ground" figure={<Cover />}><List list="ground" empty="Bare ground. The first material lies everywhere; each later one lies over it where its rules hold." /></Head>
        <Head section="planting" title="Planting" figure={<PlantCount />}><List list="planting" empty="Nothing sown yet. Add large things first, then small ones." /><Pieces /></Head>
        <Head section="light" title="Light and air" figure={<SunFigure />}><LightPanel /></Head>
        <Head section="shots" title="Shots" figure={<>{doc.shots.length}</>}><List list="shots" empty="No shot yet. Find a view on the face, then keep it." /></Head>
        <Head section="handover" title="Hand over" figure={<HandFigure />}><HandOverPanel /></Head>
        <Head section="marks" title="Marks" figure={<>{doc.marks.length ? `${doc.marks.length} mask${doc.marks.length > 1 ? "s" : ""}` : "none"}</>}><List list="marks" empty="Masks drawn elsewhere: drop a picture here. White is present. Any rule can use it." /></Head>
        <div className="border-t border-ink" />
      </>}
    </div>
  );
}

function Head({ section, title, figure, children }: { section: Section; title: string; figure: React.ReactNode; children: React.ReactNode }) {
  const open = usePage((s) => s.open === section), ref = useRef<HTMLElement>(null);
  useEffect(() => { if (open) setTimeout(() => ref.current?.scrollIntoView({ block: "nearest" }), 60); }, [open]);
  return (
    <section ref={ref} data-section={section} className={open ? "border-t-2 border-moss" : "border-t border-ink"}>
      <button className={`flex w-full items-baseline justify-between gap-3 bg-paper py-[5px] text-left ${open ? "sticky top-0 z-10" : ""}`} aria-expanded={open} onClick={() => set({ open: open ? null : section })}>
        <h2 className={`font-show text-[14.5px] leading-tight font-semibold ${open ? "text-moss" : ""}`}>{title}</h2><span className="truncate text-[12px] text-soft">{figure}</span></button>
      {open && <div className="pb-2">{children}</div>}
    </section>
  );
}

function Relief() { const m = usePage((s) => s.manifest); return <>{m ? `relief ${shown(m.highest - m.lowest)} m` : "…"}</>; }
function Wet() {
  const m = usePage((s) => s.manifest), n = usePage((s) => s.doc!.water.filter((w) => w.on).length), plot = usePage((s) => s.doc!.plot), wet = m?.water.reduce((a, w) => a + w.wet_m2, 0) ?? 0;
  return <>{n ? `${shown((100 * wet) / plot.width_m / plot.depth_m)} % under water` : "dry"}</>;
}
function Cover() {
  const m = usePage((s) => s.manifest), ground = usePage((s) => s.doc!.ground);
  if (!ground.length) return <>bare</>;
  return <span className="inline-flex h-[9px] w-[140px] border border-ink align-middle">{ground.map((g) => <i key={g.id} title={`${g.name} ${Math.round((m?.shares[g.id] ?? 0) * 100)} %`} style={{ flex: m?.shares[g.id] ?? 0, background: `url(/api/cabinet/grounds/${g.ground}.png) center / 60px` }} />)}</span>;
}
function PlantCount() { const m = usePage((s) => s.manifest), n = usePage((s) => s.doc!.pieces.length); return <>{m ? `${(m.cost.plants + n).toLocaleString("en")} plants and stones` : "…"}</>; }
function SunFigure() {
  const l = usePage((s) => s.doc!.light), points = ["N", "NNE", "NE", "ENE", "E", "ESE", "SE", "SSE", "S", "SSW", "SW", "WSW", "W", "WNW", "NW", "NNW"];
  return <>sun {shown(l.sun_height)}° from {points[Math.round(l.sun_bearing / 22.5) % 16]}</>;
}
function HandFigure() { const m = usePage((s) => s.manifest); return <>{m ? `about ${shown(m.cost.full_megabytes)} MB` : "…"}</>; }

const ADD: Partial<Record<ListName, string>> = { land: "landform or process", water: "water", ground: "material", planting: "sowing" };

function List({ list, empty }: { list: ListName; empty?: string }) {
  const entries = usePage((s) => s.doc![list] as any[]), input = useRef<HTMLInputElement>(null);
  return (
    <div>
      {!entries.length && empty && <p className="mb-1 text-soft">{empty}</p>}
      {entries.map((e, i) => <Row key={e.id} list={list} index={i} entry={e} />)}
      <div className="mt-1 flex gap-2">
        {ADD[list] && <AddMenu label={ADD[list]!} items={offers(list)} onPick={(k) => add(list, k)} />}
        {list === "shots" && <button className="btn" onClick={keepShot}>Keep this view</button>}
        {list === "marks" && <><button className="btn" onClick={() => input.current?.click()}>Bring in a mask…</button>
          <input ref={input} type="file" accept=".png,.tif,.tiff" className="hidden" onChange={(e) => { const f = e.target.files?.[0]; if (f) void dropRaster(f); e.target.value = ""; }} /></>}
      </div>
    </div>
  );
}

function subtitle(list: ListName, e: any, s: ReturnType<typeof get>): string {
  const m = s.manifest;
  if (list === "land") {
    if (e.kind === "noise") return `${e.form}, ${shown(e.feature_m)} m, ${e.octaves ?? 7} octaves`;
    if (e.kind === "form") return `${e.form}, ${shown(e.form === "valley" ? e.breadth_m : e.length_m)} m`;
    if (e.kind === "heightmap") return e.raster ? `${shown(e.lowest_m)} to ${shown(e.highest_m)} m` : "no file yet";
    return e.kind === "wear" ? `strength ${shown(e.strength)}` : e.kind === "smooth" ? `${shown(e.reach_m)} m` : e.kind === "exaggerate" ? `× ${shown(e.times)}` : "process";
  }
  if (list === "water") return `level ${shown(e.level_m)} m, ${shown(m?.water.find((w) => w.id === e.id)?.wet_m2 ?? 0)} m²`;
  if (list === "ground") return `${shown((m?.shares[e.id] ?? 0) * 100)} % of the ground`;
  if (list === "planting") { const line = m?.sown.find((x) => x.id === e.id); return line ? `${line.count.toLocaleString("en")}${line.capped ? ", no room for more" : ""}` : "off"; }
  if (list === "shots") return `${shown(e.focal_mm)} mm, eye ${shown(e.eye_m)} m`;
  return "";
}

function Row({ list, index, entry }: { list: ListName; index: number; entry: any }) {
  const chosen = usePage((s) => s.chosen === entry.id), picture = usePage((s) => s.manifest?.pictures[entry.id]), page = usePage(), hidden = usePage((s) => s.hidden.has(entry.id));
  const last = useRef<string | undefined>(undefined), ref = useRef<HTMLDivElement>(null);
  if (picture) last.current = picture;
  useEffect(() => { if (chosen) setTimeout(() => ref.current?.scrollIntoView({ block: "nearest" }), 80); }, [chosen]);
  const src = list === "shots" || list === "marks" || list === "water" ? null : picture ?? last.current;
  return (
    <div ref={ref} data-entry={entry.id} className={chosen ? "my-[3px] scroll-mt-8 border-l-[3px] border-gold bg-paper2 py-1 pr-2 pl-2" : "py-[3px]"}>
      <div className="flex cursor-pointer items-center gap-2" onClick={() => set({ chosen: chosen ? null : entry.id })}>
        <span className="h-[17px] w-[17px] shrink-0 rounded-full border border-ink text-center text-[11px] leading-[15px]">{index + 1}</span>
        {src ? <img src={`/api/products/${src}`} alt="" className="h-[26px] w-[36px] shrink-0 border border-ink object-cover" onError={(e) => { (e.target as HTMLImageElement).style.visibility = "hidden"; }} /> : list === "water" ? <span className="h-[26px] w-[36px] shrink-0 border border-ink bg-slate" style={{ background: `linear-gradient(#8fb0bd, ${entry.tint ?? "#2e3a33"})` }} /> : null}
        <button className={`min-w-0 grow text-left leading-tight ${entry.on ? "" : "opacity-45"}`} aria-expanded={chosen} onClick={(e) => { e.stopPropagation(); set({ chosen: chosen ? null : entry.id }); }}>
          <span className="block truncate">{entry.name}</span><small className="block truncate text-[11.5px] text-soft">{subtitle(list, entry, page)}</small></button>
        {list === "land" && <small className="text-soft">{entry.combine ? ({ add: "add", highest: "highest of", mix: `mix ${shown(entry.share)} %` } as Record<string, string>)[entry.combine] : "rework"}</small>}
        {list === "planting" && <button className="icon" title={hidden ? "Hidden in the view only; it is in the picture's files" : "Hide in the view"} aria-label={`Hide ${entry.name} in the view`} aria-pressed={hidden}
          onClick={(e) => { e.stopPropagation(); const h = new Set(get().hidden); if (h.has(entry.id)) h.delete(entry.id); else h.add(entry.id); set({ hidden: h }); const s = get(); if (s.products) engine.view?.setScene(s.doc!, s.products, h); }}>{hidden ? <EyeOff size={13} /> : <Eye size={13} />}</button>}
        {list === "shots" && <button className="btn" onClick={(e) => { e.stopPropagation(); set({ chosen: entry.id, insetShot: entry.id }); action("goto").run(); }}>step in</button>}
      </div>
      {chosen && <Unfolded list={list} index={index} entry={entry} />}
    </div>
  );
}

function Unfolded({ list, index, entry }: { list: ListName; index: number; entry: any }) {
  const schema = usePage((s) => s.schema), count = usePage((s) => (s.doc![list] as unknown[]).length), defs = schema.scene.$defs, path = [list, index], owner = entry.name as string;
  const model = modelOf(schema, list, entry.kind);
  const [name, setName] = useState(entry.name);
  useEffect(() => setName(entry.name), [entry.name]);
  const inset = usePage((s) => s.insetShot === entry.id);
  return (
    <div className="mt-1 pl-[2px]">
      <div className="flex items-center gap-1">
        <input className="text grow" aria-label="Name" value={name} maxLength={80} onChange={(e) => setName(e.target.value)} onBlur={() => { if (name.trim() && name !== entry.name) void edit(`${entry.name}: renamed`, (d) => put(d, [...path, "name"], name.trim())); }} onKeyDown={(e) => { if (e.key === "Enter") (e.target as HTMLInputElement).blur(); e.stopPropagation(); }} />
        <label className="flex items-center gap-1 px-1 text-soft" title="Off leaves it out of the scene"><input type="checkbox" className="accent-moss" aria-label={`${entry.name} on`} checked={entry.on} onChange={(e) => void edit(`${entry.name}: ${e.target.checked ? "on" : "off"}`, (d) => put(d, [...path, "on"], e.target.checked))} />on</label>
        <button className="icon" disabled={index === 0} title="Earlier (Alt+↑)" aria-label="Move earlier" onClick={action("earlier").run}><ChevronUp size={14} /></button>
        <button className="icon" disabled={index === count - 1} title="Later (Alt+↓)" aria-label="Move later" onClick={action("later").run}><ChevronDown size={14} /></button>
        <button className="icon" title="Duplicate with a new seed (Ctrl+D)" aria-label="Duplicate" onClick={action("duplicate").run}><Copy size={13} /></button>
        <button className="icon" title="Remove (Delete)" aria-label="Remove" onClick={action("remove").run}><Trash2 size={13} /></button>
      </div>
      {list === "planting" && <Mix path={path} entry={entry} />}
      {model && <Settings path={path} model={model} owner={owner} skip={list === "planting" ? ["density"] : list === "marks" ? [] : []} />}
      {list === "ground" && <ShowWhere index={index} />}
      {list === "planting" && <StancePanel path={path} owner={owner} model={defs.Stance} />}
      {list === "water" && <button className="btn mt-1" onClick={() => set((s) => ({ tool: s.tool === "pool" ? null : "pool" }))}>Place the pool by a click</button>}
      {list === "shots" && <div className="mt-2 flex gap-2"><button className="btn" onClick={() => { const v = engine.view!, p = v.pose; void edit(`${entry.name}: view taken`, (d) => Object.assign(d.shots[index], { east_m: round(p.east, 2), north_m: round(p.north, 2), eye_m: round(Math.max(0.05, p.up - v.poseOf({ ...entry, east_m: p.east, north_m: p.north, eye_m: 0 }).up), 2), bearing: round(p.bearing, 2), tilt: round(p.tilt, 2) })); }}>Take this view</button>
        <button className={`btn ${inset ? "on" : ""}`} aria-pressed={inset} onClick={() => set({ insetShot: inset ? null : entry.id })}>In the inset</button><button className="btn" onClick={() => set({ dialog: "still" })}>Save still…</button></div>}
      {["land", "ground", "planting"].includes(list) && <Where path={path} stage={list as "land"} owner={owner} />}
    </div>
  );
}

/** Hatches the ground where a material lies, for as long as it is asked for and chosen. */
function ShowWhere({ index }: { index: number }) {
  const [on, setOn] = useState(false), products = usePage((s) => s.products);
  useEffect(() => {
    if (!on || !products) return;
    const n = products.field.nx * products.field.ny, layer = Math.floor(index / 4) * n * 4 + (index % 4), out = new Uint8Array(n);
    for (let i = 0; i < n; i++) out[i] = products.weights[layer + i * 4];
    engine.view?.wash(out);
    return () => engine.view?.wash(null);
  }, [on, products, index]);
  return <button className={`btn mt-1 ${on ? "on" : ""}`} aria-pressed={on} onClick={() => setOn(!on)}>Hatch where it lies</button>;
}

function Mix({ path, entry }: { path: (string | number)[]; entry: any }) {
  const total = entry.mix.reduce((a: number, p: any) => a + p.share, 0) || 1, cabinet = usePage((s) => s.cabinet)!, line = usePage((s) => s.manifest?.sown.find((x) => x.id === entry.id));
  const count = line?.count ?? 0;
  const keep = (v: number) => void edit(`${entry.name}: density`, (d) => put(d, [...path, "density"], v));
  return (
    <div>
      <Range label="Density" value={entry.density} unit="per 100 m²" min={0} max={100000} low={0.01} high={2000} log onDrag={(v) => dragDensity(path, v)} onKeep={keep} />
      <div className="text-[11.5px] text-soft">{count.toLocaleString("en")} in all · {shown(entry.density / 100)} per m² where it grows{line?.capped ? " · its least distance leaves no room for more" : ""}</div>
      {entry.mix.map((p: any, i: number) => (
        <div key={i} className="mt-1 border-t border-rule/60 pt-[2px]">
          <div className="flex items-center gap-2"><div className="grow"><Drawer drawer="kind" value={p.kind} label="Kind" onKeep={(v) => void edit(`${entry.name}: kind`, (d) => put(d, [...path, "mix", i, "kind"], v))} /></div>
            {entry.mix.length > 1 && <button className="icon" aria-label={`Remove ${p.kind}`} onClick={() => void edit(`${entry.name}: one kind less`, (d) => at(d, path).mix.splice(i, 1))}><Trash2 size={13} /></button>}</div>
          {entry.mix.length > 1 && <Range label={`Share · about ${Math.round((count * p.share) / total).toLocaleString("en")}`} value={p.share} unit="%" min={0} max={100} low={0} high={100} log={false} step={1} onDrag={(v) => dragShare(path, i, v)} onKeep={(v) => void edit(`${entry.name}: share`, (d) => put(d, [...path, "mix", i, "share"], v))} />}
        </div>))}
      <div className="mt-1"><AddMenu label="kind to the mix" items={cabinet.kinds.filter((k) => k.family !== "figure").map((k) => ({ key: k.name, label: k.label, note: k.family }))} onPick={(k) => void edit(`${entry.name}: ${k} added`, (d) => at(d, path).mix.push({ kind: k, share: 50 }))} /></div>
    </div>
  );
}

const dragDensity = (path: (string | number)[], v: number) => drag((d) => put(d, [...path, "density"], v));
const dragShare = (path: (string | number)[], i: number, v: number) => drag((d) => put(d, [...path, "mix", i, "share"], v));

function StancePanel({ path, owner, model }: { path: (string | number)[]; owner: string; model: any }) {
  const [open, setOpen] = useState(false);
  return <div className="mt-2 border-t border-rule pt-1"><button className="flex w-full justify-between font-semibold" aria-expanded={open} onClick={() => setOpen(!open)}>Stance<span className="font-normal text-soft">{open ? "fold" : "turn, size, lean, sink"}</span></button>
    {open && <Settings path={[...path, "stance"]} model={model} owner={owner} />}</div>;
}

function Pieces() {
  const pieces = usePage((s) => s.doc!.pieces), chosen = usePage((s) => s.chosen), tool = usePage((s) => s.tool), schema = usePage((s) => s.schema), [open, setOpen] = useState(false);
  const index = pieces.findIndex((p) => p.id === chosen);
  return (
    <div className="mt-2 border-t border-rule pt-1">
      <div className="flex items-center justify-between"><button className="font-semibold" aria-expanded={open} onClick={() => setOpen(!open)}>Placed by hand <span className="font-normal text-soft">{pieces.length}</span></button>
        <button className={`btn ${tool === "figure" ? "on" : ""}`} onClick={action("figure").run}>Stand a person</button></div>
      {(open || index >= 0) && pieces.map((p, i) => (open || i === index) && (
        <div key={p.id} data-entry={p.id} className={p.id === chosen ? "my-[3px] border-l-[3px] border-gold bg-paper2 px-2 py-1" : "py-[1px]"}>
          <button className="flex w-full justify-between text-left" aria-expanded={p.id === chosen} onClick={() => set({ chosen: p.id === chosen ? null : p.id })}><span>{p.name}</span><small className="text-soft">E {Math.round(p.east_m!)} N {Math.round(p.north_m!)}</small></button>
          {p.id === chosen && <><div className="flex gap-2"><button className="btn" onClick={action("goto").run}>Go there</button><button className="btn" onClick={action("duplicate").run}>Copy</button><button className="btn" onClick={action("remove").run}>Remove</button></div>
            <Settings path={["pieces", i]} model={schema.scene.$defs.Piece} owner={p.name} /></>}
        </div>))}
    </div>
  );
}

const LIGHTS: { name: string; light: Record<string, number | string> }[] = [
  { name: "Clear morning", light: { sun_bearing: 110, sun_height: 19, clouds: 22, haze_m: 9000, haze_tint: "#d9dfe2", exposure: 0 } },
  { name: "Low evening", light: { sun_bearing: 262, sun_height: 8, clouds: 38, haze_m: 5000, haze_tint: "#e6d4bd", exposure: 0.35 } },
  { name: "Overcast", light: { sun_bearing: 200, sun_height: 38, clouds: 96, haze_m: 3800, haze_tint: "#ccd2d3", exposure: 0.1 } },
  { name: "Mist", light: { sun_bearing: 130, sun_height: 14, clouds: 55, haze_m: 700, haze_top_m: 60, haze_tint: "#dcdfdd", exposure: 0.15 } },
];

function LightPanel() {
  const schema = usePage((s) => s.schema);
  return <div><div className="mb-1 flex flex-wrap gap-1">{LIGHTS.map((l) => <button key={l.name} className="btn" onClick={() => void edit(`Light: ${l.name.toLowerCase()}`, (d) => Object.assign(d.light, l.light))}>{l.name}</button>)}</div>
    <Settings path={["light"]} model={schema.scene.$defs.Light} owner="Light" /></div>;
}

function HandOverPanel() {
  const plot = usePage((s) => s.doc!.plot), id = usePage((s) => s.id), job = usePage((s) => s.job), m = usePage((s) => s.manifest), [posts, setPosts] = useState<number | null>(null), n = posts ?? plot.posts;
  const ratio = (n / plot.posts) ** 2, running = job?.state === "running";
  const poll = async (job: Job) => {
    for (let now = job; ; ) {
      set({ job: now });
      if (now.state !== "running") return;
      await new Promise((r) => setTimeout(r, 400));
      now = await ask<Job>("GET", `/api/hand-overs/${job.id}`);
    }
  };
  return (
    <div>
      <p className="text-soft">Heightmap (PNG, TIFF), material masks, plant positions (CSV), the scene as glTF, a report. Metres, row 0 north.</p>
      <Range label="Grid" value={n} unit="posts" min={33} max={4097} low={129} high={4097} log step={1} onDrag={(v) => setPosts(Math.round(v))} onKeep={(v) => setPosts(Math.round(v))} />
      <p className="text-[11.5px] text-soft">{shown(Math.max(plot.width_m, plot.depth_m) / (n - 1))} m between posts{m ? ` · about ${shown(m.cost.full_megabytes * Math.max(0.3, ratio))} MB, ${shown(m.cost.full_seconds * Math.max(0.3, ratio))} s` : ""}</p>
      <div className="mt-1 flex flex-wrap items-center gap-2">
        <button className="btn do" disabled={running} data-grow onClick={() => { void ask<Job>("POST", `/api/scenes/${id}/hand-overs`, { posts: n }).then(poll).catch(tell); }}>Grow files</button>
        {running && <><span className="text-soft">{job.step}…</span><button className="btn" onClick={() => void ask("DELETE", `/api/hand-overs/${job.id}`)}>stop</button></>}
        {job?.state === "done" && <a className="btn" href={`/api/hand-overs/${job.id}/files.zip`} download data-files>Download files (.zip)</a>}
        {job?.state === "failed" && <span className="text-rust">{job.problem?.detail}</span>}
        {job?.state === "stopped" && <span className="text-soft">stopped</span>}
      </div>
      {job?.state === "done" && job.report ? <p className="mt-1 text-[11.5px] text-soft">{(job.report as any).grid.join(" × ")} posts, {(job.report as any).plants_total.toLocaleString("en")} plants, {(job.report as any).seconds_total} s</p> : null}
      <div className="mt-2 border-t border-rule pt-1"><a className="btn" href={`/api/scenes/${id}/scene.zip`} download>Scene itself (.zip)</a> <span className="text-soft">for <code>./sow grow</code></span></div>
    </div>
  );
}
