/**
 * The ground: ready sets of materials, own textures, matched colours, texture sizes, and why what
 * lies here lies here.
 */
import { useEffect, useRef, useState } from "react";
import { listOf, type ListName } from "../actions/actions";
import { ask, fileOf, sendFiles, Trouble } from "../api/client";
import { edit, engine, get, set, tell, usePage, type Section } from "../state";
import { LABELS } from "./labels";
import { at, complete, Fold, Line, Range, shown, type Path } from "./settings";
import { SheetBox } from "./sheetbox";
import { chooseFiles, watch } from "./watch";

interface Preset {
  name: string;
  label: string;
  help: string;
}
interface Made {
  preset: Preset;
  materials: Record<string, unknown>[];
  told: string[];
  url: string;
}

/** Ready sets of materials, each drawn on this land from where one stands; its bands are told. */
export function GroundPresets() {
  const doc = usePage((s) => s.doc)!;
  const id = usePage((s) => s.id);
  const [made, setMade] = useState<Made[]>([]);
  const [count, setCount] = useState(9);
  const [above, setAbove] = useState(true);
  useEffect(() => {
    const halt = new AbortController();
    const urls: string[] = [];
    const v = engine.view?.pose;
    const seen =
      above || !v
        ? null
        : {
            east: v.east,
            north: v.north,
            up: v.up,
            bearing: v.bearing,
            tilt: v.tilt,
            focal: v.focal,
          };
    setMade([]);
    void (async () => {
      try {
        const list = await ask<Preset[]>("GET", "/api/ground-presets");
        setCount(list.length);
        for (const preset of list) {
          const { materials, told } = await ask<{
            materials: Record<string, unknown>[];
            told: string[];
          }>(
            "POST",
            `/api/scenes/${id}/ground-presets/${preset.name}`,
            { document: doc },
            {},
            halt.signal,
          );
          const bare = { ...doc, ground: materials, planting: [] };
          const url = URL.createObjectURL(
            await fileOf(
              `/api/scenes/${id}/proofs`,
              { document: bare, pose: seen, width_px: 270, height_px: 120 },
              halt.signal,
            ),
          );
          urls.push(url);
          if (halt.signal.aborted) return;
          setMade((m) => [...m, { preset, materials, told, url }]);
        }
      } catch (e) {
        if (!halt.signal.aborted) {
          tell(e);
          if (e instanceof Trouble) set({ dialog: null });
        }
      }
    })();
    return () => {
      halt.abort();
      setTimeout(() => urls.forEach((u) => URL.revokeObjectURL(u)), 1000);
    };
  }, [above]);
  const take = (m: Made) => {
    const { schema } = get();
    set({ dialog: null, open: "ground" });
    void edit(`Ground: ${m.preset.label}`, (d) => {
      d.ground = m.materials.map((x) =>
        complete(schema, schema.scene.$defs.Material, {
          on: true,
          ...x,
          where: (x.where as { kind: string }[]).map((w) =>
            complete(
              schema,
              schema.scene.$defs[
                schema.scene.$defs.Material.properties.where.items.discriminator.mapping[w.kind]
                  .split("/")
                  .pop()
              ],
              w,
            ),
          ),
        }),
      ) as never;
    });
  };
  return (
    <SheetBox title="Sets of materials, laid on this land" wide={900}>
      <div className="mb-2 flex items-center justify-between gap-3">
        <span className="text-soft">
          Their bands come from this land's own slopes, heights and wetness. Taking one replaces the
          materials; undo brings them back.
        </span>
        <span className="flex">
          <button
            className={`btn ${above ? "" : "on"}`}
            aria-pressed={!above}
            onClick={() => setAbove(false)}
          >
            from here
          </button>
          <button
            className={`btn -ml-px ${above ? "on" : ""}`}
            aria-pressed={above}
            onClick={() => setAbove(true)}
          >
            from above
          </button>
        </span>
      </div>
      <div className="grid grid-cols-3 gap-2" data-presets={made.length}>
        {Array.from({ length: count }, (_, i) => made[i]).map((m, i) => (
          <div key={i} className="border border-rule p-[3px]">
            {m ? (
              <button
                className="block w-full text-left"
                data-preset={m.preset.name}
                onClick={() => take(m)}
              >
                <img src={m.url} alt="" className="h-[112px] w-full object-cover" />
                <b className="font-show">{m.preset.label}</b>{" "}
                <span className="text-soft">{m.preset.help}</span>
                <span className="block truncate text-[11.5px] text-soft" title={m.told.join("; ")}>
                  {m.told.slice(0, 2).join("; ")}
                </span>
              </button>
            ) : (
              <div className="grid h-[166px] place-items-center text-soft">…</div>
            )}
          </div>
        ))}
      </div>
    </SheetBox>
  );
}

