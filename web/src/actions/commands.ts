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
  Grid2x2,
  History,
  Image,
  Keyboard,
  Layers,
  LayoutGrid,
  LibraryBig,
  type LucideIcon,
  Map as MapIcon,
  Maximize,
  Mountain,
  MountainSnow,
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
} from "lucide-react";
import { listOf } from "../document/lists";
import { SECTIONS } from "../document/sections";
import { edit, step } from "../state/edits";
import { engine } from "../state/engine";
import { toggleHidden } from "../state/hiding";
import { chosen } from "../state/selection";
import { get, set } from "../state/store";
import { LAND } from "../view/view";
import { brush, setBrush } from "./brush";
import { goToChosen, keepShot, overview, showAlone } from "./camera";
import { endContour } from "./contour";
import { doWork } from "./work";

export interface Action {
  id: string;
  name: string;
  keys?: string;
  icon?: LucideIcon;
  can?: () => boolean;
  run: () => void;
}

function move(by: number) {
  const c = chosen();
  if (!c) return;
  void edit(`${c.entry.name}: ${by < 0 ? "earlier" : "later"}`, (d) => {
    const l = listOf(d, c.list);
    l.splice(c.index + by, 0, ...l.splice(c.index, 1));
  });
}

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
    id: "hide-land",
    name: "Hide the land in the view, or show it",
    keys: "Shift+L",
    icon: MountainSnow,
    can: () => !!get().products,
    run: () => toggleHidden(LAND),
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
    run: () => void doWork("duplicate an entry", { entry: chosen()!.entry.id }),
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
    id: "plot",
    name: "The plot: its size and grid",
    keys: "Ctrl+Alt+P",
    icon: Grid2x2,
    can: () => !!get().doc,
    run: () => set({ dialog: "plot" }),
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
