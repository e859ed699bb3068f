/**
 * The cabinet, open over the face: drawers of kinds, each turning; own models brought in; the
 * supplier; what each kind costs near a shot.
 */
import { Star } from "lucide-react";
import { useEffect, useRef, useState } from "react";
import {
  ask,
  sendFiles,
  type Cabinet,
  type KindFacts,
  type KindLine,
  type KindNearLine,
  type ModelAnswer,
  type OwnKind,
  type Supply,
  type SupplyLine,
} from "../api/client";
import { edit, engine, freshId, get, set, tell, usePage } from "../state";
import { Num } from "./num";
import { at, complete, modelOf, Range, shown } from "./settings";

const DRAWERS: [string, string, (k: KindLine) => boolean][] = [
  ["all", "Every kind", () => true],
  ["tree", "Trees", (k) => k.family === "tree"],
  ["shrub", "Shrubs", (k) => k.family === "shrub"],
  ["grass", "Grasses, sedges, reeds", (k) => k.family === "grass"],
  ["flower", "Herbs and flowers", (k) => k.family === "flower"],
  ["fern", "Ferns and creepers", (k) => k.family === "fern" || k.family === "climber"],
  ["stone", "Stones", (k) => k.family === "stone"],
  ["wood", "Fallen wood", (k) => k.family === "wood"],
  ["thing", "Figures and things", (k) => k.family === "figure" || k.family === "thing"],
  ["favourite", "Favourites", (k) => k.favourite],
  ["own", "Own models", (k) => k.name.startsWith("own-")],
];
const LOOKS = ["summer", "spring", "autumn", "winter", "snow", "dead", "burnt"];
const FAMILIES = [
  "thing",
  "tree",
  "shrub",
  "grass",
  "flower",
  "fern",
  "climber",
  "stone",
  "wood",
  "figure",
];

/**
 * Asks for the cabinet anew, as after a kind was brought in; kinds that the scene uses from
 * elsewhere are kept.
 */
export async function refreshCabinet() {
  const cabinet = await ask<Cabinet>("GET", "/api/cabinet");
  const known = new Set(cabinet.kinds.map((k) => k.name));
  cabinet.kinds.push(
    ...(get().cabinet?.kinds.filter(
      (k) => k.part === null && k.name.startsWith("own-") && !known.has(k.name),
    ) ?? []),
  );
  set({ cabinet });
  engine.view?.setCabinet(cabinet);
}

/** Kinds that a scene brings with it and that are in no drawer here become known to the page. */
export function useForeignKinds() {
  const doc = usePage((s) => s.doc);
  const cabinet = usePage((s) => s.cabinet);
  useEffect(() => {
    if (!doc || !cabinet) return;
    const missing = [
      ...new Set([
        ...doc.planting.flatMap((s) => s.mix.map((p) => p.kind)),
        ...doc.pieces.map((p) => p.kind),
      ]),
    ].filter((k) => k.startsWith("own-") && !cabinet.kinds.some((x) => x.name === k));
    if (!missing.length) return;
    void Promise.all(
      missing.map((k) =>
        ask<KindFacts>("GET", `/api/cabinet/kinds/${k}`).then((f) => f.kind as KindLine),
      ),
    )
      .then((kinds) => {
        const now = get().cabinet!;
        set({
          cabinet: {
            ...now,
            kinds: [
              ...now.kinds,
              ...kinds
                .filter((k) => !now.kinds.some((x) => x.name === k.name))
                .map((k) => ({ ...k, part: null })),
            ],
          },
        });
      })
      .catch(tell);
  }, [doc, cabinet]);
}

function useNumbers(): Map<string, number> {
  const doc = usePage((s) => s.doc);
  const manifest = usePage((s) => s.manifest);
  const out = new Map<string, number>();
  for (const s of doc?.planting ?? [])
    s.mix.forEach((p, i) =>
      out.set(
        p.kind,
        (out.get(p.kind) ?? 0) + (manifest?.sown.find((x) => x.id === s.id)?.counts[i] ?? 0),
      ),
    );
  for (const p of doc?.pieces ?? []) out.set(p.kind, (out.get(p.kind) ?? 0) + 1);
  return out;
}

