/**
 * Settings of an entry, made from the schema of its kind: label, unit, limits and help come with
 * it.
 */
import { PictureLine, TextureLine } from "./ground";
import { Slider } from "radix-ui";
import { useEffect, useRef, useState } from "react";
import type { Scene } from "../api/client";
import { drag, edit, get, usePage } from "../state";
import { ContourLines } from "./contours";
import { CurveSetting } from "./curve";
import { dropRaster, RASTERS } from "./drop";

export type Path = (string | number)[];
interface Prop {
  title?: string;
  description?: string;
  type?: string;
  enum?: string[];
  const?: string;
  minimum?: number;
  maximum?: number;
  default?: unknown;
  items?: any;
  $ref?: string;
  sow?: {
    unit?: string;
    slider?: (number | string | null)[];
    scale?: string;
    step?: number;
    labels?: Record<string, string>;
    only?: Record<string, string[]>;
    fold?: string;
    file?: string;
    drawer?: string;
    mark?: string;
    colour?: boolean;
    curve?: [string, string];
    told?: boolean;
    entry?: string;
    entries?: string;
    points?: boolean;
    texture?: boolean;
    picture?: boolean;
    none?: string;
    contours?: boolean;
    surface?: boolean;
  };
}

export function at(doc: any, path: Path): any {
  return path.reduce((v, k) => v?.[k], doc);
}
export function put(doc: any, path: Path, value: unknown) {
  at(doc, path.slice(0, -1))[path[path.length - 1]] = value;
}

/** The model of a kind, or of a list whose entries have no kind. */
export function modelOf(schema: any, list: string, kind?: string): any {
  const defs = schema.scene.$defs;
  const plain: Record<string, string> = {
    ground: "Material",
    planting: "Sowing",
    shots: "Shot",
    pieces: "Piece",
    mix: "Part",
  };
  if (plain[list]) return defs[plain[list]];
  return Object.values<any>(defs).find(
    (d) =>
      d.properties?.kind?.const === kind &&
      (list === "where" ? d.properties.invert : d.properties.name),
  );
}

/**
 * Values for a new entry with the schema's defaults for what they leave out, so that it reads as
 * the core will keep it.
 */
export function complete(schema: any, model: any, values: any): any {
  const out: any = {};
  for (const [name, p] of Object.entries<any>(model.properties)) {
    const ref = p.$ref ?? p.allOf?.[0]?.$ref;
    const inner = ref && schema.scene.$defs[ref.split("/").pop()];
    if (inner?.properties) out[name] = complete(schema, inner, values[name] ?? {});
    else if (name === "where")
      out[name] = (values[name] ?? []).map((c: any) =>
        complete(schema, modelOf(schema, "where", c.kind), c),
      );
    else if (name === "mix")
      out[name] = (values[name] ?? []).map((c: any) => complete(schema, modelOf(schema, "mix"), c));
    else out[name] = values[name] ?? p.default ?? p.const ?? (p.type === "array" ? [] : undefined);
  }
  return out;
}

export function shown(value: number): string {
  const a = Math.abs(value);
  return a >= 10000
    ? Math.round(value).toLocaleString("en")
    : a >= 100
      ? String(Math.round(value))
      : a >= 10
        ? value.toFixed(1).replace(/\.0$/, "")
        : value.toFixed(2).replace(/\.?0+$/, "");
}

function limit(v: number | string | null | undefined, fallback: number): number {
  const { doc, manifest } = get();
  if (typeof v === "number") return v;
  if (v === "width") return doc!.plot.width_m;
  if (v === "depth") return doc!.plot.depth_m;
  if (v === "lowest") return Math.floor(manifest?.lowest ?? 0);
  if (v === "highest") return Math.ceil(manifest?.highest ?? 100);
  return fallback;
}