interface Kept {
  texture: string;
  name: string;
  told: string[];
  seam: number;
}

/** Sends a set and gives it to the material. */
async function bring(
  list: File[],
  mend: boolean,
  path: Path,
  word = "texture",
): Promise<Kept | null> {
  try {
    const data = await sendFiles<Kept>(`/api/textures${mend ? "?mend=1" : ""}`, list);
    await edit(`${at(get().doc, path.slice(0, -1)).name}: ${word} ${data.name}`, (d) => {
      at(d, path.slice(0, -1)).texture = data.texture;
    });
    return data;
  } catch (e) {
    tell(e);
    return null;
  }
}

/**
 * A texture set brought in for a material: pictures of colour, height, normal, roughness or packed,
 * told apart by their names.
 */
export function TextureLine({ path, value, label }: { path: Path; value: string; label: string }) {
  const input = useRef<HTMLInputElement>(null);
  const files = useRef<File[]>([]);
  const [kept, setKept] = useState<Kept | null>(null);
  const send = async (list: File[], mend: boolean) => {
    if (!list.length) return;
    const found = await bring(list, mend, path);
    if (found) {
      files.current = list;
      setKept(found);
    }
  };
  const choose = async () => {
    const found = await chooseFiles(true);
    if (!found) {
      input.current?.click();
      return;
    }
    if (!found.files.length) return;
    await send(found.files, false);
    const id = at(get().doc, path.slice(0, -1)).id as string;
    watch(`texture ${id}`, found.files, found.handles, async (list) => {
      const index = get().doc?.ground.findIndex((m) => m.id === id) ?? -1;
      return index >= 0 && !!(await bring(list, false, ["ground", index, "texture"], "read again"));
    });
  };
  return (
    <div data-texture>
      <Line
        label={label}
        help="Pictures of one set, chosen together or dropped here; which is which is read from their names. Saved again outside, they are read again."
      >
        <span className="flex items-center gap-2">
          {value ? (
            <button
              className="text-soft underline"
              onClick={() =>
                void edit("Own texture taken away", (d) => {
                  at(d, path.slice(0, -1)).texture = "";
                })
              }
            >
              take away
            </button>
          ) : (
            <span className="text-soft">none</span>
          )}
          <button
            className="btn"
            data-bring-texture
            onClick={() => void choose()}
            onDragOver={(e) => e.preventDefault()}
            onDrop={(e) => {
              e.preventDefault();
              e.stopPropagation();
              void send([...e.dataTransfer.files], false);
            }}
          >
            {value ? "Replace…" : "Bring in…"}
          </button>
        </span>
      </Line>
      <input
        ref={input}
        type="file"
        multiple
        accept="image/png,image/jpeg,image/webp,image/tiff"
        className="hidden"
        data-texture-files
        onChange={(e) => {
          void send([...(e.target.files ?? [])], false);
          e.target.value = "";
        }}
      />
      {kept && value === kept.texture && (
        <p className="text-[11.5px] text-soft">
          {kept.name}
          {kept.told.length ? `: ${kept.told.join("; ")}` : ""}
          {kept.seam > 1.6 && (
            <>
              {" "}
              <span className="text-rust">Its edges do not meet.</span>{" "}
              <button className="underline" onClick={() => void send(files.current, true)}>
                Make them meet
              </button>
            </>
          )}
        </p>
      )}
    </div>
  );
}

