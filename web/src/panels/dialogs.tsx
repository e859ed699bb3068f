/** Dialogs: a new scene, the scenes, commands, keys, history, a still. */
import { GroundPresets, TextureSizes } from "./ground";
import { useEffect, useRef, useState } from "react";
import { ACTIONS } from "../actions/actions";
import { ask, saveFile, type Scene, type SceneLine, type SceneState } from "../api/client";
import { engine, openScene, set, tell, usePage } from "../state";
import { PartsDrawer, Steps } from "./history";
import { dropFile } from "./drop";
import { Lands, Proof, Reality } from "./judge";
import { Zones } from "./masks";
import { Range, shown } from "./settings";
import { Faults, Mixes } from "./planting";
import { SheetBox } from "./sheetbox";

export function Dialogs() {
  const dialog = usePage((s) => s.dialog);
  const confirm = usePage((s) => s.confirm);
  const raw = usePage((s) => s.raw);
  if (raw) return <RawPosts key={raw.name} />;
  if (confirm)
    return (
      <SheetBox title="Before it is made">
        <p>{confirm.text}</p>
        <div className="mt-3 flex justify-end gap-2">
          <button className="btn" onClick={() => set({ confirm: null })}>
            No, leave it
          </button>
          <button
            className="btn do"
            onClick={() => {
              set({ confirm: null });
              confirm.yes();
            }}
          >
            Yes, go on
          </button>
        </div>
      </SheetBox>
    );
  if (dialog === "new") return <NewScene />;
  if (dialog === "scenes") return <Scenes />;
  if (dialog === "commands") return <Commands />;
  if (dialog === "keys") return <Keys />;
  if (dialog === "history") return <Steps />;
  if (dialog === "parts") return <PartsDrawer />;
  if (dialog === "zones") return <Zones />;
  if (dialog === "still") return <Still />;
  if (dialog === "proof") return <Proof />;
  if (dialog === "reality") return <Reality />;
  if (dialog === "lands") return <Lands />;
  if (dialog === "ground-presets") return <GroundPresets />;
  if (dialog === "mixes") return <Mixes />;
  if (dialog === "faults") return <Faults />;
  if (dialog === "texture-sizes") return <TextureSizes />;
  return null;
}

/** A file of raw posts says nothing of its layout: it is asked for, with a guess. */
function RawPosts() {
  const raw = usePage((s) => s.raw)!;
  const [layout, setLayout] = useState(raw.guess);
  const bytes = layout.columns * layout.rows * (layout.type === "uint16" ? 2 : 4);
  const fits = bytes === raw.bytes;
  const number = (k: "columns" | "rows") => (
    <input
      className="text w-20"
      type="number"
      aria-label={k}
      value={layout[k] || ""}
      onChange={(e) => setLayout({ ...layout, [k]: Math.max(0, Math.round(+e.target.value)) })}
    />
  );
  return (
    <SheetBox title="How is this file laid out?" onLeave={() => set({ raw: null })}>
      <p className="mb-2 text-soft">
        “{raw.name}”, {raw.bytes.toLocaleString("en")} bytes.{" "}
        {raw.guess.columns
          ? "A likely layout is filled in."
          : "Its size fits no square of 16 or 32 bit posts: give columns and rows."}
      </p>
      <div className="flex items-center justify-between">
        <span>Columns and rows</span>
        <span>
          {number("columns")} × {number("rows")}
        </span>
      </div>
      <div className="mt-1 flex items-center justify-between">
        <span>Posts</span>
        <select
          className="text"
          aria-label="Type of posts"
          value={layout.type}
          onChange={(e) => setLayout({ ...layout, type: e.target.value })}
        >
          <option value="uint16">16 bit whole numbers</option>
          <option value="float32">32 bit floats, metres</option>
        </select>
      </div>
      <div className="mt-1 flex items-center justify-between">
        <span>Byte order</span>
        <select
          className="text"
          aria-label="Byte order"
          value={layout.order}
          onChange={(e) => setLayout({ ...layout, order: e.target.value })}
        >
          <option value="little">little-endian</option>
          <option value="big">big-endian</option>
        </select>
      </div>
      {!fits && layout.columns > 0 && (
        <p className="mt-1 text-rust">
          {layout.columns} × {layout.rows} such posts are {bytes.toLocaleString("en")} bytes.
        </p>
      )}
      <div className="mt-3 flex justify-end gap-2">
        <button className="btn" onClick={() => set({ raw: null })}>
          Leave
        </button>
        <button
          className="btn do"
          disabled={!fits}
          onClick={() => {
            set({ raw: null });
            raw.take(layout);
          }}
        >
          Bring it in
        </button>
      </div>
    </SheetBox>
  );
}

