/**
 * Planting in the key: the season, a sowing's mix and amount, ready mixes, faults, pieces placed by
 * hand.
 */
import { Trash2 } from "lucide-react";
import { useEffect, useState } from "react";
import { action } from "../actions/actions";
import { ask, saveFile, Trouble, type KeptMix, type Scene, type ToneAnswer } from "../api/client";
import { drag, edit, engine, freshId, get, set, tell, usePage } from "../state";
import { heightAt } from "../view/products";
import { MaskBrush } from "./hand";
import { AddMenu } from "./menu";
import { Num } from "./num";
import {
  at,
  complete,
  Drawer,
  Fold,
  modelOf,
  put,
  Range,
  Settings,
  shown,
  type Path,
} from "./settings";
import { SheetBox } from "./sheetbox";
import { Where } from "./where";

const SEASONS = ["spring", "summer", "autumn", "winter", "snow"] as const;

export function SeasonLine() {
  const season = usePage((s) => s.doc!.season ?? "summer");
  return (
    <div
      className="mb-1 flex items-center justify-between"
      title="Leaves, flowers and snow on all that is of the season; each kind of a mix may have a look of its own"
    >
      <span>Season</span>
      <span className="flex">
        {SEASONS.map((k) => (
          <button
            key={k}
            className={`btn -ml-px px-[5px]! ${season === k ? "on" : ""}`}
            data-season={k}
            aria-pressed={season === k}
            onClick={() =>
              void edit(`Season: ${k}`, (d) => {
                d.season = k;
              })
            }
          >
            {k}
          </button>
        ))}
      </span>
    </div>
  );
}

/** The amount in each of the ways that people say it, and what stands beside what was wished. */
function Amount({ path, entry }: { path: Path; entry: any }) {
  const line = usePage((s) => s.manifest?.sown.find((x) => x.id === entry.id));
  const plot = usePage((s) => s.doc!.plot);
  const area = plot.width_m * plot.depth_m;
  const free = entry.layout === "natural" || entry.layout === "clumped";
  const keep = (v: number) =>
    void edit(`${entry.name}: density`, (d) => {
      put(d, [...path, "density"], Math.min(100000, +v.toPrecision(6)));
      put(d, [...path, "number"], 0);
    });
  const less = line && line.wished > 0 ? line.count / line.wished : null;
  return (
    <div data-amount>
      {free && !entry.number && (
        <>
          <Range
            label="Density"
            value={entry.density}
            unit="per 100 m²"
            min={0}
            max={100000}
            low={0.01}
            high={2000}
            log
            onDrag={(v) => drag((d) => put(d, [...path, "density"], v))}
            onKeep={keep}
          />
          <div className="flex flex-wrap justify-between gap-x-2 text-[12px]">
            <Num
              label="Per square metre"
              value={entry.density / 100}
              unit="per m²"
              onKeep={(v) => keep(v * 100)}
            />
            <Num
              label="Per hectare"
              value={entry.density * 100}
              unit="per ha"
              onKeep={(v) => keep(v / 100)}
            />
            <Num
              label="On the whole plot"
              value={Math.round((entry.density * area) / 100)}
              unit="on the plot"
              onKeep={(v) => keep((v * 100) / area)}
            />
          </div>
        </>
      )}
      {line && (
        <div className="text-[11.5px] text-soft" data-stand>
          <b className="text-ink">{line.count.toLocaleString("en")}</b> stand
          {less !== null && less < 0.995
            ? ` of ${line.wished.toLocaleString("en")}: ${line.capped ? `its least distances leave room for ${shown(line.room ?? 0)} per 100 m² at most; ` : ""}its rules, clearings and neighbours leave ${shown(less * 100)} %`
            : ""}
        </div>
      )}
    </div>
  );
}