/** A picture of the whole ground, laid exactly over the plot or one landform. */
export function PictureLine({
  path,
  value,
  label,
  help,
}: {
  path: Path;
  value: string;
  label: string;
  help?: string;
}) {
  const input = useRef<HTMLInputElement>(null);
  const send = async (list: File[]) => {
    if (!list.length) return;
    const form = new FormData();
    for (const f of list) form.append("auto", f, f.name);
    try {
      const answer = await fetch("/api/ground-pictures", { method: "POST", body: form });
      const data = await answer.json();
      if (!answer.ok) throw new Trouble(data);
      await edit(`${at(get().doc, path.slice(0, -1)).name}: picture ${list[0].name}`, (d) => {
        at(d, path.slice(0, -1)).picture = data.picture;
      });
    } catch (e) {
      tell(e);
    }
  };
  return (
    <Line label={label} help={help}>
      <span className="flex items-center gap-2">
        {value ? (
          <button
            className="text-soft underline"
            onClick={() =>
              void edit("Picture taken away", (d) => {
                Object.assign(at(d, path.slice(0, -1)), { picture: "", over: "" });
              })
            }
          >
            take away
          </button>
        ) : (
          <span className="text-soft">none</span>
        )}
        <button
          className="btn"
          onClick={() => input.current?.click()}
          onDragOver={(e) => e.preventDefault()}
          onDrop={(e) => {
            e.preventDefault();
            e.stopPropagation();
            void send([...e.dataTransfer.files]);
          }}
        >
          {value ? "Replace…" : "Lay…"}
        </button>
      </span>
      <input
        ref={input}
        type="file"
        multiple
        accept="image/png,image/jpeg,image/webp,image/tiff"
        className="hidden"
        data-picture-file
        onChange={(e) => {
          void send([...(e.target.files ?? [])]);
          e.target.value = "";
        }}
      />
    </Line>
  );
}

/** Pulls a material's colour towards the plants, another material or the pinned place. */
export function Match({ entry, index }: { entry: { id: string; name: string }; index: number }) {
  const ground = usePage((s) => s.doc!.ground);
  const place = usePage((s) => (s.pinned ? s.place : null));
  const [towards, setTowards] = useState("plants");
  const [amount, setAmount] = useState(70);
  const pull = async (share: number) => {
    try {
      const [kind, other] = towards.split(":");
      const found = await ask<{ hue: number; saturation: number; bright: number }>(
        "POST",
        `/api/scenes/${get().id}/match`,
        {
          document: get().doc,
          material: entry.id,
          towards: kind,
          other: other ?? "",
          east: place?.east ?? 0,
          north: place?.north ?? 0,
          amount: share,
        },
      );
      await edit(`${entry.name}: matched`, (d) => Object.assign(d.ground[index], found));
    } catch (e) {
      tell(e);
    }
  };
  return (
    <Fold title="Match" note="colour towards…">
      <Line label="Towards">
        <select
          className="text max-w-[190px]"
          aria-label="Match towards"
          value={towards}
          onChange={(e) => setTowards(e.target.value)}
        >
          <option value="plants">the plants on it</option>
          {place && <option value="place">the place that is pinned</option>}
          {ground.map(
            (g, i) =>
              i !== index && (
                <option key={g.id} value={`material:${g.id}`}>
                  {g.name}
                </option>
              ),
          )}
        </select>
      </Line>
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
      <button className="btn mt-1" data-match onClick={() => void pull(amount)}>
        Pull the colour
      </button>
    </Fold>
  );
}