export function Range({
  label,
  value,
  unit,
  min,
  max,
  low,
  high,
  log,
  step,
  help,
  onDrag,
  onKeep,
}: {
  label: string;
  value: number;
  unit: string;
  min: number;
  max: number;
  low: number;
  high: number;
  log: boolean;
  step?: number;
  help?: string;
  onDrag: (v: number) => void;
  onKeep: (v: number) => void;
}) {
  const to = (v: number) =>
    log
      ? (Math.log(Math.max(v, low) / low) / Math.log(high / low)) * 1000
      : ((v - low) / (high - low || 1)) * 1000;
  const from = (t: number) => {
    const v = log ? low * Math.pow(high / low, t / 1000) : low + ((high - low) * t) / 1000;
    const grain =
      step ??
      (log
        ? Math.pow(10, Math.floor(Math.log10(Math.max(v, 1e-6))) - 2)
        : Math.pow(10, (Math.floor(Math.log10(Math.max(high - low, 1e-6))) - 2.5) | 0));
    return Math.min(max, Math.max(min, +(Math.round(v / grain) * grain).toPrecision(7)));
  };
  const [text, setText] = useState<string | null>(null);
  const timer = useRef(0);
  const keepText = () => {
    if (text === null) return;
    const v = parseFloat(text.replace(",", "."));
    setText(null);
    if (Number.isFinite(v) && v !== value) onKeep(Math.min(max, Math.max(min, v)));
  };
  return (
    <div className="mt-1" title={help}>
      <div className="flex items-baseline justify-between gap-2">
        <span>{label}</span>
        <span className="flex items-baseline gap-[3px]">
          <input
            className="num"
            style={{ width: `${Math.max(3, (text ?? shown(value)).length + 0.6)}ch` }}
            aria-label={`${label} in ${unit || "steps"}`}
            value={text ?? shown(value)}
            onFocus={(e) => {
              setText(String(+value.toFixed(4)));
              e.target.select();
            }}
            onChange={(e) => setText(e.target.value)}
            onBlur={keepText}
            onKeyDown={(e) => {
              if (e.key === "Enter") (e.target as HTMLInputElement).blur();
              if (e.key === "Escape") {
                setText(null);
                (e.target as HTMLInputElement).blur();
              }
              e.stopPropagation();
            }}
          />
          <span className="text-soft text-[11.5px]">{unit}</span>
        </span>
      </div>
      <Slider.Root
        className="relative flex h-[15px] touch-none items-center select-none"
        min={0}
        max={1000}
        step={1}
        value={[Math.min(1000, Math.max(0, to(value)))]}
        onValueChange={([t]) => {
          window.clearTimeout(timer.current);
          onDrag(from(t));
        }}
        onValueCommit={([t]) => onKeep(from(t))}
      >
        <Slider.Track className="relative h-[1.5px] grow bg-rule">
          <Slider.Range className="absolute h-full bg-moss" />
        </Slider.Track>
        <Slider.Thumb
          aria-label={label}
          className="block h-[11px] w-[11px] rounded-full border-2 border-moss bg-paper hover:bg-paper2"
        />
      </Slider.Root>
    </div>
  );
}