export function Mix({ path, entry }: { path: Path; entry: any }) {
  const total = entry.mix.reduce((a: number, p: any) => a + p.share, 0) || 1;
  const cabinet = usePage((s) => s.cabinet)!;
  const line = usePage((s) => s.manifest?.sown.find((x) => x.id === entry.id));
  const schema = usePage((s) => s.schema);
  const painting = usePage((s) => s.chosen === `sown-${entry.id}`);
  const [sought, setSought] = useState("");
  const found = (p: any) => among(p, sought);
  const add = (k: string) =>
    void edit(`${entry.name}: ${k} added`, (d) =>
      at(d, path).mix.push(
        complete(schema, modelOf(schema, "mix"), {
          kind: k,
          share: Math.round(total / entry.mix.length) || 10,
        }),
      ),
    );
  return (
    <div data-mix>
      <Amount path={path} entry={entry} />
      <div className="mt-1 flex flex-wrap items-center gap-1">
        <button
          className={`btn ${painting ? "on" : ""}`}
          aria-pressed={painting}
          data-brush-on
          title="Brush it on the ground; what is painted stays, and may be given another density or another mix"
          onClick={() => (painting ? set({ chosen: entry.id, tool: null }) : brushOn(entry, path))}
        >
          {painting ? "Done with the brush" : "Brush it on"}
        </button>
        {painting && (
          <span className="text-[11.5px] text-soft">
            paint on face or map; rub out with the other brush
          </span>
        )}
      </div>
      {painting && <MaskBrush />}
      {entry.mix.length > 1 && (
        <Chosen
          path={path}
          entry={entry}
          counts={line?.counts ?? []}
          sought={sought}
          onSeek={setSought}
        />
      )}
      {entry.mix.map((p: any, i: number) => {
        if (!found(p)) return null;
        const wears = (p.look && p.look !== "season" ? p.look : "") as string;
        const own = [...path, "mix", i];
        const label = cabinet.kinds.find((k) => k.name === p.kind)?.label ?? p.kind;
        return (
          <div key={i} className="mt-1 border-t border-rule/60 pt-[2px]" data-part={p.kind}>
            <div className="flex items-center gap-2">
              <div className="grow">
                <Drawer
                  drawer="kind"
                  value={p.kind}
                  label="Kind"
                  onKeep={(v) =>
                    void edit(`${entry.name}: kind`, (d) => put(d, [...own, "kind"], v))
                  }
                />
              </div>
              {entry.mix.length > 1 && (
                <button
                  className="icon"
                  aria-label={`Remove ${p.kind}`}
                  onClick={() =>
                    void edit(`${entry.name}: one kind less`, (d) => at(d, path).mix.splice(i, 1))
                  }
                >
                  <Trash2 size={13} />
                </button>
              )}
            </div>
            <Lacking path={`${own.join(".")}.kind`} />
            {entry.mix.length > 1 && (
              <Range
                label={`Parts · ${(line?.counts[i] ?? Math.round(((line?.count ?? 0) * p.share) / total)).toLocaleString("en")} of ${(line?.count ?? 0).toLocaleString("en")}`}
                value={p.share}
                unit={`of ${shown(total)}`}
                min={0}
                max={100}
                low={0}
                high={100}
                log={false}
                step={1}
                onDrag={(v) => drag((d) => put(d, [...own, "share"], v))}
                onKeep={(v) =>
                  void edit(`${entry.name}: share`, (d) => put(d, [...own, "share"], v))
                }
              />
            )}
            <Fold
              title={`${label} in this mix`}
              note={
                [
                  p.size !== 100 ? `${shown(p.size)} %` : "",
                  p.apart_m ? `${shown(p.apart_m)} m apart` : "",
                  wears,
                  p.where?.length ? `${p.where.length} rule${p.where.length > 1 ? "s" : ""}` : "",
                ]
                  .filter(Boolean)
                  .join(", ") || "as the sowing"
              }
            >
              <Settings
                path={own}
                model={modelOf(schema, "mix")}
                owner={`${entry.name}: ${label}`}
                skip={["share"]}
              />
              <Where path={own} stage="planting" owner={`${entry.name}: ${label}`} />
            </Fold>
          </div>
        );
      })}
      <div className="mt-1">
        <AddMenu
          label="kind to the mix"
          items={cabinet.kinds
            .filter((k) => k.family !== "figure")
            .map((k) => ({ key: k.name, label: k.label, note: k.family }))}
          onPick={add}
        />
      </div>
    </div>
  );
}

/** What the last build missed at a place of the document. */
function Lacking({ path }: { path: string }) {
  const message = usePage((s) => s.manifest?.lacking.find((l) => l.path === path)?.message);
  return message ? (
    <p className="text-[12px] text-rust" data-lacking>
      {message}
    </p>
  ) : null;
}

/** Whether a part of a mix is meant by what is sought: by name, family or tag of its kind. */
function among(p: { kind: string }, sought: string): boolean {
  const k = get().cabinet?.kinds.find((x) => x.name === p.kind);
  const text = `${k?.label ?? ""} ${p.kind} ${k?.family ?? ""} ${k?.tags ?? ""}`.toLowerCase();
  return sought
    .toLowerCase()
    .split(/\s+/)
    .every((w) => text.includes(w));
}

/**
 * Some kinds of a mix, found by a word: their number beside the total, and their amount and size
 * changed together; the others keep theirs.
 */
function Chosen({
  path,
  entry,
  counts,
  sought,
  onSeek,
}: {
  path: Path;
  entry: any;
  counts: number[];
  sought: string;
  onSeek: (v: string) => void;
}) {
  const mine = entry.mix.map((p: any) => among(p, sought)) as boolean[];
  const stand = counts.reduce((a, n, i) => a + (mine[i] ? n : 0), 0);
  const all = counts.reduce((a, n) => a + n, 0);
  const some = sought.trim() !== "" && mine.some(Boolean);
  const amount = (want: number) => {
    const f = stand ? want / stand : 1;
    const was = entry.mix.reduce((a: number, p: any) => a + p.share, 0);
    const shares = entry.mix.map((p: any, i: number) =>
      mine[i] ? p.share * f : p.share,
    ) as number[];
    const now = shares.reduce((a, b) => a + b, 0);
    const fit = Math.min(1, 100 / Math.max(...shares, 1e-9));
    if (now > 0)
      void edit(
        `${entry.name}: ${sought.trim()}, ${Math.round(want).toLocaleString("en")}`,
        (d) => {
          const s = at(d, path);
          s.mix.forEach((p: any, i: number) => {
            p.share = +(shares[i] * fit).toPrecision(6);
          });
          s.density = Math.min(100000, +((s.density * now) / was).toPrecision(6));
          if (s.number) s.number = Math.round((s.number * now) / was);
        },
      );
  };
  return (
    <div className="mt-1 border-t border-rule/60 pt-1" data-chosen-kinds={some ? stand : ""}>
      <input
        className="text w-full"
        aria-label="Find kinds of the mix"
        placeholder="find some of these kinds: flower, white, stone…"
        value={sought}
        onChange={(e) => onSeek(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Escape") onSeek("");
          e.stopPropagation();
        }}
      />
      {some && (
        <div className="flex flex-wrap items-baseline justify-between gap-x-2 text-[12px]">
          <span>
            <b>{stand.toLocaleString("en")}</b> of {all.toLocaleString("en")} are these
          </span>
          <span>
            make them{" "}
            <Num label="Number of the chosen kinds" value={stand} unit="" onKeep={amount} />
          </span>
          <span>
            size{" "}
            <Num
              label="Size of the chosen kinds"
              value={100}
              unit="% of now"
              onKeep={(v) =>
                void edit(`${entry.name}: ${sought.trim()}, size`, (d) =>
                  at(d, path).mix.forEach((p: any, i: number) => {
                    if (mine[i])
                      p.size = Math.min(2000, Math.max(1, +((p.size * v) / 100).toPrecision(5)));
                  }),
                )
              }
            />
          </span>
        </div>
      )}
    </div>
  );
}

