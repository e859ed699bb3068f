import { draws } from "../tools";
import { Copy, MoveDown, MoveUp, PersonStanding, Spline, Trash2 } from "lucide-react";
import { listOf } from "../../document/lists";
import { edit } from "../../state/edits";
import { chosen } from "../../state/selection";
import { get, set } from "../../state/store";
import { brush, setBrush } from "../brush";
import { endContour } from "../contour";
import { doWork } from "../work";

import type { Action } from "./action";

function move(by: number) {
  const c = chosen();
  if (!c) return;
  void edit(`${c.entry.name}: ${by < 0 ? "earlier" : "later"}`, (d) => {
    const l = listOf(d, c.list);
    l.splice(c.index + by, 0, ...l.splice(c.index, 1));
  });
}

/** What is chosen: copied, taken away, moved, drawn by hand. */
export const ENTRIES: Action[] = [
  {
    id: "figure",
    name: "Stand a person on the ground",
    keys: "P",
    icon: PersonStanding,
    can: () => !!get().products,
    run: () => set((s) => ({ placing: "person", tool: s.tool === "figure" ? null : "figure" })),
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
    id: "end-line",
    name: "End the line that is drawn",
    keys: "Enter",
    can: () => draws(get().tool) && get().drawing.length > 1,
    run: endContour,
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
];
