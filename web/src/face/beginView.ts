/** The view begins: it is made, told what there is, and moved by hand and keys. */
import { brush, endStroke, moveStroke, startStroke } from "../actions/brush";
import { focusAt } from "../actions/shots";
import { onGround } from "../actions/standing";
import { grabSun } from "../actions/sunTool";
import { drag } from "../state/edits";
import { engine } from "../state/engine";
import { followFilm } from "../state/film";
import { keepPicture } from "../state/keptPicture";
import { readPlace } from "../state/place";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";
import { View } from "../view/view";
import { Walk } from "../view/walk";
import { within } from "../view/world";

const KEPT_PX = 480;
const SPEED_TOLD_MS = 2500;

/** The view, or none where the browser cannot draw it: the map works without. */
function makeView(canvas: HTMLCanvasElement): View | null {
  try {
    return new View(canvas, new URLSearchParams(location.search).get("quality"));
  } catch {
    set({
      viewLacking:
        "This browser has no WebGL 2, so the view cannot be drawn. The map (M), the survey and " +
        "all files work; switch hardware acceleration on, or use another browser, to see the land.",
    });
    return null;
  }
}

export function beginView(canvas: HTMLCanvasElement, pad: HTMLElement) {
  const view = makeView(canvas);
  (window as unknown as Record<string, unknown>).sow = { view, get, set, drag };
  if (!view) return;
  engine.view = view;
  view.onFrame = () => told(view);
  view.onLight = ({ bearing, height }) => set({ sun: { bearing, height } });
  view.onTrouble = tell;
  followFilm();
  const { cabinet, catalogue, doc, products, hidden } = get();
  if (cabinet && catalogue) view.setCabinet(cabinet, catalogue.families);
  if (doc && products) view.setScene(doc, products, hidden);
  beginWalk(view, pad);
}

/** What the page tells of the view, after each picture. */
function told(view: View) {
  const { building, id, products, settled: was } = get();
  const settled = view.settled && !building;
  const pictured = view.pictured && view.products === products;
  if (settled && !was && id !== null) keepPicture(id, view.thumbnail(KEPT_PX) ?? "");
  set({ settled, pictured, frames: view.frames });
}

function beginWalk(view: View, pad: HTMLElement) {
  let last = 0;
  const walk = new Walk(
    view,
    pad,
    () => set({ pose: { ...view.pose } }),
    (x, y) => {
      if (get().tool === "focus") {
        focusAt(x, y);
        return;
      }
      const p = view.pick(x, y);
      if (p) onGround(p.x, p.y);
      else {
        set({ pinned: false, place: null });
        view.ring(0, 0, null);
      }
    },
    (x, y) => {
      if (get().pinned || performance.now() - last < 60) return;
      last = performance.now();
      const p = view.pick(x, y);
      set({ place: p ? readPlace(p.x, p.y) : null });
    },
  );
  let fades = 0;
  walk.onSpeed = (speed) => {
    clearTimeout(fades);
    set({ speed });
    fades = window.setTimeout(() => set({ speed: null }), SPEED_TOLD_MS);
  };
  usePage.subscribe((s) => {
    walk.locked = !!s.stepped && !s.stepped.free;
  });
  walk.grab = (what, x, y, e) => {
    if (get().tool === "sun") return grabSun(what, x, y);
    if (get().tool !== "brush") return false;
    const hit = what === "up" ? null : view.pick(x, y);
    const p = hit && within(view.products!.field, hit.x, hit.y) ? hit : null;
    const force = e.pointerType === "pen" && e.pressure > 0 ? e.pressure * 2 : 1;
    if (p) {
      view.ring(p.x, p.y, brush().size_m);
      set({ place: readPlace(p.x, p.y) });
    }
    if (what === "down") {
      if (p) void startStroke(p.x, p.y, force, e.clientY);
      return !!p;
    }
    if (what === "up") return endStroke();
    return moveStroke(p?.x ?? null, p?.y ?? null, force, e.clientY);
  };
}
