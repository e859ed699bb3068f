import * as calls from "../api/calls";
import type { Scene } from "../api/shapes";
import type { Spread } from "../view/develop";
import { engine } from "./engine";
import { get, usePage } from "./store";
import { tell } from "./trouble";

let shown = "";

/** The film and grade that the face is shown through: those of the shot that was stepped into. */
function orderOfFace() {
  const { doc, seenAs } = get();
  const shot = doc?.shots.find((s) => s.id === seenAs);
  return {
    film: shot?.film ?? ("aces" as const),
    exposure: shot?.exposure ?? 0,
    grade: (doc?.grade ?? []).filter((e) => e.on && (!e.shot || e.shot === shot?.id)),
  };
}

/** The steps that look beyond a pixel, which the film's table cannot hold. */
function spreadOf(grade: Scene["grade"]): Spread {
  const spread: Spread = { vignettes: [], grains: [] };
  for (const step of grade) {
    if (step.kind === "vignette")
      spread.vignettes.push([step.stops ?? 0, (step.begins ?? 0) / 100]);
    if (step.kind === "grain")
      spread.grains.push([(step.amount ?? 0) / 100, (step.size ?? 0) / 100]);
  }
  return spread;
}

async function renew() {
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
  shown = "";
  void renew();
  usePage.subscribe((s, was) => {
    if (
      s.doc?.grade !== was.doc?.grade ||
      s.doc?.shots !== was.doc?.shots ||
      s.seenAs !== was.seenAs
    )
      void renew();
  });
}
