/**
 * A brush on the land: points go out in chunks while the stroke runs, and the rectangle that each
 * one changed comes back. Nothing sent is lost: what was acknowledged is in the store, what was not
 * stays here until it is.
 */
import * as calls from "../api/calls";
import { Trouble } from "../api/client";
import { freshId } from "../document/ids";
import { complete, modelOf } from "../document/schema";
import { edit, taken } from "../state/edits";
import { engine } from "../state/engine";
import { readPlace } from "../state/place";
import type { Brush } from "../state/slices";
import { get, set } from "../state/store";
import { tell } from "../state/trouble";
import { patchMask } from "./maskWash";

interface Stroke {
  session: string;
  entry: string;
  brush: Brush;
  queue: number[][];
  sent: number;
  busy: boolean;
  over: boolean;
  last: [number, number];
  at: number;
  timer: number;
  y: number;
}

let stroke: Stroke | null = null;

/** The brush as it is set; its first values suit the plot and come with the scene. */
export function brush(): Brush {
  const { brush: own, catalogue } = get();
  if (own) return own;
  const fields = Object.entries(catalogue!.scene.$defs.Stroke.properties);
  return Object.fromEntries(fields.map(([name, p]) => [name, p.default])) as unknown as Brush;
}

export const setBrush = (more: Partial<Brush>) => {
  set({ brush: { ...brush(), ...more } as Brush });
};

const ON_MASKS = ["paint", "rub", "smooth"];

const chosenMask = () => get().doc?.marks.find((m) => m.id === get().chosen && m.kind === "mask");

/**
 * The chosen mask, or the landform by hand that strokes go to: the chosen one, else the last; one
 * is made when there is none.
 */
async function target(): Promise<string | null> {
  const { doc, chosen } = get();
  const schema = get().catalogue!.scene;
  const onMask = chosenMask();
  if (onMask) return onMask.id;
  const hands = doc!.land.filter((l) => l.kind === "hand");
  const found = hands.find((l) => l.id === chosen) ?? hands[hands.length - 1];
  if (found) return found.id;
  const id = freshId("hand");
  const ok = await edit("By hand added", (d) =>
    d.land.push(
      complete(schema, modelOf(schema, "land", "hand"), {
        id,
        name: "By hand",
        kind: "hand",
        on: true,
        posts: Math.min(2049, Math.max(1025, d.plot.posts)),
      }),
    ),
  );
  set({ chosen: id });
  return ok ? id : null;
}

export async function startStroke(east: number, north: number, pressure: number, y: number) {
  if (stroke || get().building || !get().doc) return;
  const own: Stroke = (stroke = {
    session: crypto.randomUUID().replace(/-/g, "").slice(0, 32),
    entry: "",
    brush: {
      ...brush(),
      ...(chosenMask()
        ? { tool: ON_MASKS.includes(brush().tool) ? brush().tool : "paint" }
        : brush().tool === "paint"
          ? { tool: "raise" }
          : {}),
    },
    queue: [],
    sent: 0,
    busy: true,
    over: false,
    last: [east, north],
    at: performance.now(),
    timer: 0,
    y,
  });
  own.queue.push([
    east,
    north,
    own.brush.tool === "basin" ? 1 : own.brush.tool === "pull" ? 0 : 0.1 * pressure,
  ]);
  const entry = await target();
  if (!entry) {
    stroke = null;
    return;
  }
  own.entry = entry;
  own.busy = false;
  if (!["basin", "pull", "grade"].includes(own.brush.tool))
    own.timer = window.setInterval(() => {
      if (performance.now() - own.at > 70 && !own.over) addPoint(own, own.last[0], own.last[1], 1);
    }, 70); // a brush held still goes on
  void flush(own);
}

function addPoint(s: Stroke, east: number, north: number, pressure: number) {
  const now = performance.now();
  const seconds = Math.min(0.25, (now - s.at) / 1000);
  s.at = now;
  s.last = [east, north];
  s.queue.push([+east.toFixed(3), +north.toFixed(3), +(seconds * pressure).toFixed(4)]);
}

export function moveStroke(
  east: number | null,
  north: number | null,
  pressure: number,
  y: number,
): boolean {
  const s = stroke;
  if (!s) return false;
  if (s.brush.tool === "pull") {
    s.queue.push([s.last[0], s.last[1], +((s.y - y) / 60).toFixed(4)]);
    s.y = y;
  } else if (s.brush.tool !== "basin" && east !== null && north !== null)
    addPoint(s, east, north, pressure);
  void flush(s);
  return true;
}

export function endStroke(): boolean {
  if (!stroke) return false;
  stroke.over = true;
  window.clearInterval(stroke.timer);
  void flush(stroke);
  return true;
}

async function flush(s: Stroke) {
  if (s.busy) return;
  s.busy = true;
  while (s.queue.length) {
    const points = s.queue.slice(0, 400);
    try {
      const data = await calls.sendStroke(get().id!, s.session, {
        seq: s.sent,
        base: get().state!.revision,
        entry: s.entry,
        brush: s.brush,
        points,
      });
      s.queue.splice(0, points.length);
      s.sent++;
      if (get().lost) set({ lost: false, trouble: null });
      const [r0, c0, rows, columns] = new Uint32Array(data, 0, 4);
      if (rows && get().mask?.id === s.entry)
        patchMask(r0, c0, rows, columns, new Float32Array(data, 16));
      else if (rows) engine.view?.patch(r0, c0, rows, columns, new Float32Array(data, 16));
    } catch (e) {
      if (e instanceof Trouble && e.lost) {
        tell(e);
        await new Promise((r) => setTimeout(r, 1000));
        continue;
      } // the chunk stays here until it is kept
      tell(e);
      s.queue.length = 0;
      s.over = true;
      stroke = null;
      if (engine.view && get().products && get().doc) taken(get().state!);
      return;
    }
  }
  s.busy = false;
  if (!s.over || stroke !== s) return;
  stroke = null;
  for (;;) {
    try {
      taken(
        await calls.endStroke(get().id!, s.session, {
          label: "",
        }),
      );
      set({ place: readPlace(...s.last) });
      return;
    } catch (e) {
      if (e instanceof Trouble && e.lost) {
        tell(e);
        await new Promise((r) => setTimeout(r, 1000));
        continue;
      }
      if (e instanceof Trouble && e.problem.status === 404) {
        taken(await calls.sceneState(get().id!));
        return;
      } // it was made whole meanwhile
      tell(e);
      return;
    }
  }
}

/** "A little less": the last stroke's amount, its repetition. */
export function repeatStroke() {
  const { doc, chosen } = get();
  const index = doc!.land.findIndex((l) => l.id === chosen && l.kind === "hand");
  const entry = doc!.land[index] as unknown as { name: string; strokes: unknown[] } | undefined;
  if (!entry?.strokes.length || entry.strokes.length >= 8) return;
  void edit(`${entry.name}: once more`, (d) => {
    const e = d.land[index] as unknown as { strokes: unknown[]; count: number };
    e.strokes.push(structuredClone(e.strokes[e.strokes.length - 1]));
    e.count++;
  });
}
