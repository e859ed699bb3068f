/**
 * Everything that a person can do: buttons, the command finder and the shortcut sheet all come from
 * this list.
 */
import {
  Anchor,
  Archive,
  Box,
  Camera,
  CircleHelp,
  Copy,
  Crosshair,
  Download,
  Eye,
  FilePlus2,
  Focus,
  FolderOpen,
  History,
  Image,
  Keyboard,
  Layers,
  LayoutGrid,
  LibraryBig,
  Map as MapIcon,
  Maximize,
  Mountain,
  MoveDown,
  MoveUp,
  PersonStanding,
  RectangleVertical,
  Redo2,
  Ruler,
  ScanSearch,
  Search,
  Spline,
  Sprout,
  Trash2,
  Undo2,
  Wind,
  type LucideIcon,
} from "lucide-react";
import type { Scene } from "../api/client";
import { edit, engine, freshId, get, set, step, type Section } from "../state";
import { heightAt } from "../view/products";
import { brush, setBrush } from "./brush";
import { endContour } from "./place";

export interface Action {
  id: string;
  name: string;
  keys?: string;
  icon?: LucideIcon;
  can?: () => boolean;
  run: () => void;
}

const LISTS = ["land", "far", "water", "ground", "planting", "pieces", "shots", "marks"] as const;
export type ListName = (typeof LISTS)[number];

/**
 * The list of a section in a document; the far land's own entries lie with what is beyond the plot.
 */
export function listOf(doc: Scene, list: ListName): any[] {
  return list === "far" ? doc.beyond.land! : (doc[list] as any[]);
}
export const pathOf = (list: ListName, index: number): (string | number)[] =>
  list === "far" ? ["beyond", "land", index] : [list, index];

export function find(
  doc: Scene | null,
  id: string | null,
): { list: ListName; index: number; entry: any } | null {
  if (doc && id)
    for (const list of LISTS) {
      const index = listOf(doc, list).findIndex((e) => e.id === id);
      if (index >= 0) return { list, index, entry: listOf(doc, list)[index] };
    }
  return null;
}
const chosen = () => find(get().doc, get().chosen);

function move(by: number) {
  const c = chosen();
  if (!c) return;
  void edit(`${c.entry.name}: ${by < 0 ? "earlier" : "later"}`, (d) => {
    const l = listOf(d, c.list);
    l.splice(c.index + by, 0, ...l.splice(c.index, 1));
  });
}

export function keepShot() {
  const v = engine.view;
  const doc = get().doc;
  if (!v?.products || !doc) return;
  const id = freshId("shot");
  const p = v.pose;
  const ground = heightAt(v.products.field, p.east, p.north);
  const size = v.canvas;
  void edit(`Shot ${doc.shots.length + 1}`, (d) =>
    d.shots.push({
      id,
      name: `Shot ${d.shots.length + 1}`,
      on: true,
      east_m: +p.east.toFixed(2),
      north_m: +p.north.toFixed(2),
      eye_m: +Math.max(0.05, p.up - ground).toFixed(2),
      bearing: +p.bearing.toFixed(2),
      tilt: +p.tilt.toFixed(2),
      focal_mm: +p.focal.toFixed(1),
      width_px: 1920,
      height_px: Math.round((1920 * size.height) / size.width / 2) * 2,
    }),
  );
  set({ open: "shots", chosen: id, insetShot: id });
}

/** Goes to an entry that has a place, or over the whole plot. */
function goToChosen() {
  const v = engine.view;
  const c = chosen();
  const doc = get().doc;
  if (!v?.products || !doc) return;
  if (c?.list === "shots") v.pose = v.poseOf(c.entry);
  else {
    const place =
      c && "east_m" in c.entry && "north_m" in c.entry
        ? { e: c.entry.east_m as number, n: c.entry.north_m as number }
        : get().place
          ? { e: get().place!.east, n: get().place!.north }
          : null;
    if (place) {
      const back = c?.list === "pieces" ? 9 : 120;
      const b = (v.pose.bearing * Math.PI) / 180;
      const east = place.e - Math.sin(b) * back;
      const north = place.n - Math.cos(b) * back;
      const up = Math.max(
        heightAt(v.products.field, east, north) + 1.7,
        heightAt(v.products.field, place.e, place.n) + back * 0.25,
      );
      v.pose = {
        ...v.pose,
        east,
        north,
        up,
        tilt:
          (Math.atan2(heightAt(v.products.field, place.e, place.n) + 1 - up, back) * 180) / Math.PI,
      };
    } else overview();
  }
  v.changed(true);
  set({ pose: v.pose });
}

