/** Stepping into a shot and back out, and its focus. */
import type { Shot } from "../api/shapes";
import { find } from "../document/lists";
import { engine } from "../state/engine";
import { get, set } from "../state/store";
import { heightAt } from "../view/field";
import type { Pose } from "../view/pose";
import { doWork } from "./work";

/** The shot that is chosen, or the one that the face is seen as, or the first. */
export function shotAtHand(): Shot | null {
  const { doc, chosen, seenAs } = get();
  const found = find(doc, chosen);
  if (found?.list === "shots") return found.entry as unknown as Shot;
  const shots = (doc?.shots ?? []) as unknown as Shot[];
  return shots.find((s) => s.id === seenAs) ?? shots[0] ?? null;
}

/** How much of the face's width the frame of a shot takes when it is whole on the face. */
export function frameShare(shot: Shot, width: number, height: number): number {
  return Math.min(1, height / ((width * shot.height_px) / shot.width_px));
}

/** The pose of a shot such that its frame is whole on the face. */
export function onFace(pose: Pose, shot: Shot): Pose {
  const { clientWidth, clientHeight } = engine.view!.canvas;
  const share = frameShare(shot, clientWidth, clientHeight);
  const shift = pose.shift?.map((s) => s * share) as [number, number] | undefined;
  return { ...pose, focal: pose.focal * share, shift };
}

/** The eye goes to a shot, whose frame is whole on the face; where it stood is kept. */
export function stepInto(shot: Shot) {
  const view = engine.view;
  if (!view) return;
  const { stepped } = get();
  const from = stepped?.from ?? { ...view.pose };
  view.pose = onFace(view.poseOf(shot), shot);
  view.changed();
  set({
    pose: view.pose,
    stepped: { shot: shot.id, from, free: false },
    seenAs: shot.id,
    mapOnFace: false,
    insetShot: get().insetShot === shot.id ? null : get().insetShot,
  });
}

/** Back to exactly where the eye stood before. */
export function stepOut() {
  const { stepped } = get();
  const view = engine.view;
  if (!stepped || !view) return;
  view.pose = { ...stepped.from };
  view.changed();
  set({ pose: view.pose, stepped: null });
}

/** The shot at hand is sharp at what lies under a point of the face (0..1). */
export function focusAt(x: number, y: number) {
  const view = engine.view;
  const shot = shotAtHand();
  const hit = view?.pick(x, y);
  if (!view?.products || !shot || !hit) return;
  const over = Math.max(0, hit.z - heightAt(view.products.field, hit.x, hit.y));
  set({ tool: null });
  void doWork("focus on a place", { shot: shot.id, east: hit.x, north: hit.y, over });
}
