/** Marks on a shot's reference picture, from which the core matches the shot to it. */
import type { Shot } from "../api/shapes";
import { stepInto } from "./shots";
import type { Marking, PicturePoint } from "../state/slices";
import { get, set } from "../state/store";
import { doWork } from "./work";

const UPRIGHTS = 2;
const ENDS = 2;

export function beginMarking(shot: string) {
  set({ marking: { shot, what: "horizon", horizon: [], uprights: [], places: [] }, tool: null });
}

export function endMarking() {
  set({ marking: null, tool: null });
}

const change = (values: Partial<Marking>) =>
  set((s) => ({ marking: s.marking && { ...s.marking, ...values } }));

/** Another sort of mark is set from now on. */
export function markNow(what: Marking["what"]) {
  change({ what });
  set({ tool: null });
}

/** A click on the picture. */
export function markPicture(at: PicturePoint) {
  const m = get().marking;
  if (!m) return;
  if (m.what === "horizon") {
    change({ horizon: m.horizon.length < ENDS ? [...m.horizon, at] : [at] });
  } else if (m.what === "uprights") {
    const lines = m.uprights.map((l) => [...l]);
    const last = lines[lines.length - 1];
    if (last && last.length < ENDS) last.push(at);
    else if (lines.length < UPRIGHTS) lines.push([at]);
    else lines.splice(0, lines.length, [at]);
    change({ uprights: lines });
  } else {
    const known = m.places.filter((p) => p.ground);
    change({ places: [...known, { at, ground: null, over: 0 }] });
    set({ tool: "match" });
  }
}

/** The mark that was set last is at this place of the ground. */
export function placeMark(east: number, north: number) {
  const m = get().marking;
  set({ tool: null });
  if (!m) return;
  const places = m.places.map((p, i) =>
    i === m.places.length - 1 ? { ...p, ground: [east, north] as [number, number] } : p,
  );
  change({ places });
}

/** How high over the ground the mark that was set last is, in m. */
export function overGround(over: number) {
  const places = get().marking?.places ?? [];
  change({ places: places.map((p, i) => (i === places.length - 1 ? { ...p, over } : p)) });
}

/** Whether there is enough to match by. */
export const enough = (m: Marking) =>
  m.places.filter((p) => p.ground).length >= 3 ||
  m.horizon.length === ENDS ||
  (m.uprights.length === UPRIGHTS && m.uprights.every((l) => l.length === ENDS));

/** The shot is set by the marks, and the face shows it. */
export async function matchShot() {
  const m = get().marking;
  if (!m) return;
  const places = m.places
    .filter((p) => p.ground)
    .map((p) => ({
      across: p.at[0],
      down: p.at[1],
      east: p.ground![0],
      north: p.ground![1],
      over: p.over,
    }));
  const asked = { shot: m.shot, horizon: m.horizon, uprights: m.uprights, places };
  const done = await doWork("match a shot", asked);
  if (!done) return;
  const shot = get().doc?.shots.find((s) => s.id === m.shot);
  if (shot) stepInto(shot as Shot);
}