/** A painted mask of the sowing's own is made, if there is none, and taken in hand. */
function brushOn(entry: any, path: Path) {
  const { schema, doc } = get();
  const id = `sown-${entry.id}`;
  if (!doc!.marks.some((m) => m.id === id))
    void edit(`${entry.name}: brushed on`, (d) => {
      d.marks.push(
        complete(schema, schema.scene.$defs.Mask, {
          id,
          name: `${entry.name}, painted`.slice(0, 80),
          kind: "mask",
          on: true,
        }),
      );
      at(d, path).where.push(
        complete(schema, modelOf(schema, "where", "mask"), { kind: "mask", mark: id }),
      );
    });
  set({ chosen: id, tool: "brush", open: "planting" });
}

/** The same stance for several sowings at once. */
export function StanceFor({ index }: { index: number }) {
  const planting = usePage((s) => s.doc!.planting);
  const [ticked, setTicked] = useState<Set<string>>(new Set());
  const own = planting[index];
  if (planting.length < 2 || !own) return null;
  const flip = (id: string) =>
    setTicked((t) => {
      const n = new Set(t);
      if (n.has(id)) n.delete(id);
      else n.add(id);
      return n;
    });
  return (
    <div className="mt-1 border-t border-rule/70 pt-1" data-stance-for>
      <span className="text-soft">The same stance for</span>
      <div className="grid grid-cols-2">
        {planting
          .filter((s) => s.id !== own.id)
          .map((s) => (
            <label key={s.id} className="flex items-center gap-1 truncate">
              <input
                type="checkbox"
                className="accent-moss"
                checked={ticked.has(s.id)}
                onChange={() => flip(s.id)}
              />
              {s.name}
            </label>
          ))}
      </div>
      <button
        className="btn mt-1"
        data-give-stance
        disabled={!ticked.size}
        onClick={() =>
          void edit(`Stance of ${own.name} for ${ticked.size} more`, (d) => {
            for (const s of d.planting)
              if (ticked.has(s.id)) s.stance = structuredClone(d.planting[index].stance);
          })
        }
      >
        Give it to {ticked.size || "them"}
      </button>
    </div>
  );
}

/** A sowing's colour beside another's, or beside the ground under it, and pulled towards it. */
export function Tones({ index, entry }: { index: number; entry: any }) {
  const planting = usePage((s) => s.doc!.planting);
  const revision = usePage((s) => s.state?.revision);
  const [towards, setTowards] = useState("ground");
  const [amount, setAmount] = useState(60);
  const [found, setFound] = useState<ToneAnswer | null>(null);
  const [open, setOpen] = useState(false);
  useEffect(() => {
    if (!open) return;
    const halt = new AbortController();
    ask<ToneAnswer>(
      "POST",
      `/api/scenes/${get().id}/tones`,
      { document: get().doc, sowing: entry.id, towards, amount },
      {},
      halt.signal,
    )
      .then(setFound)
      .catch((e) => {
        if (!halt.signal.aborted) {
          setFound(null);
          tell(e);
        }
      });
    return () => halt.abort();
  }, [open, towards, amount, revision]);
  const swatch = (c: string | undefined, label: string) => (
    <span className="flex-1 text-center text-[11.5px] text-soft">
      <i
        className="block h-[22px] border border-ink"
        style={{ background: c ?? "#ddd" }}
        title={c}
      />
      {label}
    </span>
  );
  const others = planting.filter((s) => s.id !== entry.id);
  return (
    <div className="mt-1 border-t border-rule/70 pt-[2px]" data-tones>
      <button
        className="flex w-full justify-between text-left font-semibold"
        aria-expanded={open}
        onClick={() => setOpen(!open)}
      >
        Colour<span className="font-normal text-soft">{open ? "fold" : "beside others"}</span>
      </button>
      {open && (
        <>
          <label className="mt-1 flex items-center justify-between">
            Towards
            <select
              className="text max-w-[180px]"
              aria-label="Colour towards"
              value={towards}
              onChange={(e) => setTowards(e.target.value)}
            >
              <option value="ground">the ground under it</option>
              {others.map((s) => (
                <option key={s.id} value={s.id}>
                  {s.name}
                </option>
              ))}
            </select>
          </label>
          <div className="mt-1 flex gap-[2px]">
            {swatch(found?.own, "now")}
            {swatch(found?.pulled, "pulled")}
            {swatch(found?.other, "the other")}
          </div>
          <Range
            label="By"
            value={amount}
            unit="%"
            min={0}
            max={100}
            low={0}
            high={100}
            log={false}
            step={1}
            onDrag={setAmount}
            onKeep={setAmount}
          />
          <div className="mt-1 flex gap-1">
            <button
              className="btn"
              data-pull-tone
              disabled={!found}
              onClick={() =>
                found &&
                void edit(`${entry.name}: colour pulled`, (d) => {
                  for (const p of found.parts) {
                    d.planting[index].mix[p.index].tint = p.tint;
                    d.planting[index].mix[p.index].bright = p.bright;
                  }
                })
              }
            >
              Pull the colour
            </button>
            {entry.mix.some((p: any) => p.tint !== "#ffffff" || p.bright !== 100) && (
              <button
                className="btn"
                onClick={() =>
                  void edit(`${entry.name}: own colours`, (d) => {
                    for (const p of d.planting[index].mix) {
                      p.tint = "#ffffff";
                      p.bright = 100;
                    }
                  })
                }
              >
                Its own colours
              </button>
            )}
          </div>
        </>
      )}
    </div>
  );
}

