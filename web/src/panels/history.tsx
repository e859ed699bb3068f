/**
 * The history: every step with its picture and time, courses that were left, snapshots, comparing,
 * taking a part back, and its cost on the disk.
 */
import { useEffect, useRef, useState } from "react";
import { compare, layDifference } from "../actions/compare";
import {
  ask,
  type PartLine,
  type Scene,
  type SceneLine,
  type Step,
  type UsageAnswer,
} from "../api/client";
import { edit, get, goTo, set, tell, usePage } from "../state";
import { shown } from "./settings";
import { SheetBox } from "./sheetbox";

export const PARTS: [string, string][] = [
  ["land", "the land"],
  ["water", "the water"],
  ["ground", "the ground"],
  ["planting", "the planting"],
  ["pieces", "what was placed by hand"],
  ["light", "light and air"],
  ["shots", "the shots"],
  ["marks", "the marks"],
];
const bytes = (n: number) =>
  n > 1e9 ? `${shown(n / 1e9)} GB` : n > 1e6 ? `${shown(n / 1e6)} MB` : `${shown(n / 1e3)} kB`;

/** Takes a part into the scene as one step. */
export async function takePart(from: Record<string, unknown>, what: string) {
  try {
    const made = await ask<Scene>("POST", `/api/scenes/${get().id}/taken`, {
      document: get().doc,
      ...from,
    });
    await edit(what, (d) => {
      for (const k of Object.keys(d)) delete (d as Record<string, unknown>)[k];
      Object.assign(d, made);
    });
  } catch (e) {
    tell(e);
  }
}