function NewScene() {
  const [name, setName] = useState("New scene");
  const [plot, setPlot] = useState({ width_m: 800, depth_m: 800, posts: 1025 });
  const [start, setStart] = useState(true);
  const put = (k: keyof typeof plot) => (v: number) =>
    setPlot((p) => ({ ...p, [k]: k === "posts" ? Math.round(v) : v }));
  const reach = Math.max(plot.width_m, plot.depth_m);
  const spacing = reach / (plot.posts - 1);
  const full = (plot.width_m / spacing + 1) * (plot.depth_m / spacing + 1);
  const make = async () => {
    const nice = (v: number) => +v.toPrecision(2);
    const document = {
      format: "sow-scene-1",
      name: name.trim() || "New scene",
      plot: { ...plot, seed: Math.floor(Math.random() * 1e6) },
      ...(start
        ? {
            land: [
              {
                id: "swell",
                name: "Swell",
                kind: "noise",
                form: "smooth",
                feature_m: nice(reach * 0.45),
                height_m: nice(reach * 0.1),
                octaves: 8,
                gain: 0.45,
                seed: 3,
              },
            ],
            ground: [
              { id: "turf", name: "Turf", ground: "turf", size_m: 3 },
              {
                id: "rock",
                name: "Rock",
                ground: "granite",
                size_m: 6,
                where: [{ kind: "slope", low: 27, high: 90, soft: 8 }],
              },
            ],
          }
        : {}),
    };
    try {
      const made = await ask<SceneState>("POST", "/api/scenes", { document });
      set({ dialog: null, open: "land" });
      await openScene(made.id);
    } catch (e) {
      tell(e);
    }
  };
  return (
    <SheetBox title="A new scene">
      <label className="flex items-center justify-between gap-2">
        Name
        <input
          className="text w-56"
          value={name}
          maxLength={80}
          autoFocus
          onFocus={(e) => e.target.select()}
          onChange={(e) => setName(e.target.value)}
          onKeyDown={(e) => e.key === "Enter" && void make()}
        />
      </label>
      <Range
        label="Width, west to east"
        value={plot.width_m}
        unit="m"
        min={2}
        max={64000}
        low={10}
        high={20000}
        log
        onDrag={put("width_m")}
        onKeep={put("width_m")}
      />
      <Range
        label="Depth, south to north"
        value={plot.depth_m}
        unit="m"
        min={2}
        max={64000}
        low={10}
        high={20000}
        log
        onDrag={put("depth_m")}
        onKeep={put("depth_m")}
      />
      <Range
        label="Full grid"
        value={plot.posts}
        unit="posts"
        min={33}
        max={4097}
        low={129}
        high={4097}
        log
        step={1}
        onDrag={put("posts")}
        onKeep={put("posts")}
      />
      <p className="mt-1 text-soft">
        {shown(spacing)} m between posts · {shown((2 * full) / 1e6)} M triangles and about{" "}
        {shown((full * 7) / 1e6 + 20)} MB in full. Most pictures need less land than one thinks: a
        walk across takes {shown(reach / 1.3 / 60)} minutes.
      </p>
      <label className="mt-2 flex items-center gap-2">
        <input
          type="checkbox"
          className="accent-moss"
          checked={start}
          onChange={(e) => setStart(e.target.checked)}
        />
        Begin with rolling ground, turf and rock
      </label>
      <div className="mt-3 flex justify-end gap-2">
        <button className="btn mr-auto" data-ready-lands onClick={() => set({ dialog: "lands" })}>
          Ready-made lands…
        </button>
        <button className="btn" onClick={() => set({ dialog: null })}>
          Leave
        </button>
        <button className="btn do" data-make onClick={() => void make()}>
          Make the scene
        </button>
      </div>
    </SheetBox>
  );
}