interface Ready {
  name: string;
  label: string;
  help: string;
}
interface Mixed {
  sowings: any[];
  marks: any[];
  told: string[];
  plants: number[];
}

/** Ready mixes, each with its kinds and the number that it brings to this land. */
export function Mixes() {
  const doc = usePage((s) => s.doc)!;
  const id = usePage((s) => s.id);
  const [list, setList] = useState<Ready[]>([]);
  const [made, setMade] = useState<Record<string, Mixed>>({});
  const [kept, setKept] = useState<KeptMix[]>([]);
  useEffect(() => {
    ask<KeptMix[]>("GET", "/api/kept-mixes").then(setKept).catch(tell);
  }, []);
  useEffect(() => {
    const halt = new AbortController();
    void (async () => {
      try {
        const all = await ask<Ready[]>("GET", "/api/mixes");
        setList(all);
        for (const m of all) {
          const answer = await ask<Mixed>(
            "POST",
            `/api/scenes/${id}/mixes/${m.name}`,
            { document: doc },
            {},
            halt.signal,
          );
          if (halt.signal.aborted) return;
          setMade((now) => ({ ...now, [m.name]: answer }));
        }
      } catch (e) {
        if (!halt.signal.aborted) {
          tell(e);
          if (e instanceof Trouble) set({ dialog: null });
        }
      }
    })();
    return () => halt.abort();
  }, []);
  const take = (label: string, m: Mixed) => {
    set({ dialog: null, open: "planting" });
    const fresh = Date.now().toString(36);
    const rename = (v: string) => `${v}-${fresh}`;
    const ids = new Set([...m.sowings, ...m.marks].map((x) => x.id));
    const own = JSON.parse(
      JSON.stringify({ s: m.sowings, k: m.marks }, (_k, v) =>
        typeof v === "string" && ids.has(v) ? rename(v) : v,
      ),
    ) as { s: any[]; k: any[] };
    void edit(`Planting: ${label}`, (d) => adopt(d, own.s, own.k));
  };
  const sowable = (file: File) =>
    void file
      .text()
      .then((text) => {
        const data = JSON.parse(text) as {
          format?: string;
          name?: string;
          sowings?: any[];
          marks?: any[];
        };
        if (data.format !== "sow-mix-1" || !Array.isArray(data.sowings)) throw new Error("x");
        take(data.name ?? file.name, {
          sowings: data.sowings,
          marks: data.marks ?? [],
          told: [],
          plants: [],
        });
      })
      .catch(() =>
        tell(
          new Trouble(
            {
              type: "about:blank",
              title: "Not a planting mix",
              status: 422,
              detail: `“${file.name}” is not a planting mix.`,
              advice: "Give a file that “Save as a mix” wrote; nothing was changed.",
              path: "",
            },
            false,
          ),
        ),
      );
  return (
    <SheetBox title="Planting mixes for this land" wide={900}>
      <div className="mb-2 flex items-center justify-between gap-3">
        <span className="text-soft">
          Their bands come from this land's own slopes, heights and wetness. Taking one adds its
          sowings as a group; each may be changed afterwards.
        </span>
        <label className="btn cursor-pointer whitespace-nowrap">
          From a file…
          <input
            type="file"
            accept=".json"
            className="hidden"
            aria-label="Planting mix from a file"
            onChange={(e) => {
              const f = e.target.files?.[0];
              if (f) sowable(f);
              e.target.value = "";
            }}
          />
        </label>
      </div>
      {kept.length > 0 && (
        <div className="mb-2 flex flex-wrap gap-1" data-kept-mixes={kept.length}>
          {kept.map((m) => (
            <span
              key={m.drawer + m.id}
              className="inline-flex items-center border border-rule bg-[#fffdf7]"
            >
              <button
                className="px-2 py-[2px] hover:bg-paper2"
                data-kept-mix={m.name}
                onClick={() =>
                  take(m.name, { sowings: m.sowings, marks: m.marks, told: [], plants: [] })
                }
              >
                <b>{m.name}</b>{" "}
                <span className="text-soft">
                  {m.drawer} drawer, {m.sowings.length} sowing{m.sowings.length > 1 ? "s" : ""}
                </span>
              </button>
              <button
                className="icon"
                aria-label={`Take ${m.name} out of the ${m.drawer} drawer`}
                onClick={() =>
                  void ask("DELETE", `/api/kept-mixes/${m.drawer}/${m.id}`)
                    .then(() => setKept((k) => k.filter((x) => x !== m)))
                    .catch(tell)
                }
              >
                <Trash2 size={12} />
              </button>
            </span>
          ))}
        </div>
      )}
      <div className="grid grid-cols-3 gap-2" data-mixes={Object.keys(made).length}>
        {list.map((m) => {
          const a = made[m.name];
          const kinds = [
            ...new Set((a?.sowings ?? []).flatMap((s) => s.mix.map((p: any) => p.kind as string))),
          ].slice(0, 7);
          return (
            <button
              key={m.name}
              className="block border border-rule p-2 text-left hover:bg-paper2"
              data-take-mix={m.name}
              disabled={!a}
              onClick={() => a && take(m.label, a)}
            >
              <div className="mb-1 flex h-[58px] items-end gap-1 bg-[#e6dfce] px-1">
                {kinds.map((k) => (
                  <img
                    key={k}
                    src={`/api/cabinet/kinds/${k}.png`}
                    alt=""
                    className="max-h-[54px] min-w-0 flex-1 object-contain object-bottom"
                  />
                ))}
              </div>
              <b className="font-show">{m.label}</b> <span className="text-soft">{m.help}</span>
              <span className="block truncate text-[11.5px] text-soft" title={a?.told.join("; ")}>
                {a
                  ? `${a.plants.reduce((x, y) => x + y, 0).toLocaleString("en")} plants${a.told.length ? `; ${a.told[0]}` : ""}`
                  : "measuring…"}
              </span>
            </button>
          );
        })}
      </div>
    </SheetBox>
  );
}