export function Steps() {
  const [list, setList] = useState<Step[]>([]);
  const [more, setMore] = useState(true);
  const [named, setNamed] = useState(false);
  const state = usePage((s) => s.state)!;
  const [at, setAt] = useState<number>(state.revision);
  const [use, setUse] = useState<UsageAnswer | null>(null);
  const [keep, setKeep] = useState(200);
  const [name, setName] = useState("");
  const [note, setNote] = useState("");
  const [part, setPart] = useState("land");
  const top = useRef<HTMLDivElement>(null);
  const load = async (before?: number) => {
    try {
      const rows = await ask<Step[]>(
        "GET",
        `/api/scenes/${get().id}/history?${new URLSearchParams({ ...(before ? { before: String(before) } : {}), ...(named ? { snapshots: "1" } : {}) })}`,
      );
      setList((l) => (before ? [...l, ...rows] : rows));
      setMore(rows.length === 60);
    } catch (e) {
      tell(e);
    }
  };
  const measure = () =>
    ask<UsageAnswer>("GET", `/api/scenes/${get().id}/usage`).then(setUse).catch(tell);
  useEffect(() => {
    void load();
    void measure();
  }, [state.revision, named]);
  useEffect(() => setAt(state.revision), [state.revision]);
  const now = list.find((s) => s.id === at) ?? list[0];
  useEffect(() => {
    setName(now?.snapshot ?? "");
    setNote(now?.note ?? "");
  }, [now?.id, now?.snapshot, now?.note]);
  const keepName = () =>
    now &&
    void ask("POST", `/api/scenes/${get().id}/snapshots`, {
      revision: now.id,
      name: name.trim(),
      note: note.trim(),
    })
      .then(() => load())
      .catch(tell);
  const time = (s: Step) =>
    new Date(s.made).toLocaleTimeString("en-GB", {
      hour: "2-digit",
      minute: "2-digit",
      second: "2-digit",
    });
  const day = (s: Step) =>
    new Date(s.made).toLocaleDateString("en-GB", { day: "numeric", month: "long" });
  return (
    <SheetBox title="History" wide={800}>
      <div className="grid grid-cols-[1fr_290px] gap-4">
        <div>
          <div className="mb-1 flex items-baseline justify-between">
            <span className="text-soft">
              Every step is kept, also those that were left for another course.
            </span>
            <label className="flex items-center gap-1">
              <input
                type="checkbox"
                className="accent-moss"
                checked={named}
                onChange={(e) => setNamed(e.target.checked)}
              />
              snapshots only
            </label>
          </div>
          <div
            ref={top}
            className="h-[56vh] overflow-auto border-y border-rule"
            role="listbox"
            aria-label="Steps"
          >
            {list.map((s, i) => (
              <div key={s.id}>
                {(i === 0 || day(s) !== day(list[i - 1])) && (
                  <div className="bg-paper2 px-1 text-[11.5px] text-soft">{day(s)}</div>
                )}
                <button
                  role="option"
                  aria-selected={s.id === at}
                  data-step={s.id}
                  className={`flex w-full items-center gap-2 border-b border-rule/60 py-[2px] pr-1 text-left hover:bg-paper2 ${s.id === at ? "bg-paper2" : ""}`}
                  onClick={() => setAt(s.id)}
                  onDoubleClick={() => void goTo(s.id)}
                >
                  <svg width="26" height="40" className="shrink-0" aria-hidden>
                    {s.current ? (
                      <>
                        <path d="M8 0V40" stroke="#23302b" strokeWidth="1.6" />
                        <circle
                          cx="8"
                          cy="20"
                          r={s.id === state.revision ? 5 : 3.2}
                          fill={s.id === state.revision ? "#4d6a3a" : "#f4efe4"}
                          stroke={s.id === state.revision ? "#4d6a3a" : "#23302b"}
                          strokeWidth="1.5"
                        />
                      </>
                    ) : (
                      <>
                        <path d="M8 0V40" stroke="#23302b" strokeWidth="1.6" />
                        <path
                          d="M18 0V40"
                          stroke="#9a8f78"
                          strokeWidth="1.4"
                          strokeDasharray="3 3"
                        />
                        <circle
                          cx="18"
                          cy="20"
                          r="3.2"
                          fill="#f4efe4"
                          stroke={s.id === state.revision ? "#4d6a3a" : "#9a8f78"}
                          strokeWidth="1.5"
                        />
                      </>
                    )}
                  </svg>
                  <img
                    src={`/api/scenes/${get().id}/revisions/${s.id}.png`}
                    loading="lazy"
                    alt=""
                    width={50}
                    height={38}
                    className="h-[38px] w-[50px] shrink-0 border border-ink bg-[#e6dfce] object-cover"
                  />
                  <span className="min-w-0 grow leading-tight">
                    {s.snapshot && <b className="block truncate text-[#7c520f]">{s.snapshot}</b>}
                    <span
                      className={`block truncate ${s.id === state.revision ? "font-semibold text-moss" : ""}`}
                    >
                      {s.label}
                    </span>
                  </span>
                  <span className="text-[11.5px] text-soft">{time(s)}</span>
                </button>
              </div>
            ))}
            {more && list.length > 0 && (
              <button className="btn m-1" onClick={() => void load(list[list.length - 1].id)}>
                Older steps…
              </button>
            )}
            {!list.length && (
              <p className="p-2 text-soft">
                {named ? "No snapshot yet: choose a step, give it a name and keep it." : "…"}
              </p>
            )}
          </div>
        </div>
        <div className="flex flex-col gap-2">
          {now && (
            <>
              <img
                src={`/api/scenes/${get().id}/revisions/${now.id}.png`}
                alt={`Picture of ${now.label}`}
                className="h-[150px] w-full border border-ink bg-[#e6dfce] object-cover"
              />
              <div className="leading-tight">
                <b>{now.label}</b>
                <div className="text-[11.5px] text-soft">
                  {day(now)}, {time(now)}
                  {now.id === state.revision
                    ? " · you are here"
                    : now.current
                      ? ""
                      : " · of a course that was left"}
                </div>
              </div>
              <div className="flex flex-wrap gap-1">
                <button
                  className="btn do"
                  data-go
                  disabled={now.id === state.revision}
                  onClick={() => void goTo(now.id)}
                >
                  Go there
                </button>
                <button
                  className="btn"
                  data-compare
                  disabled={now.id === state.revision}
                  onClick={() =>
                    void compare(
                      { id: now.id, label: now.snapshot || now.label },
                      { id: state.revision, label: "now" },
                    )
                  }
                >
                  Compare with now
                </button>
              </div>
              <div className="border-t border-rule pt-1">
                <input
                  className="text w-full"
                  placeholder="name it, such as: before the snow"
                  aria-label="Name of the snapshot"
                  value={name}
                  maxLength={80}
                  onChange={(e) => setName(e.target.value)}
                />
                <textarea
                  className="text mt-1 h-[44px] w-full resize-none"
                  placeholder="a note"
                  aria-label="Note"
                  value={note}
                  maxLength={2000}
                  onChange={(e) => setNote(e.target.value)}
                  onKeyDown={(e) => e.stopPropagation()}
                />
                <button
                  className="btn"
                  disabled={
                    (name.trim() === (now.snapshot ?? "") && note.trim() === now.note) ||
                    (!name.trim() && !now.snapshot)
                  }
                  onClick={keepName}
                >
                  {name.trim() || !now.snapshot ? "Keep as snapshot" : "No snapshot any more"}
                </button>
              </div>
              <div className="flex items-center gap-1 border-t border-rule pt-1">
                <span className="shrink-0">Bring</span>
                <select
                  className="text min-w-0 grow"
                  aria-label="Part to bring into now"
                  value={part}
                  onChange={(e) => setPart(e.target.value)}
                >
                  {PARTS.map(([k, l]) => (
                    <option key={k} value={k}>
                      {l}
                    </option>
                  ))}
                </select>
                <button
                  className="btn"
                  data-bring
                  disabled={now.id === state.revision}
                  onClick={() =>
                    void takePart(
                      { revision: now.id, part },
                      `${PARTS.find((p) => p[0] === part)![1].replace(/^./, (c) => c.toUpperCase())} of “${(now.snapshot || now.label).slice(0, 60)}”`,
                    )
                  }
                >
                  into now
                </button>
              </div>
            </>
          )}
          {use && (
            <div className="mt-auto border-t border-rule pt-1 text-[12px]">
              <div className="text-soft" data-usage>
                {use.revisions} steps, {use.snapshots} snapshots: {bytes(use.documents)} of
                documents, {bytes(use.rasters)} of rasters; the whole store {bytes(use.database)}
              </div>
              <div className="mt-1 flex items-center gap-1">
                Keep the newest
                <input
                  className="num w-[6ch]"
                  aria-label="Steps to keep"
                  value={keep}
                  onChange={(e) => setKeep(Math.max(1, Math.round(+e.target.value) || 1))}
                />
                <button
                  className="btn"
                  data-prune
                  disabled={use.revisions <= keep}
                  onClick={() =>
                    set({
                      confirm: {
                        text: `All steps but the newest ${keep}, the snapshots and where you are go for good.`,
                        yes: () => {
                          void ask<UsageAnswer>("POST", `/api/scenes/${get().id}/prunings`, {
                            keep,
                          })
                            .then((u) => {
                              setUse(u);
                              set({ told: `${use.revisions - u.revisions} steps pruned.` });
                              void load();
                            })
                            .catch(tell);
                        },
                      },
                    })
                  }
                >
                  Prune…
                </button>
              </div>
            </div>
          )}
        </div>
      </div>
    </SheetBox>
  );
}

