/** Placing on the map: handles of the chosen landform, and contours drawn point by point. */
import { ask, type Scene } from "../api/client";
import { complete } from "../panels/settings";
import { drag, edit, freshId, get, nudge, set, tell } from "../state";

/** A grip on the map; those with `outline` only draw the shape's edge. */
export interface Handle {
  name: string;
  east: number;
  north: number;
  owner: string;
  index: number;
  outline?: boolean;
  piece?: boolean;
}

interface Framed {
  east_m: number;
  north_m: number;
  turn?: number;
  length_m?: number;
  breadth_m?: number;
  width_m?: number;
  depth_m?: number;
  area?: string;
  kind: string;
  name: string;
}

const SIZES: Record<string, [string, string]> = {
  form: ["breadth_m", "length_m"],
  heightmap: ["width_m", "depth_m"],
  borrowed: ["width_m", "depth_m"],
};

/** Grips of the chosen piece: where it stands, its turn. */
function handlesOfPiece(doc: Scene, chosen: string | null): Handle[] {
  const index = doc.pieces.findIndex((p) => p.id === chosen);
  const p = doc.pieces[index];
  const facts = get().cabinet?.kinds.find((k) => k.name === p?.kind);
  if (!p || !facts) return [];
  const r = Math.max(
    facts.reach_m * (p.size! / 100) * 1.12,
    Math.max(doc.plot.width_m, doc.plot.depth_m) * 0.012,
  );
  const a = (p.turn! * Math.PI) / 180;
  const one = (name: string, east: number, north: number, outline = false): Handle => ({
    name,
    east,
    north,
    owner: p.name,
    index,
    piece: true,
    outline,
  });
  return [
    ...Array.from({ length: 32 }, (_, k) =>
      one(
        "outline",
        p.east_m! + r * Math.sin((k / 32) * 2 * Math.PI),
        p.north_m! + r * Math.cos((k / 32) * 2 * Math.PI),
        true,
      ),
    ),
    one("centre", p.east_m!, p.north_m!),
    one("turn", p.east_m! + r * Math.sin(a), p.north_m! + r * Math.cos(a)),
  ];
}

/** Grips of the chosen landform: its centre, its turn, its two sizes; or of the chosen piece. */
export function handlesOf(doc: Scene, chosen: string | null): Handle[] {
  const pieces = handlesOfPiece(doc, chosen);
  if (pieces.length) return pieces;
  const index = doc.land.findIndex((l) => l.id === chosen);
  const e = doc.land[index] as unknown as Framed | undefined;
  if (!e || !(e.kind in SIZES) || e.area === "plot") return [];
  const [across, along] = SIZES[e.kind].map((k) => (e as unknown as Record<string, number>)[k] / 2);
  const a = ((e.turn ?? 0) * Math.PI) / 180;
  const at = (x: number, y: number): { east: number; north: number } => ({
    east: e.east_m + x * Math.cos(a) + y * Math.sin(a),
    north: e.north_m - x * Math.sin(a) + y * Math.cos(a),
  });
  const grip = (name: string, x: number, y: number): Handle => ({
    name,
    ...at(x, y),
    owner: e.name,
    index,
  });
  const round = e.kind === "form";
  const edge = Array.from({ length: 48 }, (_, k) => {
    const t = (k / 48) * 2 * Math.PI;
    return {
      ...grip("outline", 0, 0),
      ...(round
        ? at(across * Math.cos(t), along * Math.sin(t))
        : at(
            across * [1, -1, -1, 1][Math.floor(k / 12)],
            along * [1, 1, -1, -1][Math.floor(k / 12)],
          )),
      outline: true,
    };
  });
  return [
    ...edge,
    grip("centre", 0, 0),
    grip("turn", 0, along * 1.22),
    grip("breadth", across, 0),
    grip("length", 0, along),
  ];
}