/** Sowings and marks from elsewhere, with all that the schema asks. */
function adopt(d: Scene, sowings: any[], marks: any[]) {
  const { schema } = get();
  const defs = schema.scene.$defs;
  for (const k of marks)
    d.marks.push(
      complete(schema, defs[k.kind === "area" ? "Area" : k.kind === "line" ? "Line" : "Mask"], {
        on: true,
        ...k,
      }),
    );
  for (const s of sowings)
    d.planting.push(complete(schema, defs.Sowing, { on: true, ...s }) as never);
}

/** Saves the sowings of a group, or one sowing, into a drawer or as a file. */
export function SaveMix({ entry }: { entry: any }) {
  const name = entry.group || entry.name;
  const gathered = () => {
    const d = get().doc!;
    const mine = d.planting.filter((s) =>
      entry.group ? s.group === entry.group : s.id === entry.id,
    );
    const named = new Set(
      JSON.stringify(mine)
        .match(/"(?:mark|line)":"([^"]+)"/g)
        ?.map((x) => x.split('"')[3]) ?? [],
    );
    return {
      name,
      sowings: mine,
      marks: d.marks.filter((m) => named.has(m.id) && m.kind !== "mask"),
    };
  };
  const save = () =>
    saveFile(
      new Blob([JSON.stringify({ format: "sow-mix-1", ...gathered() }, null, 1)], {
        type: "application/json",
      }),
      `${name.toLowerCase().replace(/[^a-z0-9]+/g, "-")}.mix.json`,
    );
  const into = (drawer: "own" | "shared") =>
    void ask("POST", "/api/kept-mixes", { ...gathered(), drawer })
      .then(() =>
        set({
          told: `“${name}” lies in the ${drawer} drawer; it is found among the planting mixes (X).`,
        }),
      )
      .catch(tell);
  return (
    <div className="mt-1 flex flex-wrap items-center gap-1 border-t border-rule/70 pt-1">
      <span className="text-soft">{entry.group ? `“${entry.group}”` : "It"} as a mix</span>
      <button className="btn" data-keep-mix onClick={() => into("own")}>
        own drawer
      </button>
      <button
        className="btn"
        data-share-mix
        title="A folder that a team may share"
        onClick={() => into("shared")}
      >
        shared drawer
      </button>
      <button className="btn" data-save-mix onClick={save}>
        file
      </button>
    </div>
  );
}

interface Fault {
  what: "floats" | "deep" | "cross" | "twin";
  id: string;
  name: string;
  east: number;
  north: number;
  told: string;
  mend_cm: number | null;
}
const WORDS: Record<Fault["what"], string> = {
  floats: "float",
  deep: "sink too deep",
  cross: "stand in one another",
  twin: "are alike side by side in a shot",
};