function Scenes() {
  const [list, setList] = useState<SceneLine[] | null>(null);
  const now = usePage((s) => s.id);
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    ask<SceneLine[]>("GET", "/api/scenes").then(setList).catch(tell);
  }, []);
  return (
    <SheetBox title="Scenes">
      <div className="max-h-[50vh] overflow-auto">
        {list?.map((s) => (
          <button
            key={s.id}
            className={`flex w-full justify-between border-b border-rule px-1 py-1 text-left hover:bg-paper2 ${s.id === now ? "font-semibold text-moss" : ""}`}
            onClick={() => {
              set({ dialog: null });
              void openScene(s.id);
            }}
          >
            <span>{s.name}</span>
            <span className="text-soft">
              {new Date(s.kept).toLocaleString("en-GB", {
                dateStyle: "medium",
                timeStyle: "short",
              })}
            </span>
          </button>
        ))}
      </div>
      <div className="mt-3 flex justify-end gap-2">
        <button className="btn mr-auto" onClick={() => input.current?.click()}>
          From a file (.zip, .json)…
        </button>
        <input
          ref={input}
          type="file"
          accept=".zip,.json"
          className="hidden"
          data-scene-file
          onChange={(e) => {
            const f = e.target.files?.[0];
            if (f) {
              set({ dialog: null });
              void dropFile(f);
            }
            e.target.value = "";
          }}
        />
        <button className="btn" onClick={() => set({ dialog: null })}>
          Leave
        </button>
        <button
          className="btn"
          data-duplicate-scene
          disabled={now === null}
          onClick={() =>
            void ask<SceneState>("POST", `/api/scenes/${now}/duplicates`)
              .then((s) => {
                set({ dialog: null });
                return openScene(s.id);
              })
              .catch(tell)
          }
        >
          Duplicate this one
        </button>
        <button className="btn do" onClick={() => set({ dialog: "new" })}>
          New scene…
        </button>
      </div>
    </SheetBox>
  );
}

function Commands() {
  const [text, setText] = useState("");
  const [now, setNow] = useState(0);
  const found = ACTIONS.filter(
    (a) =>
      a.name.toLowerCase().includes(text.toLowerCase()) &&
      a.id !== "commands" &&
      (!a.can || a.can()),
  );
  const run = (i: number) => {
    const a = found[i];
    if (a) {
      set({ dialog: null });
      a.run();
    }
  };
  return (
    <SheetBox title="Find a command">
      <input
        className="text w-full"
        autoFocus
        placeholder="what do you want to do?"
        value={text}
        onChange={(e) => {
          setText(e.target.value);
          setNow(0);
        }}
        onKeyDown={(e) => {
          if (e.key === "ArrowDown") {
            e.preventDefault();
            setNow(Math.min(now + 1, found.length - 1));
          }
          if (e.key === "ArrowUp") {
            e.preventDefault();
            setNow(Math.max(0, now - 1));
          }
          if (e.key === "Enter") run(now);
        }}
      />
      <div className="menu mt-2 max-h-[46vh]! border-0! shadow-none!">
        {found.map((a, i) => {
          const Icon = a.icon;
          return (
            <button key={a.id} className={`line ${i === now ? "now" : ""}`} onClick={() => run(i)}>
              {Icon ? <Icon size={14} /> : <i className="w-[14px]" />}
              <span className="grow">{a.name}</span>
              <span className="text-soft">{a.keys}</span>
            </button>
          );
        })}
      </div>
    </SheetBox>
  );
}

function Keys() {
  const moves = [
    ["Drag", "look round"],
    ["Right drag, or Alt and drag", "go round the place under the pointer"],
    ["Shift and drag", "move sideways"],
    ["Wheel", "come nearer to the pointer"],
    ["Arrow keys, Page up and down", "walk, rise and sink; Shift is faster"],
    ["Click the ground", "read its height, slope and material"],
  ];
  return (
    <SheetBox title="Keys and moves" wide={620}>
      <div className="grid grid-cols-2 gap-x-8">
        <div>
          {ACTIONS.filter((a) => a.keys && !a.id.startsWith("section")).map((a) => (
            <div key={a.id} className="flex justify-between border-b border-rule/60 py-[2px]">
              <span>{a.name}</span>
              <b>{a.keys}</b>
            </div>
          ))}
        </div>
        <div>
          <div className="flex justify-between border-b border-rule/60 py-[2px]">
            <span>Unfold a section of the key</span>
            <b>1 to 8</b>
          </div>
          {moves.map(([k, v]) => (
            <div key={k} className="border-b border-rule/60 py-[2px]">
              <b>{k}</b>
              <br />
              <span className="text-soft">{v}</span>
            </div>
          ))}
        </div>
      </div>
    </SheetBox>
  );
}