export function CabinetSheet() {
  const open = usePage((s) => s.cabinetAt);
  const cabinet = usePage((s) => s.cabinet);
  const [sought, setSought] = useState("");
  const [look, setLook] = useState("summer");
  const [lifted, setLifted] = useState(false);
  const numbers = useNumbers();
  if (!open || !cabinet) return null;
  const { drawer } = open;
  const words = sought.toLowerCase().split(/\s+/).filter(Boolean);
  const own = cabinet.drawers.find((d) => `own:${d.id}` === drawer);
  const test =
    DRAWERS.find(([d]) => d === drawer)?.[2] ??
    ((k: KindLine) => !own || own.kinds.includes(k.name));
  const inDrawer = (t: (k: KindLine) => boolean) => cabinet.kinds.filter(t);
  const found = (
    drawer === "used"
      ? cabinet.kinds.filter((k) => numbers.has(k.name))
      : words.length
        ? cabinet.kinds
        : inDrawer(test)
  ).filter((k) =>
    words.every((w) => `${k.label} ${k.name} ${k.family} ${k.tags}`.toLowerCase().includes(w)),
  );
  const pull = (d: string) => {
    setSought("");
    set({ cabinetAt: { drawer: d, kind: open.kind } });
  };
  const front = (d: string, label: string, count: number) => (
    <button
      key={d}
      data-drawer={d}
      aria-pressed={drawer === d}
      onClick={() => pull(d)}
      className={`relative mb-[3px] flex w-full items-center justify-between border px-2 py-[3px] text-left ${drawer === d ? "translate-x-[5px] border-moss bg-[#fffdf7] font-semibold text-moss" : "border-rule bg-paper hover:bg-paper2"}`}
    >
      <span className="truncate">{label}</span>
      <span className="flex items-center gap-[6px] text-[11.5px] text-soft">
        {count || ""}
        <i className="inline-block h-[9px] w-[5px] rounded-full border border-ink/50" />
      </span>
    </button>
  );
  return (
    <div
      role="dialog"
      aria-label="The cabinet"
      data-cabinet={drawer}
      className={`absolute inset-0 z-30 grid grid-cols-[176px_minmax(0,1fr)_236px] bg-paper ${lifted ? "invisible" : ""}`}
    >
      <div className="min-h-0 overflow-y-auto border-r border-ink bg-paper2 p-2">
        <div className="mb-2 flex items-baseline justify-between">
          <b className="font-show text-[16px] italic">The cabinet</b>
        </div>
        {DRAWERS.map(([d, label, t]) => front(d, label, inDrawer(t).length))}
        {cabinet.drawers.map((d) => (
          <div
            key={d.id}
            onDragOver={(e) => {
              if (e.dataTransfer.types.includes("sow/kind")) {
                e.preventDefault();
                e.stopPropagation();
              }
            }}
            onDrop={(e) => {
              e.preventDefault();
              e.stopPropagation();
              putInto(d, e.dataTransfer.getData("sow/kind"));
            }}
          >
            {front(`own:${d.id}`, d.name, d.kinds.length)}
          </div>
        ))}
        {front("used", "Used in this scene", numbers.size)}
        {front("supplier", "Supplier", 0)}
        <NewDrawer />
        <BringIn />
      </div>
      <div className="flex min-h-0 flex-col">
        <div className="flex items-center gap-2 border-b border-rule px-3 py-2">
          <input
            className="text w-[230px]"
            autoFocus
            aria-label="Find a kind"
            placeholder="find: wet, evergreen, stone, white…"
            value={sought}
            onChange={(e) => setSought(e.target.value)}
            onKeyDown={(e) => {
              if (e.key !== "Escape") e.stopPropagation();
            }}
          />
          <select
            className="text"
            aria-label="Look"
            value={look}
            onChange={(e) => setLook(e.target.value)}
          >
            {LOOKS.map((l) => (
              <option key={l} value={l}>
                {l}
              </option>
            ))}
          </select>
          {own && (
            <button
              className="btn"
              data-drop-drawer
              onClick={() =>
                void ask("DELETE", `/api/parts/${own.id}`)
                  .then(() => {
                    set({ cabinetAt: { drawer: "all", kind: open.kind } });
                    return refreshCabinet();
                  })
                  .catch(tell)
              }
            >
              Take the drawer away
            </button>
          )}
          <span className="grow text-right text-soft">
            {drawer === "supplier" ? "" : `${found.length} kinds`}
          </span>
          <button className="btn" data-close-cabinet onClick={() => set({ cabinetAt: null })}>
            Close
          </button>
        </div>
        {drawer === "supplier" ? (
          <SupplierDrawer />
        ) : drawer === "used" && !words.length ? (
          <UsedDrawer numbers={numbers} />
        ) : (
          <div
            className="grid min-h-0 auto-rows-min grid-cols-[repeat(auto-fill,minmax(112px,1fr))] gap-2 overflow-y-auto p-3"
            data-found={found.length}
          >
            {found.map((k) => (
              <Specimen
                key={k.name}
                kind={k}
                look={look}
                on={k.name === open.kind}
                number={numbers.get(k.name) ?? 0}
                onLift={setLifted}
              />
            ))}
            {!found.length && (
              <p className="col-span-full text-soft">
                {drawer === "own"
                  ? "Nothing was brought in yet: drop a .glb here, or an .obj with its .mtl and pictures."
                  : drawer === "favourite"
                    ? "No favourites yet: mark a kind with its star."
                    : own
                      ? "An empty drawer: choose a kind and put it here, or draw its card onto the drawer."
                      : "Nothing of that name."}
              </p>
            )}
          </div>
        )}
      </div>
      <div className="min-h-0 overflow-y-auto border-l border-ink px-3 py-2">
        {open.model ? (
          <ModelForm
            key={open.model.source + (open.part ?? "")}
            model={open.model}
            part={open.part ?? null}
          />
        ) : open.kind ? (
          <KindSheet key={open.kind} name={open.kind} look={look} />
        ) : (
          <p className="mt-8 text-soft">
            Choose a kind to see what it is, where it is used, and to sow it or stand it on the
            ground. A card can be drawn onto the face.
          </p>
        )}
      </div>
    </div>
  );
}