/** Two pictures of the same view with a wipe between them, and what differs. */
export function Wipe() {
  const c = usePage((s) => s.compared);
  const ref = useRef<HTMLDivElement>(null);
  if (!c) return null;
  const to = (at: number) =>
    set((s) => ({ compared: s.compared && { ...s.compared, at: Math.min(1, Math.max(0, at)) } }));
  const a = c.answer;
  const count = (n: number) => n.toLocaleString("en");
  return (
    <div
      ref={ref}
      className="absolute inset-0 z-20 touch-none select-none"
      data-wipe
      onPointerDown={(e) => {
        if ((e.target as HTMLElement).closest("[data-told]")) return;
        (e.currentTarget as Element).setPointerCapture(e.pointerId);
        const r = ref.current!.getBoundingClientRect();
        to((e.clientX - r.left) / r.width);
      }}
      onPointerMove={(e) => {
        if (e.buttons && (e.currentTarget as Element).hasPointerCapture(e.pointerId)) {
          const r = ref.current!.getBoundingClientRect();
          to((e.clientX - r.left) / r.width);
        }
      }}
    >
      <img
        src={c.b.picture}
        alt={c.b.label}
        draggable={false}
        className="absolute inset-0 h-full w-full"
      />
      <img
        src={c.a.picture}
        alt={c.a.label}
        draggable={false}
        className="absolute inset-0 h-full w-full"
        style={{ clipPath: `inset(0 ${100 - c.at * 100}% 0 0)` }}
      />
      <div
        role="slider"
        tabIndex={0}
        aria-label="Wipe"
        aria-valuenow={Math.round(c.at * 100)}
        className="absolute top-0 bottom-0 w-[14px] cursor-ew-resize"
        style={{ left: `calc(${c.at * 100}% - 7px)` }}
        onKeyDown={(e) => {
          const d = e.key === "ArrowRight" ? 0.02 : e.key === "ArrowLeft" ? -0.02 : 0;
          if (d) {
            e.preventDefault();
            e.stopPropagation();
            to(c.at + d);
          }
        }}
      >
        <i className="mx-auto block h-full w-[2px] bg-[#f4efe4] shadow-[0_0_0_1px_#23302b]" />
      </div>
      <span className="absolute top-3 left-3 max-w-[40%] truncate bg-paper/90 px-2">
        {c.a.label}
      </span>
      <span className="absolute top-3 right-3 max-w-[40%] truncate bg-paper/90 px-2">
        {c.b.label}
      </span>
      <div
        data-told
        className="absolute bottom-3 left-1/2 w-[460px] -translate-x-1/2 border border-ink bg-paper/95 px-3 py-2 text-[12.5px]"
      >
        <div className="max-h-[92px] overflow-auto">
          {a.differences.length
            ? a.differences.map((d) => (
                <div key={d.part}>
                  <b>{d.part}</b>{" "}
                  {[
                    d.added.length && `added ${d.added.join(", ")}`,
                    d.removed.length && `without ${d.removed.join(", ")}`,
                    d.changed.length && `changed ${d.changed.join(", ")}`,
                  ]
                    .filter(Boolean)
                    .join("; ")}
                </div>
              ))
            : "Nothing differs."}
        </div>
        <div className="mt-1 text-soft">
          {a.plants[0] !== a.plants[1]
            ? `${count(a.plants[0])} plants, then ${count(a.plants[1])} · `
            : ""}
          {a.heights
            ? `raised up to ${shown(Math.max(0, a.heights.highest))} m (${shown(a.raised_m3)} m³), lowered up to ${shown(Math.max(0, -a.heights.lowest))} m (${shown(a.lowered_m3)} m³)`
            : "the plots differ in size"}
        </div>
        <div className="mt-1 flex justify-end gap-1">
          {a.heights && (
            <button className="btn" data-difference onClick={() => void layDifference()}>
              Lay the difference over the land
            </button>
          )}
          <button className="btn" onClick={() => set({ compared: null })}>
            Leave
          </button>
        </div>
      </div>
    </div>
  );
}