const SIZES: [string, number, number][] = [
  ["Small proof", 640, 360],
  ["Wide", 1920, 1080],
  ["Square", 1600, 1600],
  ["Tall", 1200, 1600],
  ["4K", 3840, 2160],
];

function Still() {
  const doc = usePage((s) => s.doc) as Scene;
  const chosen = usePage((s) => s.chosen);
  const [shot, setShot] = useState(doc.shots.find((s) => s.id === chosen)?.id ?? "");
  const picked = doc.shots.find((s) => s.id === shot);
  const [size, setSize] = useState<[number, number]>([
    picked?.width_px ?? 1920,
    picked?.height_px ?? 1080,
  ]);
  const [frames, setFrames] = useState(16);
  const cost = (engine.view?.lastMs ?? 100) / 1000;
  const seconds = Math.max(
    1,
    ((size[0] * size[1]) / (engine.view!.canvas.width * engine.view!.canvas.height)) *
      frames *
      Math.max(0.25, cost * 3),
  );
  const make = async () => {
    const view = engine.view!;
    const pose = picked ? view.poseOf(picked as never) : view.pose;
    let stop = false;
    set({
      dialog: null,
      still: {
        share: 0,
        stop: () => {
          stop = true;
        },
      },
    });
    try {
      const blob = await view.still(
        pose,
        size[0],
        size[1],
        frames,
        (share) =>
          set({
            still: {
              share,
              stop: () => {
                stop = true;
              },
            },
          }),
        () => stop,
      );
      if (blob) {
        saveFile(
          blob,
          `${doc.name.replace(/[^\p{L}\p{N}]+/gu, "-").toLowerCase()}-${size[0]}x${size[1]}.png`,
        );
      }
    } catch (e) {
      tell(e);
    } finally {
      set({ still: null });
    }
  };
  const number = (i: 0 | 1, label: string) => (
    <input
      className="text w-[72px]"
      type="number"
      aria-label={label}
      min={64}
      max={8192}
      value={size[i]}
      onChange={(e) => {
        const v = Math.min(8192, Math.max(1, Math.round(+e.target.value)));
        setSize(i ? [size[0], v] : [v, size[1]]);
      }}
    />
  );
  return (
    <SheetBox title="Save a still">
      <label className="flex items-center justify-between">
        From
        <select
          className="text w-56"
          value={shot}
          onChange={(e) => {
            setShot(e.target.value);
            const s = doc.shots.find((x) => x.id === e.target.value);
            if (s) setSize([s.width_px!, s.height_px!]);
          }}
        >
          <option value="">the view as it is</option>
          {doc.shots.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </select>
      </label>
      <div className="mt-2 flex items-center justify-between">
        <span>Size</span>
        <span className="flex items-center gap-1">
          {number(0, "Still width in px")} × {number(1, "Still height in px")} px
        </span>
      </div>
      <div className="mt-1 flex flex-wrap gap-1">
        {SIZES.map(([n, w, h]) => (
          <button
            key={n}
            className={`btn ${size[0] === w && size[1] === h ? "on" : ""}`}
            onClick={() => setSize([w, h])}
          >
            {n}
          </button>
        ))}
      </div>
      <Range
        label="Frames summed"
        value={frames}
        unit="frames"
        min={1}
        max={128}
        low={1}
        high={64}
        log={false}
        step={1}
        onDrag={(v) => setFrames(Math.round(v))}
        onKeep={(v) => setFrames(Math.round(v))}
        help="More frames give smoother edges."
      />
      <p className="mt-1 text-soft">
        Holds every plant. About {shown(seconds)} s here; it can be stopped.
      </p>
      <div className="mt-3 flex justify-end gap-2">
        <button className="btn" onClick={() => set({ dialog: null })}>
          Leave
        </button>
        <button
          className="btn do"
          data-still
          disabled={size[0] < 64 || size[1] < 64}
          onClick={() => void make()}
        >
          Save still
        </button>
      </div>
    </SheetBox>
  );
}