/** One field of the document at a path. */
export function Setting({
  path,
  name,
  prop,
  owner,
}: {
  path: Path;
  name: string;
  prop: Prop;
  owner: string;
}) {
  const value = usePage((s) => at(s.doc, [...path, name]) ?? prop.default) as any;
  const s = prop.sow ?? {};
  const label = prop.title ?? name;
  const change = (v: unknown) => (d: Scene) => put(d, [...path, name], v);
  const keep = (v: unknown) => void edit(`${owner}: ${label.toLowerCase()}`, change(v));
  const only = s.only && Object.entries(s.only)[0];
  const holds = usePage((p) => !only || only[1].includes(at(p.doc, [...path, only[0]])));
  if (!holds) return null;
  if ((name === "over" || name === "picture_m") && !at(get().doc, path).picture) return null;
  if (s.colour)
    return (
      <Line label={label} help={prop.description}>
        <input
          type="color"
          aria-label={label}
          value={value}
          className="h-[18px] w-9 border border-ink bg-paper p-0"
          onChange={(e) => drag(change(e.target.value))}
          onBlur={(e) => keep(e.target.value)}
        />
      </Line>
    );
  if (s.curve)
    return (
      <CurveSetting
        path={path}
        name={name}
        label={label}
        axes={s.curve}
        owner={owner}
        help={prop.description}
      />
    );
  if (s.told)
    return value ? (
      <Line label={label} help={prop.description}>
        <span className="truncate text-soft">{value}</span>
      </Line>
    ) : null;
  if (s.entry)
    return (
      <EntryChoice
        list={s.entry}
        label={label}
        value={value}
        none={s.none}
        onKeep={keep}
        help={prop.description}
        path={path}
      />
    );
  if (s.surface) return <SurfaceChoice path={path} label={label} value={value} onKeep={keep} />;
  if (s.contours) return <ContourLines path={path} owner={owner} />;
  if (s.drawer) return <Drawer drawer={s.drawer} value={value} label={label} onKeep={keep} />;
  if (s.mark) return <MarkChoice kind={s.mark} value={value} onKeep={keep} />;
  if (s.entries) return <EntryTicks label={label} value={value ?? []} onKeep={keep} />;
  if (s.points) return null;
  if (s.picture)
    return (
      <PictureLine path={[...path, name]} value={value} label={label} help={prop.description} />
    );
  if (s.texture) return <TextureLine path={[...path, name]} value={value} label={label} />;
  if (s.file)
    return <FileLine value={value} label={label} path={[...path, name]} help={prop.description} />;
  if (prop.enum && prop.enum.length > 4)
    return (
      <Line label={label} help={prop.description}>
        <select
          className="text"
          aria-label={label}
          value={value}
          onChange={(e) => keep(e.target.value)}
        >
          {prop.enum.map((o) => (
            <option key={o} value={o}>
              {s.labels?.[o] ?? o}
            </option>
          ))}
        </select>
      </Line>
    );
  if (prop.enum)
    return (
      <Line label={label} help={prop.description}>
        <span className="flex">
          {prop.enum.map((o) => (
            <button
              key={o}
              className={`btn -ml-px ${o === value ? "on" : ""}`}
              aria-pressed={o === value}
              onClick={() => keep(o)}
            >
              {s.labels?.[o] ?? o}
            </button>
          ))}
        </span>
      </Line>
    );
  if (prop.type === "boolean")
    return (
      <label className="mt-1 flex items-center gap-2" title={prop.description}>
        <input
          type="checkbox"
          className="accent-moss"
          checked={!!value}
          onChange={(e) => keep(e.target.checked)}
        />
        {label}
      </label>
    );
  if (prop.type === "number" || prop.type === "integer") {
    const whole = prop.type === "integer";
    const min = prop.minimum ?? -1e9;
    const max = prop.maximum ?? 1e9;
    const low = limit(s.slider?.[0], min);
    const high = limit(s.slider?.[1], max);
    return (
      <Range
        label={label}
        value={value}
        unit={s.unit ?? ""}
        min={min}
        max={max}
        low={low}
        high={Math.max(high, low + 1e-3)}
        log={s.scale === "log" && low > 0}
        step={s.step ?? (whole ? 1 : undefined)}
        help={prop.description}
        onDrag={(v) => drag(change(whole ? Math.round(v) : v))}
        onKeep={(v) => keep(whole ? Math.round(v) : v)}
      />
    );
  }
  return null;
}

export function Line({
  label,
  help,
  children,
}: {
  label: string;
  help?: string;
  children: React.ReactNode;
}) {
  return (
    <div className="mt-[5px] flex items-center justify-between gap-2" title={help}>
      <span>{label}</span>
      {children}
    </div>
  );
}

/**
 * All plain fields of a model, in the schema's order; those of one fold under a heading that opens.
 */
export function Settings({
  path,
  model,
  owner,
  skip = [],
}: {
  path: Path;
  model: any;
  owner: string;
  skip?: string[];
}) {
  const hide = [
    "id",
    "name",
    "on",
    "kind",
    "where",
    "mix",
    "stance",
    "format",
    "invert",
    "group",
    "land",
    ...skip,
  ].filter((n) => n !== "invert" || !model.properties.raster);
  const fields = Object.entries<Prop>(model.properties).filter(([n]) => !hide.includes(n));
  const folds = [...new Set(fields.map(([, p]) => p.sow?.fold).filter(Boolean))] as string[];
  const one = ([n, p]: [string, Prop]) => (
    <Setting key={n} path={path} name={n} prop={p} owner={owner} />
  );
  return (
    <>
      {fields.filter(([, p]) => !p.sow?.fold).map(one)}
      {folds.map((f) => (
        <Fold key={f} title={f}>
          {fields.filter(([, p]) => p.sow?.fold === f).map(one)}
        </Fold>
      ))}
    </>
  );
}

