/**
 * Masks: shown as ink hatching, painted in metres, filled by a rule, joined with others; zone maps
 * cut into one mask a colour.
 */
import { useEffect, useRef, useState } from "react";
import { ask, type RasterInfo, type ZoneLine } from "../api/client";
import { edit, engine, freshId, get, set, tell, usePage } from "../state";
import { fetchBytes } from "../view/products";
import { complete, Range, shown, type Path } from "./settings";
import { SheetBox } from "./sheetbox";
import { Where } from "./where";

export const INK = "#23302b";

/** Hatches the chosen mask over view and map, and follows its changes. */
export function MaskWash() {
  const mark = usePage(
    (s) => s.doc?.marks.find((m) => m.id === s.chosen && m.kind === "mask") ?? null,
  );
  const id = usePage((s) => s.id);
  const ready = usePage((s) => !!s.products);
  const key = mark && JSON.stringify(mark);
  useEffect(() => {
    if (!mark || !ready) {
      if (get().mask) {
        set({ mask: null });
        engine.view?.wash(null);
      }
      return;
    }
    const stop = new AbortController();
    void (async () => {
      try {
        const a = await ask<{ key: string; share: number; grid: { nx: number; ny: number } }>(
          "POST",
          `/api/scenes/${id}/mask-pictures/${mark.id}`,
          { document: get().doc },
          {},
          stop.signal,
        );
        const values = (await fetchBytes(a.key)).slice();
        if (stop.signal.aborted) return;
        set({ mask: { id: mark.id, nx: a.grid.nx, ny: a.grid.ny, values, share: a.share } });
        engine.view?.wash(values, INK);
      } catch (e) {
        if (!stop.signal.aborted) tell(e);
      }
    })();
    return () => stop.abort();
  }, [key, id, ready]);
  return null;
}

/** A rectangle of new values while a brush works on a mask. */
export function patchMask(
  r0: number,
  c0: number,
  rows: number,
  columns: number,
  values: Float32Array,
) {
  const m = get().mask;
  const mark = get().doc?.marks.find((x) => x.id === m?.id) as { invert?: boolean } | undefined;
  if (!m) return;
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < columns; c++) {
      const v = Math.round(values[r * columns + c] * 255);
      m.values[(r0 + r) * m.nx + c0 + c] = mark?.invert ? 255 - v : v;
    }
  let sum = 0;
  for (const v of m.values) sum += v;
  set({ mask: { ...m, share: sum / 255 / m.values.length } });
  engine.view?.wash(m.values, INK);
}

/** What the hatching means, on the face while a mask is chosen. */
export function MaskKey() {
  const m = usePage((s) => s.mask);
  const name = usePage((s) => s.doc?.marks.find((x) => x.id === s.mask?.id)?.name);
  const plot = usePage((s) => s.doc?.plot);
  if (!m || !plot) return null;
  return (
    <div
      className="flex items-center gap-2 border border-ink bg-paper/95 px-2 py-[2px] text-[12px]"
      data-mask-key
    >
      <svg width="26" height="14">
        <rect width="26" height="14" fill="#d6d2b8" stroke="#23302b" />
        {[0, 6, 12, 18, 24].map((x) => (
          <path key={x} d={`M${x - 6} 14L${x + 8} 0`} stroke="#23302b" strokeWidth="1.3" />
        ))}
      </svg>
      <span>
        <b>{name}</b> lies where it is hatched: {shown(m.share * 100)} %,{" "}
        {shown((m.share * plot.width_m * plot.depth_m) / 1e4)} ha
      </span>
    </div>
  );
}

/** Whole-mask work in the key. */
export function MaskPanel({ path, entry }: { path: Path; entry: any }) {
  const marks = usePage((s) => s.doc!.marks);
  const others = marks.filter((m) => m.kind === "mask" && m.id !== entry.id);
  const [other, setOther] = useState("");
  const second = other || others[0]?.id || "";
  const put = async (how: string, more: Record<string, unknown>, label: string) => {
    try {
      const info = await ask<RasterInfo>("POST", `/api/scenes/${get().id}/masks`, {
        document: get().doc,
        mark: entry.id,
        how,
        ...more,
      });
      await edit(`${entry.name}: ${label}`, (d) => {
        const e = path.reduce((v: any, k) => v[k], d);
        e.raster = info.raster;
        if (how === "where" || how === "full" || how === "empty")
          Object.assign(e, { invert: false, widen_m: 0, blur_m: 0 });
      });
    } catch (e) {
      tell(e);
    }
  };
  return (
    <div className="mt-1" data-mask-panel>
      <p className="text-[11.5px] text-soft">
        Choose a brush on the face and paint on the land, in the view or on the map.
      </p>
      <div className="mt-1 flex flex-wrap gap-1">
        <button
          className="btn"
          data-fill="full"
          onClick={() => void put("full", {}, "all of the plot")}
        >
          All
        </button>
        <button
          className="btn"
          data-fill="empty"
          onClick={() => void put("empty", {}, "none of the plot")}
        >
          None
        </button>
        {entry.where?.length > 0 && (
          <button
            className="btn do"
            data-fill="where"
            onClick={() => void put("where", {}, "filled from its rule")}
          >
            Fill from its rule
          </button>
        )}
      </div>
      <Where
        path={path}
        stage="planting"
        owner={entry.name}
        title="Rule to fill it from"
        none=": none"
      />
      {others.length > 0 && (
        <div className="mt-1 flex flex-wrap items-center gap-1">
          With
          <select
            className="text max-w-[120px]"
            aria-label="Other mask"
            value={second}
            onChange={(e) => setOther(e.target.value)}
          >
            {others.map((m) => (
              <option key={m.id} value={m.id}>
                {m.name}
              </option>
            ))}
          </select>
          {(
            [
              ["union", "join"],
              ["common", "what both have"],
              ["without", "take it away"],
            ] as const
          ).map(([k, label]) => (
            <button
              key={k}
              className="btn"
              data-combine={k}
              onClick={() =>
                void put(
                  k,
                  { other: second },
                  `${label}: ${others.find((m) => m.id === second)?.name}`,
                )
              }
            >
              {label}
            </button>
          ))}
        </div>
      )}
    </div>
  );
}

