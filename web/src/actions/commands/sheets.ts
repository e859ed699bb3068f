import {
  Anchor,
  Box,
  Download,
  Keyboard,
  Layers,
  LayoutGrid,
  LibraryBig,
  Mountain,
  RectangleVertical,
  Ruler,
  ScanSearch,
  Search,
  Sprout,
  SunMedium,
} from "lucide-react";
import { SECTIONS } from "../../document/sections";
import { engine } from "../../state/engine";
import { get, set } from "../../state/store";

import type { Action } from "./action";

/** Sheets and dialogs that are laid over the scene. */
export const SHEETS: Action[] = [
  {
    id: "commands",
    name: "Find a command",
    keys: "Ctrl+K",
    icon: Search,
    run: () => set({ dialog: "commands" }),
  },
  {
    id: "lights",
    name: "Compare lights",
    icon: SunMedium,
    can: () => !!get().doc,
    run: () => set({ dialog: "lights" }),
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
    id: "faults",
    name: "Faults in the planting: what floats, crosses, repeats",
    keys: "U",
    icon: Anchor,
    can: () => !!get().products,
    run: () => set({ dialog: "faults" }),
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