export function Fold({
  title,
  note,
  children,
}: {
  title: string;
  note?: string;
  children: React.ReactNode;
}) {
  const [open, setOpen] = useState(false);
  return (
    <div className="mt-1 border-t border-rule/70 pt-[2px]">
      <button
        className="flex w-full justify-between text-left font-semibold"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        {title}
        <span className="font-normal text-soft">{open ? "fold" : (note ?? "…")}</span>
      </button>
      {open && children}
    </div>
  );
}

/**
 * One entry of a list by name: of the land only landforms, of materials and sowings only those
 * before the entry that asks.
 */
function EntryChoice({
  list,
  label,
  value,
  none,
  onKeep,
  help,
  path,
}: {
  list: string;
  label: string;
  value: string;
  none?: string;
  onKeep: (v: string) => void;
  help?: string;
  path: Path;
}) {
  const all =
    usePage(
      (s) =>
        (
          s.doc as unknown as Record<
            string,
            { id: string; name: string; combine?: string }[]
          > | null
        )?.[list],
    ) ?? [];
  const forms =
    list === "land"
      ? all.filter((e) => e.combine)
      : path[0] === list
        ? all.slice(0, path[1] as number)
        : all;
  return (
    <Line label={label} help={help}>
      <select
        className="text max-w-[170px]"
        aria-label={label}
        value={forms.some((e) => e.id === value) ? value : ""}
        onChange={(e) => onKeep(e.target.value)}
      >
        <option value="">
          {value && !forms.some((e) => e.id === value) ? "gone: choose…" : (none ?? "choose…")}
        </option>
        {forms.map((e) => (
          <option key={e.id} value={e.id}>
            {e.name}
          </option>
        ))}
      </select>
    </Line>
  );
}

/** One surface of the model that a sowing stands on. */
function SurfaceChoice({
  path,
  label,
  value,
  onKeep,
}: {
  path: Path;
  label: string;
  value: string;
  onKeep: (v: string) => void;
}) {
  const piece = usePage((s) => s.doc?.pieces.find((p) => p.id === at(s.doc, path)?.stands_on));
  const names =
    usePage((s) => s.cabinet?.kinds.find((k) => k.name === piece?.kind)?.surfaces) ?? [];
  if (!names.length) return null;
  return (
    <Line label={label}>
      <select
        className="text max-w-[170px]"
        aria-label={label}
        value={value}
        onChange={(e) => onKeep(e.target.value)}
      >
        <option value="">all of it</option>
        {names.map((n) => (
          <option key={n}>{n}</option>
        ))}
      </select>
    </Line>
  );
}

export function Drawer({
  drawer,
  value,
  label,
  onKeep,
}: {
  drawer: string;
  value: string;
  label: string;
  onKeep: (v: string) => void;
}) {
  const cabinet = usePage((s) => s.cabinet);
  const [open, setOpen] = useState(false);
  const [sought, setSought] = useState("");
  const ref = useRef<HTMLDivElement>(null);
  useEffect(() => {
    if (!open) return;
    setSought("");
    const away = (e: PointerEvent) => {
      if (!ref.current?.contains(e.target as Node)) setOpen(false);
    };
    window.addEventListener("pointerdown", away);
    return () => window.removeEventListener("pointerdown", away);
  }, [open]);
  const list = { kind: "kinds", ground: "grounds", heightmap: "heightmaps" }[drawer] as
    "kinds" | "grounds" | "heightmaps";
  const items = cabinet?.[list] ?? [];
  const url = (n: string) => `/api/cabinet/${list}/${n}.png`;
  const now = items.find((i) => i.name === value);
  return (
    <div className="relative mt-[5px]" ref={ref}>
      <button
        className="flex w-full items-center gap-2 border border-rule bg-[#fffdf7] pr-2 text-left"
        aria-expanded={open}
        aria-label={`${label}: ${now?.label}`}
        onClick={() => setOpen(!open)}
      >
        {value ? (
          <img
            src={url(value)}
            alt=""
            className={`h-[26px] w-[34px] bg-[#e6dfce] ${drawer === "kind" ? "object-contain" : "object-cover"}`}
          />
        ) : (
          <i className="h-[26px]" />
        )}
        <span className="grow">{now?.label ?? (value || `${label}…`)}</span>
        <span className="text-soft">▾</span>
      </button>
      {open && (
        <div className="menu absolute right-0 left-0 grid max-h-[300px]! grid-cols-3 gap-1 p-1!">
          {items.length > 20 && (
            <input
              className="text sticky top-0 z-10 col-span-3"
              autoFocus
              aria-label={`Find a ${drawer}`}
              placeholder={drawer === "kind" ? "find: birch, wet, evergreen, stone…" : "find…"}
              value={sought}
              onChange={(e) => setSought(e.target.value)}
              onKeyDown={(e) => {
                if (e.key === "Escape") setOpen(false);
                e.stopPropagation();
              }}
            />
          )}
          {(items as { name: string; label: string; family?: string; tags?: string }[])
            .filter(
              (i) =>
                !sought ||
                sought
                  .toLowerCase()
                  .split(/\s+/)
                  .every((w) =>
                    `${i.label} ${i.name} ${i.family ?? ""} ${i.tags ?? ""}`
                      .toLowerCase()
                      .includes(w),
                  ),
            )
            .map((i) => (
              <button
                key={i.name}
                className={`flex flex-col items-center border p-[2px] text-[11px] leading-tight ${i.name === value ? "border-moss bg-paper2" : "border-transparent hover:bg-paper2"}`}
                onClick={() => {
                  setOpen(false);
                  onKeep(i.name);
                }}
              >
                <img
                  src={url(i.name)}
                  alt=""
                  className="h-[54px] w-full bg-[#e6dfce] object-contain"
                />
                {i.label}
              </button>
            ))}
        </div>
      )}
    </div>
  );
}

