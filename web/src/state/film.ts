import * as calls from "../api/calls";
import type { Scene } from "../api/shapes";
import type { Spread } from "../view/develop";
import { engine } from "./engine";
import { get, usePage } from "./store";
import { tell } from "./trouble";

let shown = "";

/** The film and grade that the face is shown through: those of the shot that was stepped into. */
function orderOfFace() {
  const { doc, seenAs, hidden } = get();
  const shot = doc?.shots.find((s) => s.id === seenAs);
  return {
    film: shot?.film ?? ("aces" as const),
    exposure: shot?.exposure ?? 0,
    grade: (doc?.grade ?? []).filter(
      (e) => e.on && !hidden.has(e.id) && (!e.shot || e.shot === shot?.id),
    ),
  };
}

/** The steps that look beyond a pixel, which the film's table cannot hold. */
function spreadOf(grade: Scene["grade"]): Spread {
  const spread: Spread = { vignettes: [], grains: [], bloom: null };
  for (const step of grade) {
    if (step.kind === "vignette")
      spread.vignettes.push([step.stops ?? 0, (step.begins ?? 0) / 100]);
    if (step.kind === "bloom") {
      const above = 0.18 * 2 ** (step.above ?? 0);
      spread.bloom = { amount: (step.amount ?? 0) / 100, size: (step.size ?? 0) / 100, above };
    }
    if (step.kind === "grain")
      spread.grains.push([(step.amount ?? 0) / 100, (step.size ?? 0) / 100]);
  }
  return spread;
}

let focused = "";

/** The lens of the shot that was stepped into, focused where it is. */
async function focus() {
  const { doc, id, seenAs } = get();
  const shot = doc?.shots.find((s) => s.id === seenAs);
  const text = shot && shot.aperture > 0 ? JSON.stringify(shot) : "";
  if (text === focused) return;
  focused = text;
  if (!text || !shot || id === null) {
    engine.view?.setLens(null);
    return;
  }
  try {
    const lens = await calls.lens(id, { shot, document: doc as never });
    const opening_m = shot.focal_mm / shot.aperture / 2000;
    if (focused === text)
      engine.view?.setLens({ opening_m, focus_m: lens.focus_m, focal_mm: shot.focal_mm });
  } catch (e) {
    focused = "";
    tell(e);
  }
}

async function renew() {
  void focus();
  const view = engine.view;
  if (!view) return;
  const order = orderOfFace();
  const text = JSON.stringify(order);
  if (text === shown) return;
  shown = text;
  try {
    const film = await calls.film(order);
    if (shown === text) view.setFilm(film, spreadOf(order.grade));
  } catch (e) {
    shown = "";
    tell(e);
  }
}

/** The face follows the film and the grade of its shot from now on. */
export function followFilm() {
  shown = focused = "";
  void renew();
  usePage.subscribe((s, was) => {
    if (
      s.doc?.grade !== was.doc?.grade ||
      s.hidden !== was.hidden ||
      s.doc?.shots !== was.doc?.shots ||
      s.seenAs !== was.seenAs
    )
      void renew();
  });
}