type OwnDrawer = Cabinet["drawers"][number];
/** A kind into a drawer of one's own, or out of it again. */
function putInto(d: OwnDrawer, kind: string) {
  if (!kind) return;
  void ask<OwnDrawer>("POST", "/api/drawers", {
    name: d.name,
    part: d.id,
    kinds: d.kinds.includes(kind) ? d.kinds.filter((k) => k !== kind) : [...d.kinds, kind],
  })
    .then((now) =>
      set((s) => ({
        cabinet: {
          ...s.cabinet!,
          drawers: s.cabinet!.drawers.map((x) => (x.id === now.id ? now : x)),
        },
      })),
    )
    .catch(tell);
}

function NewDrawer() {
  const [name, setName] = useState("");
  const make = () => {
    if (name.trim())
      void ask<OwnDrawer>("POST", "/api/drawers", { name: name.trim(), kinds: [] })
        .then((d) => {
          setName("");
          set((s) => ({
            cabinet: { ...s.cabinet!, drawers: [...s.cabinet!.drawers, d] },
            cabinetAt: { drawer: `own:${d.id}`, kind: s.cabinetAt?.kind ?? null },
          }));
        })
        .catch(tell);
  };
  return (
    <div className="mt-2 flex gap-1">
      <input
        className="text min-w-0 grow"
        aria-label="Name of a new drawer"
        placeholder="new drawer"
        maxLength={40}
        value={name}
        onChange={(e) => setName(e.target.value)}
        onKeyDown={(e) => {
          if (e.key === "Enter") make();
          if (e.key !== "Escape") e.stopPropagation();
        }}
      />
      <button className="btn" data-new-drawer disabled={!name.trim()} onClick={make}>
        Add
      </button>
    </div>
  );
}

/**
 * One kind on its card; it turns while the pointer is over it, and can be drawn onto the ground.
 */
function Specimen({
  kind,
  look,
  on,
  number,
  onLift,
}: {
  kind: KindLine;
  look: string;
  on: boolean;
  number: number;
  onLift: (v: boolean) => void;
}) {
  const [turning, setTurning] = useState(false);
  const [grown, setGrown] = useState(false);
  const wears = kind.looks.includes(look) ? look : "summer";
  return (
    <div
      className={`relative border bg-[#fffdf7] ${on ? "border-moss outline outline-1 outline-moss" : "border-rule hover:border-ink"}`}
      draggable
      onDragStart={(e) => {
        e.dataTransfer.setData("sow/kind", kind.name);
        e.dataTransfer.effectAllowed = "copy";
        setTimeout(() => onLift(true));
      }}
      onDragEnd={(e) => {
        onLift(false);
        if (e.dataTransfer.dropEffect !== "none") set({ cabinetAt: null });
      }}
    >
      <button
        className="block w-full"
        data-kind={kind.name}
        aria-pressed={on}
        onClick={() =>
          set((s) => ({ cabinetAt: { drawer: s.cabinetAt!.drawer, kind: kind.name } }))
        }
        onPointerEnter={() => setTurning(true)}
        onPointerLeave={() => setTurning(false)}
        title={kind.tags}
      >
        {turning ? (
          <Turning name={kind.name} look={wears} px={96} />
        ) : (
          <span className="relative block h-[96px]">
            {!grown && (
              <i className="absolute inset-0 grid place-items-center text-[11.5px] text-soft">
                growing…
              </i>
            )}
            <img
              src={`/api/cabinet/kinds/${kind.name}.png?look=${wears}`}
              alt=""
              loading="lazy"
              onLoad={() => setGrown(true)}
              className="relative mx-auto h-[96px] w-[96px] object-contain object-bottom"
            />
          </span>
        )}
        <span className="block truncate border-t border-rule/70 px-1 text-left text-[12px]">
          {kind.label}
        </span>
      </button>
      {number > 0 && (
        <span
          className="absolute top-[3px] left-[5px] text-[10.5px] text-soft"
          title="in this scene"
        >
          {number.toLocaleString("en")}
        </span>
      )}
      <FavouriteStar kind={kind} />
    </div>
  );
}

function FavouriteStar({ kind }: { kind: KindLine }) {
  const flip = () => {
    void ask("POST", "/api/favourites", { kind: kind.name, on: !kind.favourite })
      .then(() =>
        set((s) => ({
          cabinet: {
            ...s.cabinet!,
            kinds: s.cabinet!.kinds.map((k) =>
              k.name === kind.name ? { ...k, favourite: !kind.favourite } : k,
            ),
          },
        })),
      )
      .catch(tell);
  };
  return (
    <button
      className="icon absolute top-[1px] right-[1px]"
      aria-label={`${kind.label}: favourite`}
      aria-pressed={kind.favourite}
      data-star={kind.name}
      onClick={flip}
    >
      <Star
        size={13}
        fill={kind.favourite ? "#b9812a" : "none"}
        stroke={kind.favourite ? "#b9812a" : "currentColor"}
      />
    </button>
  );
}

