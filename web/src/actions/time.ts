/** The strip of time: the scene at moments as the core tells them, shown, dragged and played. */
import * as calls from "../api/calls";
import type { MomentLine, Shot } from "../api/shapes";
import { engine } from "../state/engine";
import { get, set } from "../state/store";
import { tell } from "../state/trouble";
import type { Pose } from "../view/pose";
import { onFace, shotAtHand, stepInto, stepOut } from "./shots";

const LEAST_LASTS_S = 5;
const ROOM = 1.15; // the strip is a little longer than what moves
const ASKED_EACH_S = 0.125;
const MOST_ASKED = 400;
const PLAYS_EACH_MS = 15;

let asking: AbortController | null = null;
let asked = "";

/** All of a scene that moves may ask for. */
function movingPart(): string {
  const { doc } = get();
  if (!doc) return "";
  const { moves, shots, marks, pieces, light, land, water } = doc;
  return JSON.stringify([moves, shots, marks, pieces, light, land, water]);
}

/** Seconds that the strip shows. */
export function stripLasts(): number {
  const ends = (get().doc?.moves ?? []).map((m) => (m.starts_s ?? 0) + (m.lasts_s ?? 0));
  return Math.max(LEAST_LASTS_S, Math.max(0, ...ends) * ROOM);
}

export function openTime() {
  const shot = shotAtHand();
  set({ transect: null });
  set({ time: { at: 0, lasts: stripLasts(), playing: false, moments: [], movesEye: false } });
  if (shot) stepInto(shot);
  asked = "";
  void askMoments();
}

export function closeTime() {
  playTime(false);
  asking?.abort();
  engine.view?.at(null);
  set({ time: null });
  if (get().stepped) stepOut();
}

/** Asks for the moments where something has changed that they depend on. */
export async function askMoments() {
  const { time, id, doc } = get();
  const shot = shotAtHand();
  if (!time || id === null || !doc || !shot) return;
  const key = `${shot.id} ${movingPart()}`;
  if (key === asked) return;
  asked = key;
  asking?.abort();
  asking = new AbortController();
  const lasts = stripLasts();
  const each = Math.max(ASKED_EACH_S, lasts / MOST_ASKED);
  const times = Array.from({ length: Math.ceil(lasts / each) + 1 }, (_, k) => k * each);
  try {
    const answer = await calls.moments(id, { document: doc, shot, times }, asking.signal);
    set((s) => ({
      time: s.time && {
        ...s.time,
        lasts,
        moments: answer.moments,
        movesEye: answer.moves_eye,
      },
    }));
    showMoment();
  } catch (e) {
    if (!asking.signal.aborted) tell(e);
  }
}

const lerp = (a: number, b: number, t: number) => a + (b - a) * t;
const turn = (a: number, b: number, t: number) =>
  (a + (((((b - a + 180) % 360) + 360) % 360) - 180) * t + 360) % 360;

function poseBetween(a: Pose, b: Pose, t: number): Pose {
  return {
    east: lerp(a.east, b.east, t),
    north: lerp(a.north, b.north, t),
    up: lerp(a.up, b.up, t),
    bearing: turn(a.bearing, b.bearing, t),
    tilt: lerp(a.tilt, b.tilt, t),
    focal: lerp(a.focal, b.focal, t),
    shift: [0, 1].map((k) => lerp(a.shift?.[k] ?? 0, b.shift?.[k] ?? 0, t)) as [number, number],
  };
}

/** The two moments about a time, and how far it lies between them. */
function about(moments: MomentLine[], at: number): [MomentLine, MomentLine, number] {
  let k = 0;
  while (k < moments.length - 2 && moments[k + 1].at_s <= at) k++;
  const a = moments[k];
  const b = moments[Math.min(k + 1, moments.length - 1)];
  const span = b.at_s - a.at_s;
  return [a, b, span > 0 ? Math.min(1, Math.max(0, (at - a.at_s) / span)) : 0];
}

/** The view shows the scene as it is at the strip's time. */
function showMoment() {
  const { time, stepped } = get();
  const view = engine.view;
  if (!time?.moments.length || !view) return;
  const [a, b, t] = about(time.moments, time.at);
  const pieces = a.pieces.map((p) => {
    const q = b.pieces.find((x) => x.id === p.id) ?? p;
    return {
      id: p.id,
      east_m: lerp(p.east_m, q.east_m, t),
      north_m: lerp(p.north_m, q.north_m, t),
      up_m: lerp(p.up_m, q.up_m, t),
      turn: turn(p.turn, q.turn, t),
    };
  });
  view.at({
    light: t < 0.5 ? a.light : b.light,
    pieces: new Map(pieces.map((p) => [p.id, p])),
    wind: lerp(a.wind, b.wind, t),
    seconds: lerp(a.waves_s, b.waves_s, t),
  });
  if (stepped && !stepped.free) {
    const eye = poseBetween(view.poseOf(a.shot as Shot), view.poseOf(b.shot as Shot), t);
    view.pose = onFace(eye, a.shot as Shot);
    view.changed();
    set({ pose: view.pose });
  }
}

/** Goes to a time. */
export function seek(at: number) {
  const { time } = get();
  if (!time) return;
  set({ time: { ...time, at: Math.min(time.lasts, Math.max(0, at)) } });
  showMoment();
}

let player = 0;

/** Plays from where it is, again and again, or rests. */
export function playTime(on: boolean) {
  clearInterval(player);
  player = 0;
  const { time } = get();
  if (!time) return;
  set({ time: { ...time, playing: on } });
  if (!on) {
    engine.view?.changed();
    return;
  }
  let last = performance.now();
  player = window.setInterval(() => {
    const now = performance.now();
    const { time: current } = get();
    if (!current?.playing) return playTime(false);
    const next = current.at + (now - last) / 1000;
    last = now;
    seek(next > current.lasts ? 0 : next);
  }, PLAYS_EACH_MS);
}