interface Near {
  id: string;
  nearest_m: number | null;
  shot: string;
  element_mm: number;
  texel_mm: number;
  needs: number;
  megabytes: number;
  verdict: string;
}

/** What the shots come near to, and what that asks of each texture. */
export function TextureSizes() {
  const doc = usePage((s) => s.doc)!;
  const [wide, setWide] = useState(1920);
  const [list, setList] = useState<Near[] | null>(null);
  useEffect(() => {
    const halt = new AbortController();
    setList(null);
    ask<Near[]>(
      "POST",
      `/api/scenes/${get().id}/nearness`,
      { document: doc, wide_px: wide },
      {},
      halt.signal,
    )
      .then(setList)
      .catch((e) => {
        if (!halt.signal.aborted) {
          tell(e);
          set({ dialog: null });
        }
      });
    return () => halt.abort();
  }, [wide]);
  const size = (mm: number) => (mm >= 10 ? `${shown(mm / 10)} cm` : `${shown(mm)} mm`);
  return (
    <SheetBox title="Texture sizes by nearness" wide={720}>
      <p className="mb-1">
        For a still{" "}
        <select
          className="text"
          aria-label="Width of the still"
          value={wide}
          onChange={(e) => setWide(+e.target.value)}
        >
          {[1280, 1920, 3840, 7680].map((w) => (
            <option key={w} value={w}>
              {w} px wide
            </option>
          ))}
        </select>
        : the finest picture element that a shot sees of each material, and the texel that its
        texture has.
      </p>
      {!list ? (
        <p className="text-soft">measuring…</p>
      ) : (
        <table className="w-full text-left" data-nearness>
          <thead>
            <tr className="border-b border-ink text-soft">
              <th>Material</th>
              <th>Nearest</th>
              <th>Element</th>
              <th>Texel</th>
              <th>Needs</th>
              <th />
            </tr>
          </thead>
          <tbody>
            {list.map((n) => {
              const m = doc.ground.find((g) => g.id === n.id)!;
              return (
                <tr key={n.id} className="border-b border-rule">
                  <td>
                    <button
                      className="underline"
                      onClick={() => set({ dialog: null, open: "ground", chosen: n.id })}
                    >
                      {m.name}
                    </button>
                  </td>
                  <td>{n.nearest_m === null ? "" : `${shown(n.nearest_m)} m, ${n.shot}`}</td>
                  <td>{n.nearest_m === null ? "" : size(n.element_mm)}</td>
                  <td>{size(n.texel_mm)}</td>
                  <td>{n.nearest_m === null ? "" : `${n.needs} px, ${shown(n.megabytes)} MB`}</td>
                  <td
                    className={
                      n.verdict === "blurs"
                        ? "text-rust"
                        : n.verdict === "fits"
                          ? "text-moss"
                          : "text-soft"
                    }
                  >
                    {n.verdict === "blurs"
                      ? `blurs: at most ${shown((m.size_m * n.element_mm) / n.texel_mm)} m a repeat is sharp`
                      : n.verdict}
                  </td>
                </tr>
              );
            })}
          </tbody>
        </table>
      )}
      {!doc.shots.length && <p className="text-soft">Keep a shot first: what it sees decides.</p>}
    </SheetBox>
  );
}

interface Verdict {
  kind: string;
  index: number;
  value: number | null;
  unit: string;
  low: number | null;
  high: number | null;
  answer: number;
  absent: string;
}
interface Reason {
  list: "ground" | "planting";
  index: number;
  id: string;
  share: number;
  wanted: number;
  verdicts: Verdict[];
  decides: number | null;
  note: string;
}

/**
 * Beside the face while it is asked: each material and sowing at the pinned place, and the
 * condition that decides.
 */