/** The sixteen pictures of a whole turn, one after the other. */
function Turning({ name, look, px }: { name: string; look: string; px: number }) {
  const [frame, setFrame] = useState(0);
  const [ready, setReady] = useState(false);
  const url = `/api/cabinet/kinds/${name}/turning.png?look=${look}`;
  useEffect(() => {
    let over = false;
    const all = new Image();
    setReady(false);
    all.onload = () => {
      if (!over) setReady(true);
    };
    all.src = url;
    const t = setInterval(() => setFrame((f) => (f + 1) % 16), 140);
    return () => {
      over = true;
      clearInterval(t);
    };
  }, [url]);
  if (!ready)
    return (
      <img
        src={`/api/cabinet/kinds/${name}.png?look=${look}`}
        alt=""
        className="mx-auto block object-contain object-bottom"
        style={{ width: px, height: px }}
      />
    );
  return (
    <i
      className="mx-auto block"
      data-turning={frame}
      style={{
        width: px,
        height: px,
        background: `url(${url}) ${-frame * px}px 0 / ${16 * px}px ${px}px no-repeat`,
      }}
    />
  );
}

/** First values for a sowing of one kind. */
export function sowingOf(k: KindLine) {
  const doc = get().doc!;
  const stone = ["stone", "thing", "wood"].includes(k.family);
  const tree = k.family === "tree";
  const apart = +Math.max(0.05, k.reach_m * (tree ? 0.9 : 0.75)).toFixed(2);
  const seed = Math.floor(Math.random() * 900) + 1;
  const density = +Math.min(
    100 * (0.35 / (apart * apart)),
    tree ? 1.2 : stone ? 2 : 400,
    6e6 / (doc.plot.width_m * doc.plot.depth_m),
  ).toPrecision(2); // at most 60,000 to begin with
  return {
    name: k.label,
    mix: [{ kind: k.name, share: 100 }],
    density,
    apart_m: apart,
    seed,
    stance: stone
      ? { smallest: 40, largest: 170, lean: 80, sway: 12, sink_cm: +(k.height_m * 22).toFixed(0) }
      : {
          smallest: 70,
          largest: 130,
          lean: tree ? 0 : 35,
          sway: tree ? 2 : 6,
          sink_cm: tree ? 10 : 1,
        },
    where: [
      { kind: "slope", low: 0, high: tree ? 32 : 38, soft: 6 },
      ...(tree
        ? [
            {
              kind: "patches",
              size_m: +Math.max(
                20,
                Math.max(doc.plot.width_m, doc.plot.depth_m) * 0.05,
              ).toPrecision(2),
              share: 30,
              seed,
            },
          ]
        : []),
    ],
  };
}