export function Faults() {
  const id = usePage((s) => s.id);
  const revision = usePage((s) => s.state?.revision);
  const [found, setFound] = useState<{ faults: Fault[]; count: Record<string, number> } | null>(
    null,
  );
  useEffect(() => {
    const halt = new AbortController();
    setFound(null);
    ask<{ faults: Fault[]; count: Record<string, number> }>(
      "POST",
      `/api/scenes/${id}/faults`,
      { document: get().doc },
      {},
      halt.signal,
    )
      .then(setFound)
      .catch((e) => {
        if (!halt.signal.aborted) tell(e);
      });
    return () => halt.abort();
  }, [revision]);
  const go = (f: Fault) => {
    const v = engine.view!;
    const field = v.products!.field;
    const b = (v.pose.bearing * Math.PI) / 180;
    const back = 8;
    const east = f.east - Math.sin(b) * back;
    const north = f.north - Math.cos(b) * back;
    const up = heightAt(field, east, north) + 2.2;
    v.pose = {
      ...v.pose,
      east,
      north,
      up,
      tilt: (Math.atan2(heightAt(field, f.east, f.north) + 0.5 - up, back) * 180) / Math.PI,
    };
    v.changed(true);
    set({ pose: v.pose, chosen: f.id, open: "planting", dialog: null });
  };
  const mendable = found?.faults.filter((f) => f.mend_cm !== null) ?? [];
  const sinking = [
    ...new Set(
      found?.faults.filter((f) => f.what === "floats" && f.mend_cm === null).map((f) => f.id) ?? [],
    ),
  ];
  const mendAll = () =>
    void edit("Faults mended", (d) => {
      const reseed = new Set<string>();
      for (const f of mendable) {
        const p = d.pieces.find((x) => x.id === f.id);
        if (p) p.sink_cm = f.mend_cm!;
      }
      for (const s of d.planting)
        if (sinking.includes(s.id) && s.stance) {
          s.stance.settle = Math.min(
            200,
            Math.max(100, (s.stance.settle ?? 100) * (s.stance.settle! >= 100 ? 1.3 : 1)),
          );
          s.stance.sink_cm = +((s.stance.sink_cm ?? 0) * 1.3 + 2).toFixed(1);
        }
      for (const f of found?.faults ?? [])
        if (f.what === "twin") {
          const s = d.planting.find((x) => x.id === f.id);
          if (s) reseed.add(s.id);
        }
      for (const s of d.planting) if (reseed.has(s.id)) s.seed = ((s.seed ?? 1) + 101) % 2147483647;
    });
  return (
    <SheetBox title="Faults in the planting" wide={520}>
      {!found ? (
        <p className="text-soft">Looking at every foot…</p>
      ) : (
        <>
          <p className="mb-2" data-faults={Object.values(found.count).reduce((a, b) => a + b, 0)}>
            {Object.entries(found.count).some(([, n]) => n)
              ? Object.entries(found.count)
                  .filter(([, n]) => n)
                  .map(([k, n]) => `${n.toLocaleString("en")} ${WORDS[k as Fault["what"]]}`)
                  .join("; ") + "."
              : "None: nothing floats, sinks too deep, stands in another, or repeats side by side in a shot."}
          </p>
          <div className="max-h-[330px] overflow-y-auto">
            {found.faults.slice(0, 120).map((f, i) => (
              <button
                key={i}
                className="flex w-full justify-between gap-3 border-t border-rule/60 py-[2px] text-left hover:bg-paper2"
                onClick={() => go(f)}
                title="Go there"
              >
                <span>
                  <b>{f.name}</b> {f.told}
                </span>
                <span className="whitespace-nowrap text-soft">
                  E {Math.round(f.east)} N {Math.round(f.north)}
                </span>
              </button>
            ))}
          </div>
          <div className="mt-3 flex justify-end gap-2">
            <button className="btn" onClick={() => set({ dialog: null })}>
              Leave
            </button>
            {(mendable.length > 0 || sinking.length > 0 || found.count.twin > 0) && (
              <button className="btn do" data-mend onClick={mendAll}>
                Mend what can be mended
              </button>
            )}
          </div>
        </>
      )}
    </SheetBox>
  );
}

export function Pieces() {
  const pieces = usePage((s) => s.doc!.pieces);
  const chosen = usePage((s) => s.chosen);
  const tool = usePage((s) => s.tool);
  const placing = usePage((s) => s.placing);
  const several = usePage((s) => s.several);
  const schema = usePage((s) => s.schema);
  const cabinet = usePage((s) => s.cabinet)!;
  const [open, setOpen] = useState(false);
  const index = pieces.findIndex((p) => p.id === chosen);
  const label = (k: string) => cabinet.kinds.find((x) => x.name === k)?.label ?? k;
  const pick = (id: string, more: boolean) => {
    if (!more) {
      set({ chosen: id === chosen ? null : id, several: new Set() });
      return;
    }
    const now = new Set(several);
    if (!now.size && index >= 0) now.add(pieces[index].id);
    if (now.has(id)) now.delete(id);
    else now.add(id);
    set({ several: now, chosen: null });
    setOpen(true);
  };
  return (
    <div className="mt-2 border-t border-rule pt-1">
      <div className="flex items-center justify-between gap-1">
        <button className="font-semibold" aria-expanded={open} onClick={() => setOpen(!open)}>
          {open ? "▾" : "▸"} Placed by hand{" "}
          <span className="font-normal text-soft">{pieces.length}</span>
        </button>
        <span className="flex gap-1">
          <AddMenu
            label="piece"
            items={[...cabinet.kinds]
              .sort((a, b) => order(a.family) - order(b.family))
              .map((k) => ({ key: k.name, label: k.label, note: k.family }))}
            onPick={(k) => set({ tool: "figure", placing: k })}
          />
          <button
            className={`btn ${tool === "figure" && placing === "person" ? "on" : ""}`}
            onClick={() => {
              set({ placing: "person" });
              action("figure").run();
            }}
          >
            Stand a person
          </button>
        </span>
      </div>
      {tool === "figure" && (
        <p className="text-moss" data-placing={placing}>
          Click the ground where{" "}
          {placing === "person" ? "the person" : `the ${label(placing).toLowerCase()}`} is to stand.
        </p>
      )}
      {several.size > 0 && <Together />}
      {open && pieces.length > 1 && !several.size && (
        <p className="text-[11.5px] text-soft">Shift and click takes several together.</p>
      )}
      {(open || index >= 0) &&
        pieces.map(
          (p, i) =>
            (open || i === index) && (
              <div
                key={p.id}
                data-entry={p.id}
                className={
                  p.id === chosen
                    ? "my-[3px] border-l-[3px] border-gold bg-paper2 px-2 py-1"
                    : several.has(p.id)
                      ? "border-l-[3px] border-gold py-[1px] pl-2"
                      : "py-[1px]"
                }
              >
                <button
                  className="flex w-full justify-between text-left"
                  aria-expanded={p.id === chosen}
                  aria-pressed={several.has(p.id)}
                  onClick={(e) => pick(p.id, e.shiftKey)}
                >
                  <span>
                    {p.name}
                    {p.group ? <small className="text-soft"> {p.group}</small> : ""}
                  </span>
                  <small className="text-soft">
                    E {Math.round(p.east_m!)} N {Math.round(p.north_m!)}
                  </small>
                </button>
                <Lacking path={`pieces.${i}.kind`} />
                {p.id === chosen && <PieceTools index={i} entry={p} />}
                {p.id === chosen && (
                  <Settings path={["pieces", i]} model={schema.scene.$defs.Piece} owner={p.name} />
                )}
              </div>
            ),
        )}
    </div>
  );
}

