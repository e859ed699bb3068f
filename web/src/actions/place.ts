/** Placing on the map: handles of the chosen landform, and contours drawn point by point. */
import type { Scene } from "../api/client";
import { drag, edit, get, set } from "../state";

/** A grip on the map; those with `outline` only draw the shape's edge. */
export interface Handle { name: string; east: number; north: number; owner: string; index: number; outline?: boolean }

interface Framed { east_m: number; north_m: number; turn?: number; length_m?: number; breadth_m?: number; width_m?: number; depth_m?: number; area?: string; kind: string; name: string }

const SIZES: Record<string, [string, string]> = { form: ["breadth_m", "length_m"], heightmap: ["width_m", "depth_m"], borrowed: ["width_m", "depth_m"] };

/** Grips of the chosen landform: its centre, its turn, its two sizes. */
export function handlesOf(doc: Scene, chosen: string | null): Handle[] {
  const index = doc.land.findIndex((l) => l.id === chosen), e = doc.land[index] as unknown as Framed | undefined;
  if (!e || !(e.kind in SIZES) || e.area === "plot") return [];
  const [across, along] = SIZES[e.kind].map((k) => (e as unknown as Record<string, number>)[k] / 2), a = ((e.turn ?? 0) * Math.PI) / 180;
  const at = (x: number, y: number): { east: number; north: number } => ({ east: e.east_m + x * Math.cos(a) + y * Math.sin(a), north: e.north_m - x * Math.sin(a) + y * Math.cos(a) });
  const grip = (name: string, x: number, y: number): Handle => ({ name, ...at(x, y), owner: e.name, index });
  const round = e.kind === "form", edge = Array.from({ length: 48 }, (_, k) => { const t = (k / 48) * 2 * Math.PI; return { ...grip("outline", 0, 0), ...(round ? at(across * Math.cos(t), along * Math.sin(t)) : at(across * [1, -1, -1, 1][Math.floor(k / 12)], along * [1, 1, -1, -1][Math.floor(k / 12)])), outline: true }; });
  return [...edge, grip("centre", 0, 0), grip("turn", 0, along * 1.22), grip("breadth", across, 0), grip("length", 0, along)];
}

/** The grip follows the pointer; with `snap` a turn keeps to 15 degrees. */
export function moveHandle(h: Handle, east: number, north: number, snap: boolean) {
  drag((d) => {
    const e = d.land[h.index] as unknown as Record<string, number> & { kind: string }, a = ((e.turn ?? 0) * Math.PI) / 180, dx = east - e.east_m, dy = north - e.north_m;
    const [across, along] = SIZES[e.kind];
    if (h.name === "centre") { e.east_m = +east.toFixed(2); e.north_m = +north.toFixed(2); }
    else if (h.name === "turn") { const t = (Math.atan2(dx, dy) * 180) / Math.PI + 360; e.turn = +((snap ? Math.round(t / 15) * 15 : t) % 360).toFixed(1); }
    else if (h.name === "breadth") e[across] = +Math.max(1, 2 * Math.abs(dx * Math.cos(a) - dy * Math.sin(a))).toFixed(2);
    else e[along] = +Math.max(1, 2 * Math.abs(dx * Math.sin(a) + dy * Math.cos(a))).toFixed(2);
  });
}

export function addContourPoint([east, north]: [number, number]) {
  const last = get().drawing[get().drawing.length - 1];
  if (last && Math.hypot(last[0] - east, last[1] - north) < 1e-3) return;
  set((s) => ({ drawing: [...s.drawing, [+east.toFixed(2), +north.toFixed(2)]] }));
}

/** The line drawn so far becomes a contour of the chosen landform, one step above the last. Near its beginning it is closed. */
export function endContour() {
  const { drawing, doc, chosen, tool } = get();
  if (tool !== "contour" || !doc) return;
  const index = doc.land.findIndex((l) => l.id === chosen && l.kind === "contours");
  set({ drawing: [] });
  if (index < 0 || drawing.length < 2) return;
  const first = drawing[0], last = drawing[drawing.length - 1], reach = Math.max(doc.plot.width_m, doc.plot.depth_m) * 0.012;
  const points = drawing.length > 3 && Math.hypot(first[0] - last[0], first[1] - last[1]) < reach ? [...drawing.slice(0, -1), first] : drawing;
  void edit(`${doc.land[index].name}: line ${((doc.land[index] as { lines?: unknown[] }).lines?.length ?? 0) + 1}`, (d) => {
    const e = d.land[index] as unknown as { lines: { height_m: number; points: number[][] }[]; step_m: number };
    e.lines.push({ height_m: e.lines.length ? e.lines[e.lines.length - 1].height_m + e.step_m : 0, points });
  });
}