function KindSheet({ name, look }: { name: string; look: string }) {
  const line = usePage((s) => s.cabinet!.kinds.find((k) => k.name === name));
  const chosen = usePage((s) => s.doc?.planting.find((p) => p.id === s.chosen));
  const [facts, setFacts] = useState<KindFacts | null>(null);
  const revision = usePage((s) => s.state?.revision);
  const drawers = usePage((s) => s.cabinet!.drawers);
  useEffect(() => {
    const halt = new AbortController();
    ask<KindFacts>("GET", `/api/cabinet/kinds/${name}`, undefined, {}, halt.signal)
      .then(setFacts)
      .catch((e) => {
        if (!halt.signal.aborted) tell(e);
      });
    return () => halt.abort();
  }, [name, revision]);
  if (!line) return null;
  const wears = line.looks.includes(look) ? look : "summer";
  const schema = get().schema;
  const sowIt = () => {
    const id = freshId(line.name.slice(0, 20));
    void edit(`${line.label} sown`, (d) =>
      d.planting.push(
        complete(schema, modelOf(schema, "planting"), { id, on: true, ...sowingOf(line) }) as never,
      ),
    );
    set({ cabinetAt: null, chosen: id, open: "planting" });
  };
  const addTo = () => {
    const index = get().doc!.planting.findIndex((s) => s.id === chosen!.id);
    void edit(`${chosen!.name}: ${line.label} added`, (d) =>
      (at(d, ["planting", index]) as { mix: unknown[] }).mix.push(
        complete(schema, modelOf(schema, "mix"), { kind: line.name, share: 10 }),
      ),
    );
    set({ told: `${line.label} is now in “${chosen!.name}”.` });
  };
  const takeOut = () => {
    const used = facts?.used.length ?? 0;
    const go = () =>
      void ask("DELETE", `/api/parts/${line.part}`)
        .then(async () => {
          set({ cabinetAt: { drawer: "own", kind: null } });
          await refreshCabinet();
        })
        .catch(tell);
    if (used)
      set({
        confirm: {
          text: `“${line.label}” is used in ${facts!.used.map((u) => `“${u.name}”`).join(", ")}. It stays there; it only leaves the drawer.`,
          yes: go,
        },
      });
    else go();
  };
  return (
    <div data-kind-sheet={name}>
      <Turning name={name} look={wears} px={206} />
      <b className="font-show text-[16px]">{line.label}</b>{" "}
      <span className="text-soft">
        {line.family}
        {line.tags ? `, ${line.tags}` : ""}
      </span>
      {line.gone && (
        <p className="text-rust">
          Its model is not in the store; a bare stake stands for it. Bring its file in again, or
          choose another kind.
        </p>
      )}
      <div className="mt-1 grid grid-cols-[auto_1fr] gap-x-3 text-[12px]">
        <span className="text-soft">Height</span>
        <span>{shown(line.height_m)} m at size 100 %</span>
        <span className="text-soft">Across</span>
        <span>{shown(2 * line.reach_m)} m</span>
        <span className="text-soft">Variants</span>
        <span>{line.variants}</span>
        <span className="text-soft">Looks</span>
        <span>{line.looks.join(", ")}</span>
        {facts && (
          <>
            <span className="text-soft">Triangles</span>
            <span data-triangles>
              {facts.triangles.map((t) => t.toLocaleString("en")).join(" · ")}
              {facts.far_m.length
                ? `, changing at ${facts.far_m.map((f) => shown(f)).join(" and ")} m`
                : ""}
            </span>
          </>
        )}
        {line.surfaces.length > 0 && (
          <>
            <span className="text-soft">Surfaces</span>
            <span>
              {line.surfaces.length > 6
                ? `${line.surfaces.length}, ${line.surfaces.slice(0, 3).join(", ")}…`
                : line.surfaces.join(", ")}
            </span>
          </>
        )}
      </div>
      <div className="mt-2 flex flex-wrap gap-1">
        <button className="btn do" data-sow-kind onClick={sowIt}>
          Sow it
        </button>
        <button
          className="btn"
          data-stand
          onClick={() =>
            set({ cabinetAt: null, tool: "figure", placing: line.name, open: "planting" })
          }
        >
          Stand one
        </button>
        {chosen && (
          <button className="btn" data-add-to onClick={addTo}>
            Add to “{chosen.name.slice(0, 14)}”
          </button>
        )}
        <a
          className="btn"
          href={`/api/cabinet/kinds/${name}/kind.glb?look=${wears}`}
          download
          title="With its variants and levels"
        >
          GLB
        </a>
      </div>
      {drawers.length > 0 && (
        <div className="mt-1 flex flex-wrap gap-1">
          {drawers.map((d) => (
            <button
              key={d.id}
              className={`btn ${d.kinds.includes(name) ? "on" : ""}`}
              aria-pressed={d.kinds.includes(name)}
              data-into-drawer={d.name}
              onClick={() => putInto(d, name)}
            >
              {d.name}
            </button>
          ))}
        </div>
      )}
      {line.part !== null && facts?.settings && (
        <div className="mt-1 flex gap-1">
          <button
            className="btn"
            data-change-kind
            onClick={() =>
              set({
                cabinetAt: {
                  drawer: "own",
                  kind: name,
                  part: line.part!,
                  model: {
                    source: facts.source,
                    name: line.label,
                    triangles: facts.triangles[0],
                    size: [],
                    surfaces: line.surfaces,
                    cut: [],
                    told: facts.told ?? [],
                    settings: facts.settings!,
                  },
                },
              })
            }
          >
            Change…
          </button>
          <button className="btn" data-take-out onClick={takeOut}>
            Take out
          </button>
        </div>
      )}
      <div className="mt-2 border-t border-rule pt-1 text-[12px]" data-used>
        {!facts ? (
          "…"
        ) : facts.used.length ? (
          facts.used.map((u) => (
            <div key={u.scene}>
              <b>{u.name}</b> <span className="text-soft">{u.where.join(", ")}</span>
            </div>
          ))
        ) : (
          <span className="text-soft">Used in no scene yet.</span>
        )}
      </div>
    </div>
  );
}

/**
 * Kinds of this scene with how near the shots come, the level that this calls for, and what it
 * costs.
 */