function MarkChoice({
  kind,
  value,
  onKeep,
}: {
  kind: string;
  value: string;
  onKeep: (v: string) => void;
}) {
  const marks = usePage((s) => s.doc?.marks ?? []).filter(
    (m) => m.kind === kind || (kind === "line" && m.kind === "area"),
  );
  const word = { mask: "Mask", line: "Line", area: "Area" }[kind] ?? kind;
  if (!marks.length)
    return (
      <div className="mt-1 text-soft">
        {kind === "mask"
          ? "No mask yet: drop a picture on the section Marks."
          : `No ${kind} yet: draw one under Marks.`}
      </div>
    );
  return (
    <Line label={word}>
      <select
        className="text max-w-[170px]"
        aria-label={word}
        value={marks.some((m) => m.id === value) ? value : ""}
        onChange={(e) => onKeep(e.target.value)}
      >
        {!marks.some((m) => m.id === value) && (
          <option value="">{value ? "gone: choose…" : "choose…"}</option>
        )}
        {marks.map((m) => (
          <option key={m.id} value={m.id}>
            {m.name}
          </option>
        ))}
      </select>
    </Line>
  );
}

/** Sowings ticked by name. */
function EntryTicks({
  label,
  value,
  onKeep,
}: {
  label: string;
  value: string[];
  onKeep: (v: string[]) => void;
}) {
  const sowings = usePage((s) => s.doc?.planting ?? []);
  if (!sowings.length) return null;
  return (
    <div className="mt-1">
      <div className="text-soft">{label}</div>
      <div className="grid grid-cols-2">
        {sowings.map((s) => (
          <label key={s.id} className="flex items-center gap-1 truncate">
            <input
              type="checkbox"
              className="accent-moss"
              checked={value.includes(s.id)}
              onChange={(e) =>
                onKeep(e.target.checked ? [...value, s.id] : value.filter((x) => x !== s.id))
              }
            />
            {s.name}
          </label>
        ))}
      </div>
    </div>
  );
}

function FileLine({
  value,
  label,
  path,
  help,
}: {
  value: string;
  label: string;
  path: Path;
  help?: string;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <Line label={label} help={help}>
      <span className="flex items-center gap-2">
        <span className="text-soft">{value ? "kept" : "none yet"}</span>
        <button className="btn" onClick={() => input.current?.click()}>
          {value ? "Replace…" : "Choose file…"}
        </button>
        <input
          ref={input}
          type="file"
          accept={RASTERS}
          className="hidden"
          onChange={(e) => {
            const f = e.target.files?.[0];
            if (f) void dropRaster(f, path);
            e.target.value = "";
          }}
        />
      </span>
    </Line>
  );
}