/**
 * Several pieces at once: moved, turned about their middle, sized, sunk, mirrored, swapped,
 * grouped, copied, removed.
 */
function Together() {
  const several = usePage((s) => s.several);
  const every = usePage((s) => s.doc!.pieces);
  const pieces = every.filter((p) => several.has(p.id));
  const [by, setBy] = useState({ east: 0, north: 0, turn: 0, size: 100, sink: 0 });
  const [group, setGroup] = useState("");
  const all = (label: string, change: (p: any) => void) =>
    void edit(`${pieces.length} pieces: ${label}`, (d) => {
      for (const p of d.pieces) if (several.has(p.id)) change(p);
    });
  const ce = pieces.reduce((a, p) => a + p.east_m!, 0) / (pieces.length || 1);
  const cn = pieces.reduce((a, p) => a + p.north_m!, 0) / (pieces.length || 1);
  const wrap = (v: number) => +(((v % 360) + 360) % 360).toFixed(2);
  const round = (v: number) => +v.toFixed(3);
  const apply = () =>
    all("moved", (p) => {
      const a = (by.turn * Math.PI) / 180;
      const x = p.east_m - ce;
      const y = p.north_m - cn;
      p.east_m = round(ce + x * Math.cos(a) + y * Math.sin(a) + by.east);
      p.north_m = round(cn - x * Math.sin(a) + y * Math.cos(a) + by.north);
      p.turn = wrap(p.turn + by.turn);
      p.size = Math.min(5000, Math.max(1, +((p.size * by.size) / 100).toFixed(2)));
      p.sink_cm = round(p.sink_cm + by.sink);
    });
  const copy = (mirror: boolean) =>
    void edit(`${pieces.length} pieces: ${mirror ? "mirrored" : "copied"}`, (d) => {
      const wide = Math.max(2, ...pieces.map((p) => Math.abs(p.east_m! - ce) * 2)) + 2;
      for (const p of pieces)
        d.pieces.push({
          ...structuredClone(p),
          id: freshId("piece"),
          name: `${p.name!.slice(0, 70)} 2`,
          east_m: round(mirror ? 2 * (ce + wide / 2) - p.east_m! : p.east_m! + wide),
          mirrored: mirror ? !p.mirrored : p.mirrored,
          turn: mirror ? wrap(-p.turn!) : p.turn,
        } as never);
    });
  const num = (k: keyof typeof by, label: string, unit: string) => (
    <span className="flex items-baseline justify-between">
      <span>{label}</span>
      <Num
        label={`${label} together`}
        value={by[k]}
        unit={unit}
        signed
        onKeep={(v) => setBy({ ...by, [k]: v })}
      />
    </span>
  );
  return (
    <div
      className="my-1 border-l-[3px] border-gold bg-paper2 px-2 py-1"
      data-together={pieces.length}
    >
      <div className="flex justify-between">
        <b>{pieces.length} together</b>
        <button className="text-soft underline" onClick={() => set({ several: new Set() })}>
          let go
        </button>
      </div>
      <div className="grid grid-cols-2 gap-x-4">
        {num("east", "East", "m")}
        {num("north", "North", "m")}
        {num("turn", "Turn", "°")}
        {num("size", "Size", "%")}
        {num("sink", "Sink", "cm")}
      </div>
      <div className="mt-1 flex flex-wrap gap-1">
        <button className="btn do" data-move-together onClick={apply}>
          Do it
        </button>
        <button
          className="btn"
          onClick={() =>
            all("turned at random", (p) => {
              p.turn = +(Math.random() * 360).toFixed(1);
            })
          }
        >
          Turn at random
        </button>
        <button
          className="btn"
          onClick={() =>
            all("on the ground", (p) => {
              p.stands = "ground";
              p.sink_cm = Math.max(0, p.sink_cm);
            })
          }
        >
          Drop to the ground
        </button>
        <button className="btn" onClick={() => copy(false)}>
          Copy
        </button>
        <button className="btn" data-mirror-together onClick={() => copy(true)}>
          Mirror beside
        </button>
        <button
          className="btn"
          onClick={() => {
            void edit(`${pieces.length} pieces removed`, (d) => {
              d.pieces = d.pieces.filter((p) => !several.has(p.id)) as never;
            });
            set({ several: new Set() });
          }}
        >
          Remove
        </button>
      </div>
      <div className="mt-1 flex items-center gap-1">
        <input
          className="text min-w-0 grow"
          placeholder="group"
          aria-label="Group of the pieces"
          value={group}
          maxLength={40}
          onChange={(e) => setGroup(e.target.value)}
          onKeyDown={(e) => e.stopPropagation()}
        />
        <button
          className="btn"
          onClick={() =>
            all(group ? `in “${group}”` : "in no group", (p) => {
              p.group = group.trim();
            })
          }
        >
          Put into the group
        </button>
      </div>
      <Drawer
        drawer="kind"
        value={pieces.every((p) => p.kind === pieces[0]?.kind) ? (pieces[0]?.kind ?? "") : ""}
        label="Another kind for all"
        onKeep={(v) =>
          all(`${v} instead`, (p) => {
            p.kind = v;
          })
        }
      />
    </div>
  );
}
const order = (family: string) =>
  [
    "thing",
    "figure",
    "wood",
    "stone",
    "climber",
    "tree",
    "shrub",
    "fern",
    "flower",
    "grass",
  ].indexOf(family);