/**
 * Of all sowings only the chosen one is drawn; once more brings all back. The scene is not changed.
 */
function showAlone() {
  const doc = get().doc!;
  const c = chosen();
  const others = c ? doc.planting.filter((s) => s.id !== c.entry.id).map((s) => s.id) : [];
  const same = others.length === get().hidden.size && others.every((o) => get().hidden.has(o));
  const hidden = new Set(same || !c ? [] : others);
  set({ hidden });
  if (engine.view && get().products) engine.view.setScene(doc, get().products!, hidden);
}

function overview() {
  const v = engine.view!;
  const doc = get().doc!;
  const m = get().manifest!;
  const w = doc.plot.width_m;
  const d = doc.plot.depth_m;
  const reach = Math.max(w, d);
  v.pose = {
    east: w / 2,
    north: -reach * 0.3,
    up: m.highest + reach * 0.32,
    bearing: 0,
    tilt: -24,
    focal: 28,
  };
  v.changed(true);
  set({ pose: v.pose });
}

const SECTIONS: [Section, string][] = [
  ["land", "Land"],
  ["water", "Water"],
  ["ground", "Ground"],
  ["planting", "Planting"],
  ["light", "Light and air"],
  ["shots", "Shots"],
  ["handover", "Hand over"],
  ["marks", "Marks"],
];