function UsedDrawer({ numbers }: { numbers: Map<string, number> }) {
  const id = usePage((s) => s.id);
  const revision = usePage((s) => s.state?.revision);
  const kinds = usePage((s) => s.cabinet!.kinds);
  const [wide, setWide] = useState(1920);
  const [list, setList] = useState<KindNearLine[] | null>(null);
  useEffect(() => {
    const halt = new AbortController();
    setList(null);
    ask<KindNearLine[]>(
      "POST",
      `/api/scenes/${id}/kinds-near`,
      { document: get().doc, wide_px: wide },
      {},
      halt.signal,
    )
      .then(setList)
      .catch((e) => {
        if (!halt.signal.aborted) tell(e);
      });
    return () => halt.abort();
  }, [id, revision, wide]);
  const lines =
    list ??
    [...numbers].map(([kind, number]) => ({
      kind,
      number,
      nearest_m: null,
      shot: "",
      pixels: 0,
      level: 0,
      triangles: 0,
      most: 0,
      drawn: 0,
      verdict: "measuring…",
    }));
  return (
    <div className="min-h-0 overflow-y-auto px-3 py-2">
      <p className="mb-1">
        How near the shots come, for a still{" "}
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
      </p>
      <table className="w-full text-left text-[12px]" data-kinds-near={list?.length ?? 0}>
        <thead>
          <tr className="border-b border-ink text-soft">
            <th />
            <th>Kind</th>
            <th className="text-right">Stand</th>
            <th className="pl-3">Nearest</th>
            <th>Tall there</th>
            <th>Level: triangles</th>
            <th className="text-right">In a shot</th>
          </tr>
        </thead>
        <tbody>
          {lines.map((n) => {
            const k = kinds.find((x) => x.name === n.kind);
            return (
              <tr key={n.kind} className="border-b border-rule/60">
                <td>
                  <img
                    src={`/api/cabinet/kinds/${n.kind}.png`}
                    alt=""
                    className="h-[26px] w-[30px] object-contain"
                  />
                </td>
                <td>
                  <button
                    className="underline"
                    onClick={() => set({ cabinetAt: { drawer: "used", kind: n.kind } })}
                  >
                    {k?.label ?? n.kind}
                  </button>
                </td>
                <td className="text-right">{n.number.toLocaleString("en")}</td>
                <td className="pl-3">
                  {n.nearest_m === null ? (
                    <span className="text-soft">{n.verdict}</span>
                  ) : (
                    <>
                      {shown(n.nearest_m)} m <small className="text-soft">{n.shot}</small>
                    </>
                  )}
                </td>
                <td className="pr-3 whitespace-nowrap">
                  {n.nearest_m === null ? "" : `${n.pixels.toLocaleString("en")} px`}
                </td>
                <td>
                  {n.nearest_m === null
                    ? ""
                    : `${n.level + 1}: ${n.triangles.toLocaleString("en")}`}
                  {n.nearest_m !== null && n.verdict !== "fits" && (
                    <span className={n.verdict.startsWith("a finer") ? "text-rust" : "text-soft"}>
                      {" "}
                      {n.verdict}
                    </span>
                  )}
                </td>
                <td className="text-right">{n.drawn ? n.drawn.toLocaleString("en") : ""}</td>
              </tr>
            );
          })}
        </tbody>
      </table>
    </div>
  );
}

/** Files become a model, which the form at the right makes a kind. */
async function bringModel(files: File[]) {
  if (!files.length) return;
  try {
    const model = await sendFiles<ModelAnswer>("/api/models", files);
    set({ cabinetAt: { drawer: "own", kind: null, model } });
  } catch (e) {
    tell(e);
  }
}

function BringIn() {
  const input = useRef<HTMLInputElement>(null);
  return (
    <div
      className="mt-3 border-t border-rule pt-2"
      onDragOver={(e) => e.preventDefault()}
      onDrop={(e) => {
        e.preventDefault();
        e.stopPropagation();
        void bringModel([...e.dataTransfer.files]);
      }}
    >
      <button className="btn" data-bring-model onClick={() => input.current?.click()}>
        Bring in a model…
      </button>
      <p className="mt-1 text-[11.5px] text-soft">.glb, or .obj with its .mtl and pictures</p>
      <input
        ref={input}
        type="file"
        multiple
        accept=".glb,.obj,.mtl,.png,.jpg,.jpeg"
        className="hidden"
        data-model-files
        onChange={(e) => {
          void bringModel([...(e.target.files ?? [])]);
          e.target.value = "";
        }}
      />
    </div>
  );
}

/**
 * How a model becomes a kind: its name and drawer, upright, size and origin, and what is changed of
 * its surfaces.
 */