/** Copies of one piece: beside it, in a row, in a ring. */
function PieceTools({ index, entry }: { index: number; entry: any }) {
  const [count, setCount] = useState(5);
  const facts = usePage((s) => s.cabinet!.kinds.find((k) => k.name === entry.kind));
  const wide = facts ? 2 * facts.reach_m * (entry.size / 100) : 2;
  const [step, setStep] = useState(+wide.toFixed(2));
  const [radius, setRadius] = useState(6);
  const copies = (name: string, places: { east: number; north: number; turn: number }[]) =>
    void edit(`${entry.name}: ${name}`, (d) => {
      for (const [k, q] of places.entries())
        d.pieces.push({
          ...structuredClone(entry),
          id: freshId("piece"),
          name: `${entry.name.slice(0, 70)} ${k + 2}`,
          east_m: +q.east.toFixed(3),
          north_m: +q.north.toFixed(3),
          turn: +(((q.turn % 360) + 360) % 360).toFixed(2),
          variant: (entry.variant + k + 1) % Math.max(1, facts?.variants ?? 1),
        });
    });
  const a = (entry.turn * Math.PI) / 180;
  return (
    <div>
      <div className="flex flex-wrap gap-1">
        <button className="btn" onClick={action("goto").run}>
          Go there
        </button>
        <button
          className="btn"
          data-copy-piece
          title="Beside it, turned at random"
          onClick={() =>
            copies("copied", [
              {
                east: entry.east_m + wide * Math.cos(a),
                north: entry.north_m - wide * Math.sin(a),
                turn: Math.random() * 360,
              },
            ])
          }
        >
          Copy
        </button>
        <button
          className="btn"
          data-mirror-piece
          title="Its mirror image, in place"
          onClick={() =>
            void edit(`${entry.name}: ${entry.mirrored ? "as it was made" : "mirrored"}`, (d) =>
              put(d, ["pieces", index, "mirrored"], !entry.mirrored),
            )
          }
        >
          Mirror
        </button>
        <button className="btn" onClick={action("remove").run}>
          Remove
        </button>
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        <button
          className="btn"
          data-row-of
          onClick={() =>
            copies(
              "row",
              Array.from({ length: Math.max(1, Math.min(200, count)) - 1 }, (_, k) => ({
                east: entry.east_m + step * (k + 1) * Math.cos(a),
                north: entry.north_m - step * (k + 1) * Math.sin(a),
                turn: entry.turn,
              })),
            )
          }
        >
          Row
        </button>
        of{" "}
        <Num
          label="Pieces in the row"
          value={count}
          unit=""
          onKeep={(v) => setCount(Math.round(v))}
        />
        every <Num label="Step of the row" value={step} unit="m" onKeep={setStep} />
      </div>
      <div className="mt-1 flex flex-wrap items-center gap-1">
        <button
          className="btn"
          data-ring-of
          title="A ring that begins with this piece and lies to its north, open by one"
          onClick={() => {
            const n = Math.max(3, Math.min(200, Math.round((2 * Math.PI * radius) / step)));
            const ce = entry.east_m + radius * Math.sin(a);
            const cn = entry.north_m + radius * Math.cos(a);
            copies(
              "ring",
              Array.from({ length: n - 2 }, (_, k) => {
                const t = a + Math.PI + ((k + 1) * 2 * Math.PI) / n;
                return {
                  east: ce + radius * Math.sin(t),
                  north: cn + radius * Math.cos(t),
                  turn: (t * 180) / Math.PI - 180,
                };
              }),
            );
          }}
        >
          Ring
        </button>
        with a radius of{" "}
        <Num label="Radius of the ring" value={radius} unit="m" onKeep={setRadius} />
      </div>
      <Drawer
        drawer="kind"
        value={entry.kind}
        label="Kind"
        onKeep={(v) =>
          void edit(`${entry.name}: ${v} instead`, (d) => {
            put(d, ["pieces", index, "kind"], v);
            put(d, ["pieces", index, "variant"], 0);
          })
        }
      />
    </div>
  );
}

/** The plan and the schedule, taken out as files. */
export function PlanFiles() {
  const id = usePage((s) => s.id);
  return (
    <div className="mt-2 border-t border-rule pt-1">
      <div className="text-soft">Planting plan and schedule of kinds</div>
      <div className="mt-1 flex flex-wrap gap-1">
        <a className="btn" href={`/api/scenes/${id}/plan.svg`} download data-plan-svg>
          Plan (SVG)
        </a>
        <a className="btn" href={`/api/scenes/${id}/plan.pdf`} download>
          Plan (PDF)
        </a>
        <a className="btn" href={`/api/scenes/${id}/schedule.csv`} download>
          Schedule (CSV)
        </a>
      </div>
    </div>
  );
}