/**
 * Parts of this scene put into the own drawer, and those of the drawer or of another scene used
 * here.
 */
export function PartsDrawer() {
  const [list, setList] = useState<PartLine[]>([]);
  const [scenes, setScenes] = useState<SceneLine[]>([]);
  const [part, setPart] = useState("ground");
  const [name, setName] = useState("");
  const [from, setFrom] = useState(0);
  const [add, setAdd] = useState(false);
  const id = usePage((s) => s.id);
  const doc = usePage((s) => s.doc!);
  const load = () => {
    ask<PartLine[]>("GET", "/api/parts").then(setList).catch(tell);
    ask<SceneLine[]>("GET", "/api/scenes")
      .then((l) => setScenes(l.filter((x) => x.id !== id)))
      .catch(tell);
  };
  useEffect(load, [id]);
  const word = (k: string) => PARTS.find((p) => p[0] === k)?.[1] ?? k;
  return (
    <SheetBox title="Own drawer" wide={560}>
      <p className="mb-2 text-soft">
        A part of a scene, kept here with the marks that it uses, can be laid into any other scene.
      </p>
      <div className="flex items-center gap-1">
        <select
          className="text"
          aria-label="Part"
          value={part}
          onChange={(e) => setPart(e.target.value)}
        >
          {PARTS.map(([k, l]) => (
            <option key={k} value={k}>
              {l}
            </option>
          ))}
        </select>
        <input
          className="text grow"
          placeholder={`${doc.name}: ${word(part)}`}
          aria-label="Name in the drawer"
          value={name}
          maxLength={80}
          onChange={(e) => setName(e.target.value)}
        />
        <button
          className="btn do"
          data-keep-part
          onClick={() =>
            void ask("POST", "/api/parts", {
              scene: id,
              part,
              name: name.trim() || `${doc.name}: ${word(part)}`.slice(0, 80),
            })
              .then(() => {
                setName("");
                load();
              })
              .catch(tell)
          }
        >
          Put into the drawer
        </button>
      </div>
      <div className="mt-2 max-h-[34vh] overflow-auto border-y border-rule" data-parts>
        {list.length ? (
          list.map((p) => (
            <div key={p.id} className="flex items-center gap-2 border-b border-rule/60 py-[3px]">
              <span className="min-w-0 grow truncate">
                <b>{p.name}</b> <span className="text-soft">{word(p.part)}</span>
              </span>
              <button
                className="btn"
                data-use={p.id}
                onClick={() => {
                  void takePart(
                    { drawer: p.id, add: add && p.part !== "light" },
                    `${p.name} from the drawer`,
                  );
                  set({ dialog: null });
                }}
              >
                Use here
              </button>
              <button
                className="btn"
                aria-label={`Take ${p.name} out`}
                onClick={() => void ask("DELETE", `/api/parts/${p.id}`).then(load).catch(tell)}
              >
                take out
              </button>
            </div>
          ))
        ) : (
          <p className="py-2 text-soft">The drawer is empty.</p>
        )}
      </div>
      <label className="mt-2 flex items-center gap-1">
        <input
          type="checkbox"
          className="accent-moss"
          checked={add}
          onChange={(e) => setAdd(e.target.checked)}
        />
        after what is here, not in its place
      </label>
      <div className="mt-2 flex items-center gap-1 border-t border-rule pt-2">
        From another scene
        <select
          className="text min-w-0 grow"
          aria-label="Scene to take from"
          value={from}
          onChange={(e) => setFrom(+e.target.value)}
        >
          <option value={0}>{scenes.length ? "choose…" : "there is no other"}</option>
          {scenes.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </select>
        <button
          className="btn"
          disabled={!from}
          onClick={() => {
            void takePart(
              { scene: from, part, add: add && part !== "light" },
              `${word(part)} of ${scenes.find((s) => s.id === from)?.name}`.slice(0, 120),
            );
            set({ dialog: null });
          }}
        >
          take {word(part)}
        </button>
      </div>
    </SheetBox>
  );
}