export const ACTIONS: Action[] = [
  {
    id: "undo",
    name: "Undo",
    keys: "Ctrl+Z",
    icon: Undo2,
    can: () => !!get().state?.undo,
    run: () => void step("undo"),
  },
  {
    id: "redo",
    name: "Redo",
    keys: "Ctrl+Shift+Z",
    icon: Redo2,
    can: () => !!get().state?.redo,
    run: () => void step("redo"),
  },
  {
    id: "commands",
    name: "Find a command",
    keys: "Ctrl+K",
    icon: Search,
    run: () => set({ dialog: "commands" }),
  },
  {
    id: "map",
    name: "Swap map and view",
    keys: "M",
    icon: MapIcon,
    run: () => set((s) => ({ mapOnFace: !s.mapOnFace })),
  },
  {
    id: "figure",
    name: "Stand a person on the ground",
    keys: "P",
    icon: PersonStanding,
    can: () => !!get().products,
    run: () => set((s) => ({ placing: "person", tool: s.tool === "figure" ? null : "figure" })),
  },
  {
    id: "shot",
    name: "Keep this view as a shot",
    keys: "F",
    icon: Camera,
    can: () => !!get().products,
    run: keepShot,
  },
  {
    id: "still",
    name: "Save a still",
    keys: "Ctrl+P",
    icon: Image,
    can: () => !!get().products,
    run: () => set({ dialog: "still" }),
  },
  {
    id: "goto",
    name: "Go to what is chosen",
    keys: "G",
    icon: Crosshair,
    can: () => !!get().products,
    run: goToChosen,
  },
  {
    id: "overview",
    name: "See the whole plot",
    keys: "O",
    icon: Maximize,
    can: () => !!get().products,
    run: overview,
  },
  {
    id: "transect",
    name: "Lay a transect over the land",
    keys: "T",
    icon: Spline,
    can: () => !!get().products,
    run: () => {
      const d = get().doc!.plot;
      set((s) => ({
        transect: s.transect
          ? null
          : {
              line: [d.width_m * 0.1, d.depth_m * 0.42, d.width_m * 0.9, d.depth_m * 0.58],
              times: 1,
              answer: null,
            },
      }));
    },
  },
  {
    id: "proof",
    name: "Proof sheet: vary one setting",
    keys: "V",
    icon: LayoutGrid,
    can: () => !!get().products,
    run: () => set({ dialog: "proof" }),
  },
  {
    id: "reality",
    name: "Reality check of the land",
    keys: "R",
    icon: Ruler,
    can: () => !!get().products,
    run: () => set({ dialog: "reality" }),
  },
  {
    id: "lands",
    name: "Ready-made lands",
    keys: "L",
    icon: Mountain,
    can: () => !!get().doc,
    run: () => set({ dialog: "lands" }),
  },
  {
    id: "ground-presets",
    name: "Sets of materials for this land",
    keys: "B",
    icon: Layers,
    can: () => !!get().products,
    run: () => set({ dialog: "ground-presets" }),
  },
  {
    id: "texture-sizes",
    name: "Texture sizes by nearness",
    keys: "N",
    icon: ScanSearch,
    can: () => !!get().doc?.ground.length,
    run: () => set({ dialog: "texture-sizes" }),
  },
  {
    id: "mixes",
    name: "Planting mixes for this land",
    keys: "X",
    icon: Sprout,
    can: () => !!get().products,
    run: () => set({ dialog: "mixes" }),
  },
  {
    id: "cabinet",
    name: "Open the cabinet of kinds",
    keys: "K",
    icon: LibraryBig,
    can: () => !!get().cabinet && !!get().doc,
    run: () => set((s) => ({ cabinetAt: s.cabinetAt ? null : { drawer: "all", kind: null } })),
  },
  {
    id: "play",
    name: "Let wind and waves move",
    keys: "Z",
    icon: Wind,
    can: () => !!get().products,
    run: () => {
      const on = !get().playing;
      set({ playing: on });
      engine.view?.play(on);
    },
  },
  {
    id: "cards",
    name: "Draw plants as cards only",
    keys: "J",
    icon: RectangleVertical,
    can: () => !!get().products,
    run: () => {
      const t = { ...get().thinned, proxies: !get().thinned.proxies };
      set({ thinned: t });
      engine.view?.thin(t.budget, t.proxies);
    },
  },
  {
    id: "alone",
    name: "Show what is chosen alone",
    keys: "I",
    icon: Focus,
    can: () => ["planting"].includes(chosen()?.list ?? "") || get().hidden.size > 0,
    run: () => showAlone(),
  },
  {
    id: "faults",
    name: "Faults in the planting: what floats, crosses, repeats",
    keys: "U",
    icon: Anchor,
    can: () => !!get().products,
    run: () => set({ dialog: "faults" }),
  },
  {
    id: "why",
    name: "Why here? Ask of the pinned place",
    keys: "Y",
    icon: CircleHelp,
    can: () => !!get().products,
    run: () => set((s) => ({ why: !s.why })),
  },
  {
    id: "fit-map",
    name: "Fit the map to the plot",
    keys: "Home",
    icon: Maximize,
    can: () => !!get().mapAt,
    run: () => set({ mapAt: null }),
  },
  {
    id: "end-line",
    name: "End the line that is drawn",
    keys: "Enter",
    can: () => ["contour", "line", "area"].includes(get().tool ?? "") && get().drawing.length > 1,
    run: endContour,
  },
  {
    id: "brush-smaller",
    name: "Smaller brush",
    keys: ",",
    can: () => get().tool === "brush",
    run: () => {
      const b = brush();
      setBrush({ size_m: +(b.size_m / 1.2).toPrecision(3) });
    },
  },
  {
    id: "brush-larger",
    name: "Larger brush",
    keys: ".",
    can: () => get().tool === "brush",
    run: () => {
      const b = brush();
      setBrush({ size_m: +(b.size_m * 1.2).toPrecision(3) });
    },
  },
  {
    id: "clean",
    name: "Clean view",
    keys: "C",
    icon: Eye,
    run: () => set((s) => ({ clean: !s.clean })),
  },
  {
    id: "duplicate",
    name: "Duplicate with a new seed",
    keys: "Ctrl+D",
    icon: Copy,
    can: () => !!chosen(),
    run: () => {
      const c = chosen()!;
      const id = freshId(c.list);
      void edit(`${c.entry.name}: duplicate`, (d) => {
        const copy = structuredClone(c.entry);
        copy.id = id;
        copy.name = `${copy.name.slice(0, 70)} 2`;
        if ("seed" in copy) copy.seed = (copy.seed + 1) % 1000;
        if (c.list === "pieces") copy.east_m += 2;
        for (const w of copy.where ?? []) if (w.bound === c.entry.id) w.bound = id;
        listOf(d, c.list).splice(c.index + 1, 0, copy);
      });
      set({ chosen: id });
    },
  },
  {
    id: "remove",
    name: "Remove what is chosen",
    keys: "Delete",
    icon: Trash2,
    can: () => !!chosen(),
    run: () => {
      const c = chosen()!;
      void edit(`${c.entry.name}: removed`, (d) => {
        listOf(d, c.list).splice(c.index, 1);
      });
      set({ chosen: null });
    },
  },
  {
    id: "earlier",
    name: "Move earlier in the key",
    keys: "Alt+ArrowUp",
    icon: MoveUp,
    can: () => (chosen()?.index ?? 0) > 0,
    run: () => move(-1),
  },
  {
    id: "later",
    name: "Move later in the key",
    keys: "Alt+ArrowDown",
    icon: MoveDown,
    can: () => {
      const c = chosen();
      return !!c && c.index < listOf(get().doc!, c.list).length - 1;
    },
    run: () => move(1),
  },
  {
    id: "history",
    name: "History",
    keys: "H",
    icon: History,
    can: () => !!get().state,
    run: () => set({ dialog: "history" }),
  },
  {
    id: "parts",
    name: "Own drawer: parts of scenes",
    keys: "D",
    icon: Archive,
    can: () => !!get().doc,
    run: () => set({ dialog: "parts" }),
  },
  {
    id: "new",
    name: "New scene",
    keys: "Ctrl+Alt+N",
    icon: FilePlus2,
    run: () => set({ dialog: "new" }),
  },
  {
    id: "scenes",
    name: "Open a scene",
    keys: "Ctrl+O",
    icon: FolderOpen,
    run: () => set({ dialog: "scenes" }),
  },
  {
    id: "keys",
    name: "Keys and moves",
    keys: "?",
    icon: Keyboard,
    run: () => set({ dialog: "keys" }),
  },
  {
    id: "escape",
    name: "Leave a tool or dialog",
    keys: "Escape",
    run: () =>
      set((s) => ({
        tool: s.drawing.length ? s.tool : null,
        drawing: [],
        dialog: null,
        cabinetAt: null,
        compared: null,
        clean: false,
        pinned: s.dialog || s.tool ? s.pinned : false,
      })),
  },
  ...SECTIONS.map(([section, label], i): Action => ({
    id: `section-${section}`,
    name: `Unfold ${label}`,
    keys: String(i + 1),
    icon: section === "handover" ? Download : Box,
    run: () => set((s) => ({ open: s.open === section ? null : section })),
  })),
];

export const action = (id: string) => ACTIONS.find((a) => a.id === id)!;

/** The action whose keys were pressed, unless the person is typing. */
export function onKey(e: KeyboardEvent) {
  const typing = (e.target as HTMLElement).closest?.(
    "input:not([type=checkbox]):not([type=color]), textarea, select, [role=menu]",
  );
  const name = [
    e.ctrlKey || e.metaKey ? "Ctrl" : "",
    e.altKey ? "Alt" : "",
    e.shiftKey && e.key !== "?" ? "Shift" : "",
    e.key.length === 1 ? e.key.toUpperCase() : e.key,
  ]
    .filter(Boolean)
    .join("+");
  const found = ACTIONS.find((a) => a.keys === name);
  if (!found || (typing && found.id !== "escape" && !name.startsWith("Ctrl"))) return;
  if (typing && (name === "Ctrl+Z" || name === "Ctrl+Shift+Z")) return;
  if (get().dialog && !["escape", "undo", "redo"].includes(found.id)) return;
  e.preventDefault();
  if (!found.can || found.can()) found.run();
}