/** The grip follows the pointer; with `snap` a turn keeps to 15 degrees. */
export function moveHandle(h: Handle, east: number, north: number, snap: boolean) {
  if (h.piece) {
    nudge((d) => {
      const p = d.pieces[h.index];
      const t = (Math.atan2(east - p.east_m!, north - p.north_m!) * 180) / Math.PI + 360;
      if (h.name === "centre") {
        p.east_m = +east.toFixed(3);
        p.north_m = +north.toFixed(3);
      } else p.turn = +((snap ? Math.round(t / 15) * 15 : t) % 360).toFixed(1);
    });
    return;
  }
  drag((d) => {
    const e = d.land[h.index] as unknown as Record<string, number> & { kind: string };
    const a = ((e.turn ?? 0) * Math.PI) / 180;
    const dx = east - e.east_m;
    const dy = north - e.north_m;
    const [across, along] = SIZES[e.kind];
    if (h.name === "centre") {
      e.east_m = +east.toFixed(2);
      e.north_m = +north.toFixed(2);
    } else if (h.name === "turn") {
      const t = (Math.atan2(dx, dy) * 180) / Math.PI + 360;
      e.turn = +((snap ? Math.round(t / 15) * 15 : t) % 360).toFixed(1);
    } else if (h.name === "breadth")
      e[across] = +Math.max(1, 2 * Math.abs(dx * Math.cos(a) - dy * Math.sin(a))).toFixed(2);
    else e[along] = +Math.max(1, 2 * Math.abs(dx * Math.sin(a) + dy * Math.cos(a))).toFixed(2);
  });
}

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

/** Another line of the marks, of these points. */
function beside(name: string, points: number[][], label: string) {
  const { schema } = get();
  const id = freshId("line");
  void edit(label, (d) => {
    d.marks.push(
      complete(schema, schema.scene.$defs.Line, {
        id,
        name: name.slice(0, 80),
        kind: "line",
        on: true,
        points: [],
      }),
    );
    putPoints(d.marks.length - 1, points)(d);
  });
  set({ chosen: id, open: "marks" });
}

/** The contour through the pinned place becomes a line. */
export async function contourHere() {
  const { place, id, doc } = get();
  if (!place) return;
  try {
    const found = await ask<{ height_m: number; points: number[][] }>(
      "POST",
      `/api/scenes/${id}/isolines`,
      { document: doc, east: place.east, north: place.north },
    );
    beside(
      `Contour ${found.height_m.toFixed(1)} m`,
      found.points,
      `Contour of ${found.height_m.toFixed(1)} m as a line`,
    );
  } catch (e) {
    tell(e);
  }
}

/**
 * A pool filled to just below the rim of the hollow at a place; where the ground is no hollow the
 * person is told.
 */
export async function fillHollow(
  water: string,
  east: number,
  north: number,
  above: number | null = null,
) {
  const { id, doc } = get();
  try {
    const { floor_m, rim_m } = await ask<{ floor_m: number; rim_m: number }>(
      "POST",
      `/api/scenes/${id}/hollow`,
      { document: doc, east, north, above },
    );
    const deep = rim_m - floor_m;
    if (deep > 0.05 || above === null)
      await edit("Pool filled", (d) => {
        const w = d.water.find((x) => x.id === water);
        if (w)
          Object.assign(w, {
            reach: "pool",
            east_m: +east.toFixed(1),
            north_m: +north.toFixed(1),
            level_m: +(deep > 0.05 ? rim_m - Math.min(0.05, deep / 4) : floor_m + 0.3).toFixed(2),
          });
      });
    if (deep <= 0.05)
      set({
        told:
          above === null
            ? "The ground is no hollow here: water would run off. Dig one with the basin brush, or lower the level."
            : "No rim lies higher.",
      });
  } catch (e) {
    tell(e);
  }
}

/**
 * Whole-line work on the chosen mark; `value` is an offset or a tolerance in m, the other line's
 * id, or the per cent where a stretch begins.
 */