export function WhyHere() {
  const on = usePage((s) => s.why);
  const place = usePage((s) => (s.pinned ? s.place : null));
  const products = usePage((s) => s.products);
  const [found, setFound] = useState<Reason[] | null>(null);
  const key = place && `${place.east} ${place.north}`;
  useEffect(() => {
    if (!on || !place || !products) {
      setFound(null);
      return;
    }
    const halt = new AbortController();
    ask<Reason[]>(
      "POST",
      `/api/scenes/${get().id}/why`,
      { document: get().doc, east: place.east, north: place.north },
      {},
      halt.signal,
    )
      .then((r) => !halt.signal.aborted && setFound(r))
      .catch((e) => {
        if (!halt.signal.aborted) tell(e);
      });
    return () => halt.abort();
  }, [on, key, products]);
  if (!on) return null;
  const entry = (r: Reason) =>
    listOf(get().doc!, r.list as ListName)[r.index] as { name: string } | undefined;
  const go = (r: Reason, v: Verdict) => {
    set({ chosen: r.id, open: r.list as Section });
    setTimeout(() => {
      const rule = document.querySelectorAll<HTMLElement>(`[data-entry="${r.id}"] [data-where]`)[
        v.index
      ];
      rule?.scrollIntoView({ block: "center" });
      (
        rule?.querySelector<HTMLElement>("[role=slider]") ??
        rule?.querySelector<HTMLElement>("select") ??
        rule?.querySelector<HTMLElement>("input")
      )?.focus();
    }, 120);
  };
  const say = (v: Verdict) =>
    v.absent ||
    `${LABELS[v.kind] ?? v.kind}${v.value === null ? "" : ` ${shown(v.value)} ${v.unit}`}${v.low !== null && v.high !== null && v.value !== null ? (v.value < v.low ? `, asks from ${shown(v.low)}` : v.value > v.high ? `, asks up to ${shown(v.high)}` : "") : ""}`;
  return (
    <div
      className="absolute top-12 right-3 max-h-[calc(100%-120px)] w-[300px] overflow-auto border border-ink bg-paper/95 px-3 pt-1 pb-2"
      data-why
    >
      <div className="flex items-baseline justify-between">
        <b className="font-show">Why here?</b>
        <button className="text-soft underline" onClick={() => set({ why: false })}>
          put away
        </button>
      </div>
      {!place ? (
        <p className="text-soft">Click the ground.</p>
      ) : !found ? (
        <p className="text-soft">asking…</p>
      ) : (
        (["ground", "planting"] as const).map((list) => (
          <div key={list}>
            {found.some((r) => r.list === list) && (
              <div className="mt-1 border-t border-rule text-soft">
                {list === "ground" ? "Ground" : "Planting: part of the wished density"}
              </div>
            )}
            {found
              .filter((r) => r.list === list)
              .sort((a, b) => b.share - a.share)
              .map((r) => (
                <div key={r.id} className={r.share < 0.02 ? "text-soft" : ""} data-reason={r.id}>
                  <div className="flex justify-between">
                    <b className="truncate font-normal">{entry(r)?.name}</b>
                    <span>{Math.round(r.share * 100)} %</span>
                  </div>
                  <i
                    className="block h-[2px] bg-moss"
                    style={{ width: `${Math.min(100, r.share * 100)}%` }}
                  />
                  <div className="flex flex-wrap gap-x-2 text-[11.5px]">
                    {r.note && <span>{r.note}</span>}
                    {r.verdicts.map((v) => (
                      <button
                        key={v.index}
                        className={`text-left underline decoration-dotted ${v.index === r.decides || v.absent ? "text-rust" : ""}`}
                        data-verdict={v.kind}
                        onClick={() => go(r, v)}
                      >
                        {say(v)}
                        {v.absent
                          ? ""
                          : v.answer > 0.98
                            ? " ✓"
                            : v.answer < 0.02
                              ? " ✗"
                              : `: ${Math.round(v.answer * 100)} %`}
                      </button>
                    ))}
                  </div>
                </div>
              ))}
          </div>
        ))
      )}
    </div>
  );
}