/** A new, empty mask to paint on. */
export function newMask() {
  const id = freshId("mask");
  const { doc, schema } = get();
  const name = `Mask ${doc!.marks.filter((m) => m.kind === "mask").length + 1}`;
  void edit(`${name} begun`, (d) =>
    d.marks.push(
      complete(schema, schema.scene.$defs.Mask, {
        id,
        name,
        kind: "mask",
        on: true,
        posts: Math.min(2049, Math.max(1025, d.plot.posts)),
      }),
    ),
  );
  set({ chosen: id, open: "marks", tool: "brush", sheet: null });
}

/**
 * A picture in which each colour is a zone: its colours with their shares, each to become a mask.
 */
export function Zones() {
  const [file, setFile] = useState<File | null>(null);
  const [tolerance, setTolerance] = useState(12);
  const [list, setList] = useState<ZoneLine[]>([]);
  const [names, setNames] = useState<Record<string, string>>({});
  const [off, setOff] = useState<Set<string>>(new Set());
  const [busy, setBusy] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const read = async (f: File, t: number) => {
    setBusy(true);
    try {
      setList(
        await ask<ZoneLine[]>("POST", `/api/zones?tolerance=${t}`, f, {
          "Content-Type": "application/octet-stream",
        }),
      );
    } catch (e) {
      setList([]);
      set({ dialog: null });
      tell(e);
    }
    setBusy(false);
  };
  const make = () => {
    const { schema } = get();
    const chosen = list.filter((z) => !off.has(z.colour));
    void edit(`${chosen.length} zones of ${file!.name}`.slice(0, 120), (d) =>
      chosen.forEach((z) =>
        d.marks.push(
          complete(schema, schema.scene.$defs.Mask, {
            id: freshId("zone"),
            name: (names[z.colour] || `Zone ${list.indexOf(z) + 1}`).slice(0, 80),
            kind: "mask",
            on: true,
            raster: z.raster,
          }),
        ),
      ),
    );
    set({ dialog: null, open: "marks" });
  };
  return (
    <SheetBox title="Zone map" wide={460}>
      <p className="mb-2 text-soft">
        A picture laid over the plot in which each colour is a zone. Each becomes a mask.
      </p>
      <div className="flex items-center gap-2">
        <button className="btn" onClick={() => input.current?.click()}>
          {file ? "Another picture…" : "Choose a picture…"}
        </button>
        <span className="truncate text-soft">{file?.name}</span>
        <input
          ref={input}
          type="file"
          accept=".png,.jpg,.jpeg,.webp,.tif,.tiff"
          className="hidden"
          data-zone-file
          onChange={(e) => {
            const f = e.target.files?.[0];
            if (f) {
              setFile(f);
              void read(f, tolerance);
            }
            e.target.value = "";
          }}
        />
      </div>
      {file && (
        <Range
          label="Colours count as one within"
          value={tolerance}
          unit="ΔE"
          min={1}
          max={60}
          low={1}
          high={60}
          log={false}
          step={1}
          help="Difference in L*a*b*: raise it when a soft edge makes zones of its own."
          onDrag={setTolerance}
          onKeep={(v) => {
            setTolerance(v);
            void read(file, v);
          }}
        />
      )}
      <div className="mt-2 max-h-[40vh] overflow-auto" data-zones={busy ? "" : list.length}>
        {list.map((z, i) => (
          <div key={z.colour} className="flex items-center gap-2 border-b border-rule/60 py-[3px]">
            <input
              type="checkbox"
              className="accent-moss"
              aria-label={`Use ${z.colour}`}
              checked={!off.has(z.colour)}
              onChange={() =>
                setOff((o) => {
                  const n = new Set(o);
                  if (n.has(z.colour)) n.delete(z.colour);
                  else n.add(z.colour);
                  return n;
                })
              }
            />
            <i className="h-[20px] w-[30px] border border-ink" style={{ background: z.colour }} />
            <span className="w-[52px] text-right">{shown(z.share * 100)} %</span>
            <input
              className="text grow"
              placeholder={`Zone ${i + 1}`}
              aria-label={`Name of ${z.colour}`}
              value={names[z.colour] ?? ""}
              maxLength={80}
              onChange={(e) => setNames({ ...names, [z.colour]: e.target.value })}
            />
          </div>
        ))}
      </div>
      <div className="mt-3 flex justify-end gap-2">
        <button className="btn" onClick={() => set({ dialog: null })}>
          Leave
        </button>
        <button
          className="btn do"
          data-make-zones
          disabled={!list.length || off.size >= list.length}
          onClick={make}
        >
          Make {list.length - off.size} masks
        </button>
      </div>
    </SheetBox>
  );
}