export function reshape(
  how: "reverse" | "simplify" | "split" | "left" | "right" | "close" | "open" | "join" | "stretch",
  value?: number | string,
  more?: number,
) {
  const { doc, chosen, schema } = get();
  const m = chosenMark(doc, chosen);
  if (!doc || !m) return;
  const reach = Math.max(doc.plot.width_m, doc.plot.depth_m);
  const p = m.points;
  if (how === "reverse") void edit(`${m.name}: turned round`, putPoints(m.index, [...p].reverse()));
  else if (how === "simplify")
    void edit(
      `${m.name}: simplified`,
      putPoints(m.index, simplified(p, Number(value) || reach * 0.004)),
    );
  else if (how === "close" || how === "open") {
    if (how === "close" && p.length < 3) {
      set({ told: "An area needs three points." });
      return;
    }
    void edit(`${m.name}: ${how === "close" ? "closed to an area" : "opened to a line"}`, (d) => {
      const old = d.marks[m.index] as unknown as Record<string, unknown>;
      d.marks[m.index] = complete(schema, schema.scene.$defs[how === "close" ? "Area" : "Line"], {
        ...old,
        kind: how === "close" ? "area" : "line",
      });
    });
  } else if (how === "split") {
    if (p.length < 3 || m.area) return;
    const k = Math.floor(p.length / 2);
    const id = freshId("line");
    void edit(`${m.name}: split`, (d) => {
      const second = structuredClone(d.marks[m.index]) as {
        id: string;
        name: string;
        points: number[][];
      };
      putPoints(m.index, p.slice(0, k + 1))(d);
      second.id = id;
      second.name = `${m.name.slice(0, 70)} 2`;
      second.points = p.slice(k);
      d.marks.splice(m.index + 1, 0, second as never);
    });
  } else if (how === "join") {
    const at = doc.marks.findIndex((x) => x.id === value);
    const q = (doc.marks[at] as { points?: number[][] } | undefined)?.points;
    if (!q?.length || m.area) return;
    const d = (a: number[], b: number[]) => Math.hypot(a[0] - b[0], a[1] - b[1]);
    const ends = [
      d(p[p.length - 1], q[0]),
      d(p[p.length - 1], q[q.length - 1]),
      d(p[0], q[q.length - 1]),
      d(p[0], q[0]),
    ];
    const best = ends.indexOf(Math.min(...ends));
    const name = doc.marks[at].name;
    const joined =
      best === 0
        ? [...p, ...q]
        : best === 1
          ? [...p, ...[...q].reverse()]
          : best === 2
            ? [...q, ...p]
            : [...[...q].reverse(), ...p];
    const kept = joined.filter((x, i) => !i || d(x, joined[i - 1]) > reach * 1e-5);
    void edit(`${m.name}: joined with ${name}`, (doc_) => {
      putPoints(m.index, kept)(doc_);
      doc_.marks.splice(at, 1);
    });
  } else if (how === "stretch") {
    const lengths = [0]; // along the points
    for (let i = 1; i < p.length; i++)
      lengths.push(lengths[i - 1] + Math.hypot(p[i][0] - p[i - 1][0], p[i][1] - p[i - 1][1]));
    const whole = lengths[lengths.length - 1];
    const [a, b] = [Number(value), Number(more)]
      .map((t) => (Math.min(100, Math.max(0, t)) / 100) * whole)
      .sort((x, y) => x - y);
    if (b - a < whole * 1e-3) return;
    const place = (t: number) => {
      const i = Math.max(
        1,
        lengths.findIndex((l) => l >= t),
      );
      const u = (t - lengths[i - 1]) / (lengths[i] - lengths[i - 1] || 1);
      return [p[i - 1][0] + u * (p[i][0] - p[i - 1][0]), p[i - 1][1] + u * (p[i][1] - p[i - 1][1])];
    };
    beside(
      `${m.name.slice(0, 60)}, stretch`,
      [place(a), ...p.filter((_, i) => lengths[i] > a && lengths[i] < b), place(b)],
      `${m.name}: a stretch of it`,
    );
  } else {
    const off = (how === "right" ? 1 : -1) * (Number(value) || reach * 0.01);
    const aside = p.map((x, i) => {
      const a = p[Math.max(0, i - 1)];
      const b = p[Math.min(p.length - 1, i + 1)];
      const l = Math.hypot(b[0] - a[0], b[1] - a[1]) || 1;
      return [x[0] + ((b[1] - a[1]) / l) * off, x[1] - ((b[0] - a[0]) / l) * off];
    });
    beside(`${m.name.slice(0, 66)} beside`, aside, `${m.name}: a line beside it`);
  }
}