function ModelForm({ model, part }: { model: ModelAnswer; part: number | null }) {
  const [s, setS] = useState<OwnKind>(model.settings as unknown as OwnKind);
  const [busy, setBusy] = useState(false);
  const change = (v: Partial<OwnKind>) => setS({ ...s, ...v });
  const axis = { x: 0, y: 1, z: 2 }[s.up as "x" | "y" | "z"];
  const tall = s.height_m || (model.size.length ? model.size[axis] * s.scale : 0);
  const make = async () => {
    setBusy(true);
    try {
      const before = get().cabinetAt?.kind;
      const made = await ask<{ kind: KindLine; told: string[] }>(
        "POST",
        `/api/models/${model.source}/kinds`,
        { settings: s, part },
      );
      await refreshCabinet();
      // what was made anew replaces the old one in this scene
      if (
        part !== null &&
        before &&
        before !== made.kind.name &&
        JSON.stringify(get().doc).includes(`"${before}"`)
      )
        await edit(`${s.label}: changed`, (d) => {
          for (const x of d.planting)
            for (const p of x.mix) if (p.kind === before) p.kind = made.kind.name;
          for (const p of d.pieces) if (p.kind === before) p.kind = made.kind.name;
        });
      set({
        cabinetAt: { drawer: "own", kind: made.kind.name },
        told: made.told.length ? made.told.join(" ") : null,
      });
    } catch (e) {
      tell(e);
    } finally {
      setBusy(false);
    }
  };
  const surface = (i: number, v: object) =>
    change({ surfaces: s.surfaces.map((x, k) => (k === i ? { ...x, ...v } : x)) });
  return (
    <div data-model-form>
      <b className="font-show text-[16px]">
        {part === null ? "A model becomes a kind" : "Change the kind"}
      </b>
      <p className="text-[12px] text-soft">
        {model.triangles.toLocaleString("en")} triangles{tall ? `, ${shown(tall)} m tall` : ""}
        {model.surfaces.length
          ? `, ${model.surfaces.length} surface${model.surfaces.length > 1 ? "s" : ""}`
          : ""}
      </p>
      {model.told.map((t) => (
        <p key={t} className="text-[12px] text-ochre" data-told>
          {t}
        </p>
      ))}
      <label className="mt-1 flex items-center justify-between gap-2">
        Name
        <input
          className="text w-[150px]"
          aria-label="Name of the kind"
          value={s.label}
          maxLength={60}
          onChange={(e) => change({ label: e.target.value })}
          onKeyDown={(e) => e.stopPropagation()}
        />
      </label>
      <label className="mt-1 flex items-center justify-between gap-2">
        Drawer
        <select
          className="text w-[150px]"
          aria-label="Drawer"
          value={s.family}
          onChange={(e) => change({ family: e.target.value as OwnKind["family"] })}
        >
          {FAMILIES.map((f) => (
            <option key={f}>{f}</option>
          ))}
        </select>
      </label>
      <label className="mt-1 flex items-center justify-between gap-2">
        Tags
        <input
          className="text w-[150px]"
          aria-label="Tags"
          value={s.tags}
          maxLength={120}
          onChange={(e) => change({ tags: e.target.value })}
          onKeyDown={(e) => e.stopPropagation()}
        />
      </label>
      <div className="mt-1 flex items-center justify-between">
        <span>Upright is</span>
        <span className="flex">
          {(["x", "y", "z"] as const).map((a) => (
            <button
              key={a}
              className={`btn -ml-px ${s.up === a ? "on" : ""}`}
              aria-pressed={s.up === a}
              onClick={() => change({ up: a })}
            >
              {a}
            </button>
          ))}
        </span>
      </div>
      <div className="mt-1 flex items-center justify-between">
        <span>One unit is</span>
        <Num
          label="One unit in m"
          value={s.scale}
          unit="m"
          onKeep={(v) => change({ scale: Math.max(1e-6, v) })}
        />
      </div>
      <div className="mt-1 flex items-center justify-between">
        <span>Or its height is</span>
        <Num
          label="Height in m"
          value={s.height_m}
          unit="m"
          onKeep={(v) => change({ height_m: v })}
        />
      </div>
      <div className="mt-1 flex items-center justify-between">
        <span>Stands</span>
        <span className="flex">
          {(
            [
              ["foot", "on its foot"],
              ["kept", "as in the file"],
            ] as const
          ).map(([o, w]) => (
            <button
              key={o}
              className={`btn -ml-px px-[5px]! ${s.origin === o ? "on" : ""}`}
              aria-pressed={s.origin === o}
              onClick={() => change({ origin: o })}
            >
              {w}
            </button>
          ))}
        </span>
      </div>
      <Range
        label="Triangles at most"
        value={s.most_triangles}
        unit=""
        min={12}
        max={400000}
        low={100}
        high={400000}
        log
        step={1}
        onDrag={(v) => change({ most_triangles: Math.round(v) })}
        onKeep={(v) => change({ most_triangles: Math.round(v) })}
      />
      {s.surfaces.map((x, i) => (
        <div key={i} className="mt-1 border-t border-rule/70 pt-1" data-surface={i}>
          <div className="flex items-center justify-between gap-2">
            <b className="truncate font-normal">{model.surfaces[i] ?? `surface ${i + 1}`}</b>
            <input
              type="color"
              aria-label={`Tint of surface ${i + 1}`}
              value={x.tint}
              className="h-[18px] w-9 border border-ink bg-paper p-0"
              onChange={(e) => surface(i, { tint: e.target.value })}
            />
          </div>
          <div className="flex items-center justify-between text-[12px]">
            <span>
              lightness{" "}
              <Num
                label={`Lightness of surface ${i + 1}`}
                value={x.bright}
                unit="%"
                onKeep={(v) => surface(i, { bright: Math.min(400, Math.max(10, v)) })}
              />
            </span>
            <span title="Light that comes through, as through leaves">
              light through{" "}
              <Num
                label={`Light through surface ${i + 1}`}
                value={x.light}
                unit="%"
                onKeep={(v) => surface(i, { light: Math.min(100, v) })}
              />
            </span>
          </div>
        </div>
      ))}
      <div className="mt-3 flex justify-end gap-2">
        <button className="btn" onClick={() => set({ cabinetAt: { drawer: "own", kind: null } })}>
          Leave
        </button>
        <button
          className="btn do"
          data-make-kind
          disabled={busy || !s.label.trim()}
          onClick={() => void make()}
        >
          {busy ? "making levels…" : part === null ? "Make it a kind" : "Make it anew"}
        </button>
      </div>
    </div>
  );
}

