import type { Scene } from "../api/shapes";
import { drag, edit } from "../state/edits";
import { get, set } from "../state/store";
import { doWork } from "./work";

/** The chosen line or area of the marks, and where it lies in their list. */
export function chosenMark(
  doc: Scene | null,
  chosen: string | null,
): { index: number; points: number[][]; area: boolean; name: string } | null {
  const index = doc?.marks.findIndex((m) => m.id === chosen && m.kind !== "mask") ?? -1;
  if (!doc || index < 0) return null;
  const m = doc.marks[index] as { points?: number[][]; kind?: string; name: string };
  return { index, points: m.points ?? [], area: m.kind === "area", name: m.name };
}

const putPoints = (index: number, points: number[][]) => (d: Scene) => {
  (d.marks[index] as { points: number[][] }).points = points.map(([e, n, corner]) =>
    corner ? [+e.toFixed(2), +n.toFixed(2), 1] : [+e.toFixed(2), +n.toFixed(2)],
  );
};

/** A point of the chosen mark follows the pointer. */
export function movePoint(k: number, east: number, north: number) {
  const m = chosenMark(get().doc, get().chosen);
  if (m)
    drag(
      putPoints(
        m.index,
        m.points.map((p, i) => (i === k ? [east, north, ...p.slice(2)] : p)),
      ),
    );
}

/**
 * A new point on the way between two; the one that is there when it is near. Gives its place in the
 * list.
 */
export function insertPoint(east: number, north: number, reach: number): number | null {
  const m = chosenMark(get().doc, get().chosen);
  if (!m) return null;
  let best = reach;
  let at = -1;
  m.points.forEach((p, i) => {
    const q = m.points[i + 1] ?? (m.area ? m.points[0] : null);
    if (!q) return;
    const dx = q[0] - p[0];
    const dy = q[1] - p[1];
    const t = Math.min(
      1,
      Math.max(0, ((east - p[0]) * dx + (north - p[1]) * dy) / (dx * dx + dy * dy || 1)),
    );
    const d = Math.hypot(east - p[0] - t * dx, north - p[1] - t * dy);
    if (d < best) {
      best = d;
      at = i + 1;
    }
  });
  if (at < 0) return null;
  drag(putPoints(m.index, [...m.points.slice(0, at), [east, north], ...m.points.slice(at)]));
  return at;
}

export function removePoint(k: number) {
  const m = chosenMark(get().doc, get().chosen);
  if (m && m.points.length > (m.area ? 3 : 2))
    void edit(
      `${m.name}: a point less`,
      putPoints(
        m.index,
        m.points.filter((_, i) => i !== k),
      ),
    );
}

/** A point becomes a corner, or smooth again. */
export function turnCorner(k: number) {
  const m = chosenMark(get().doc, get().chosen);
  if (m)
    void edit(
      `${m.name}: ${m.points[k][2] ? "a smooth point" : "a corner"}`,
      putPoints(
        m.index,
        m.points.map((p, i) => (i === k ? [p[0], p[1], p[2] ? 0 : 1] : p)),
      ),
    );
}

export type Reshape =
  | "reverse"
  | "simplify"
  | "split"
  | "left"
  | "right"
  | "close"
  | "open"
  | "join"
  | "stretch"
  | "carry";

export type Built = "wall" | "slabs";

/** Solids laid along the chosen line or round the chosen area. */
export async function buildAlong(what: Built, sizes: object) {
  const { chosen } = get();
  if (!chosen) return;
  const done = await doWork("build along a line", { mark: chosen, what, ...sizes });
  if (done?.label) set({ open: "planting" });
}

/** Whole-line work on the chosen mark; `more` holds what the work asks besides. */
export async function reshape(how: Reshape, more: object = {}) {
  const { doc, chosen } = get();
  if (!doc || !chosen) return;
  const done = await doWork("reshape line", { mark: chosen, how, ...more });
  if (done?.label && how === "carry") set({ open: "ground" });
}