/** Points that a line can spare within a tolerance (Douglas & Peucker 1973). */
function simplified(points: number[][], tolerance: number): number[][] {
  if (points.length < 3) return points;
  const a = points[0];
  const b = points[points.length - 1];
  const dx = b[0] - a[0];
  const dy = b[1] - a[1];
  const l = Math.hypot(dx, dy) || 1;
  let far = 0;
  let at = 0;
  points.forEach((p, i) => {
    const d = Math.abs((p[0] - a[0]) * dy - (p[1] - a[1]) * dx) / l;
    if (i && i < points.length - 1 && d > far) {
      far = d;
      at = i;
    }
  });
  return far <= tolerance
    ? [a, b]
    : [
        ...simplified(points.slice(0, at + 1), tolerance).slice(0, -1),
        ...simplified(points.slice(at), tolerance),
      ];
}

export function addContourPoint([east, north]: [number, number]) {
  const last = get().drawing[get().drawing.length - 1];
  if (last && Math.hypot(last[0] - east, last[1] - north) < 1e-3) return;
  set((s) => ({ drawing: [...s.drawing, [+east.toFixed(2), +north.toFixed(2)]] }));
}

/**
 * The line drawn so far becomes a contour of the chosen landform, one step above the last. Near its
 * beginning it is closed.
 */
export function endContour() {
  const { drawing, doc, chosen, tool, schema } = get();
  if (!doc) return;
  if (tool === "line" || tool === "area") {
    set({ drawing: [] });
    if (drawing.length < (tool === "area" ? 3 : 2)) return;
    const id = freshId(tool);
    const name = `${tool === "line" ? "Line" : "Area"} ${doc.marks.filter((m) => m.kind === tool).length + 1}`;
    void edit(`${name} drawn`, (d) =>
      d.marks.push(
        complete(schema, schema.scene.$defs[tool === "line" ? "Line" : "Area"], {
          id,
          name,
          kind: tool,
          on: true,
          points: drawing,
        }),
      ),
    );
    set({ chosen: id, tool: null, open: "marks" });
    return;
  }
  if (tool !== "contour") return;
  const index = doc.land.findIndex((l) => l.id === chosen && l.kind === "contours");
  set({ drawing: [] });
  if (index < 0 || drawing.length < 2) return;
  const first = drawing[0];
  const last = drawing[drawing.length - 1];
  const reach = Math.max(doc.plot.width_m, doc.plot.depth_m) * 0.012;
  const points =
    drawing.length > 3 && Math.hypot(first[0] - last[0], first[1] - last[1]) < reach
      ? [...drawing.slice(0, -1), first]
      : drawing;
  void edit(
    `${doc.land[index].name}: line ${((doc.land[index] as { lines?: unknown[] }).lines?.length ?? 0) + 1}`,
    (d) => {
      const e = d.land[index] as unknown as {
        lines: { height_m: number; points: number[][] }[];
        step_m: number;
      };
      e.lines.push({
        height_m: e.lines.length ? e.lines[e.lines.length - 1].height_m + e.step_m : 0,
        points,
      });
    },
  );
}