/**
 * A small simulated outside library: what it has, at a chosen size, fetched with progress; a fetch
 * that breaks off can be tried again.
 */
function SupplierDrawer() {
  const [list, setList] = useState<SupplyLine[]>([]);
  const [jobs, setJobs] = useState<Record<string, Supply>>({});
  const [px, setPx] = useState(512);
  const [detail, setDetail] = useState(50);
  useEffect(() => {
    ask<SupplyLine[]>("GET", "/api/supplier").then(setList).catch(tell);
  }, []);
  const count = (i: SupplyLine) =>
    Math.round(i.triangles[0] * Math.pow(i.triangles[1] / i.triangles[0], detail / 100));
  const fetchIt = async (i: SupplyLine) => {
    try {
      let job = await ask<Supply>("POST", `/api/supplier/${i.name}/fetches`, {
        texture_px: px,
        triangles: i.sort === "kind" ? count(i) : 2,
      });
      for (;;) {
        setJobs((j) => ({ ...j, [i.name]: job }));
        if (job.state !== "running") break;
        await new Promise((r) => setTimeout(r, 120));
        job = await ask<Supply>("GET", `/api/fetches/${job.id}`);
      }
      if (job.kind) {
        await refreshCabinet();
        set((s) => ({ cabinetAt: s.cabinetAt && { ...s.cabinetAt, kind: job.kind } }));
      }
    } catch (e) {
      tell(e);
    }
  };
  const wear = (i: SupplyLine) => {
    const id = freshId("ground");
    const schema = get().schema;
    void edit(`${i.label} laid`, (d) =>
      d.ground.push(
        complete(schema, schema.scene.$defs.Material, {
          id,
          on: true,
          name: i.label,
          ground: "turf",
          texture: jobs[i.name].texture,
          size_m: 2,
          where: [{ kind: "slope", low: 0, high: 12, soft: 3 }],
        }) as never,
      ),
    );
    set({ cabinetAt: null, open: "ground", chosen: id });
  };
  return (
    <div className="min-h-0 overflow-y-auto px-3 py-2" data-supplier>
      <p className="text-soft">
        A library outside, as it would be on a network; it ships with Sow and needs none. What is
        fetched is kept in the own drawer.
      </p>
      <div className="my-2 grid grid-cols-2 gap-x-6">
        <label className="flex items-center justify-between">
          Pictures
          <select
            className="text"
            aria-label="Size of pictures"
            value={px}
            onChange={(e) => setPx(+e.target.value)}
          >
            {(list[0]?.texture_px ?? [512]).map((v) => (
              <option key={v} value={v}>
                {v} px
              </option>
            ))}
          </select>
        </label>
        <Range
          label="Detail"
          value={detail}
          unit="%"
          min={0}
          max={100}
          low={0}
          high={100}
          log={false}
          step={1}
          onDrag={setDetail}
          onKeep={setDetail}
        />
      </div>
      {list.map((i) => {
        const job = jobs[i.name];
        return (
          <div
            key={i.name}
            className="flex items-center gap-3 border-t border-rule/70 py-[5px]"
            data-supply={i.name}
            data-state={job?.state ?? ""}
          >
            <span className="w-[212px] shrink-0">
              <b>{i.label}</b>{" "}
              <span className="text-soft">
                {i.sort === "kind" ? "" : "texture, "}
                {i.note}
              </span>
            </span>
            <span className="w-[92px] shrink-0 text-soft">
              {i.sort === "kind" ? `${count(i).toLocaleString("en")} triangles` : `${px} px`}
            </span>
            <span className="min-w-0 grow text-[12px]">
              {job?.state === "running" ? (
                <span className="block h-[7px] w-full border border-ink">
                  <i className="block h-full bg-moss" style={{ width: `${job.share * 100}%` }} />
                </span>
              ) : job?.state === "failed" ? (
                <span className="text-rust">{job.told}</span>
              ) : job?.state === "done" ? (
                <span className="text-moss">
                  fetched, {Math.round(job.bytes / 1024).toLocaleString("en")} kB
                </span>
              ) : (
                ""
              )}
            </span>
            {job?.state === "done" && job.texture && (
              <button className="btn" onClick={() => wear(i)}>
                Lay it
              </button>
            )}
            {job?.state === "done" && job.kind && (
              <button
                className="btn"
                onClick={() => set({ cabinetAt: { drawer: "supplier", kind: job.kind } })}
              >
                See it
              </button>
            )}
            <button
              className="btn"
              data-fetch
              disabled={job?.state === "running"}
              onClick={() => void fetchIt(i)}
            >
              {job?.state === "failed"
                ? "Try again"
                : job?.state === "done"
                  ? "Fetch anew"
                  : "Fetch"}
            </button>
          </div>
        );
      })}
    </div>
  );
}
