import { Archive, FilePlus2, FolderOpen, Grid2x2, History, Redo2, Undo2 } from "lucide-react";
import { step } from "../../state/edits";
import { get, set } from "../../state/store";

import type { Action } from "./action";

/** What was done: taken back, kept, begun anew. */
export const HISTORY: Action[] = [
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
    id: "history",
    name: "History",
    keys: "H",
    icon: History,
    can: () => !!get().state,
    run: () => set({ dialog: "history" }),
  },
  {
    id: "parts",
    name: "Drawers of parts",
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
];
