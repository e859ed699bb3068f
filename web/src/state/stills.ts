import * as calls from "../api/calls";
import type { StillLine } from "../api/shapes";
import { get, set } from "./store";

/** Asks for the stills of a scene. */
export async function loadStills(scene: number) {
  const stills = await calls.listStills(scene);
  if (get().id === scene) set({ stills });
}

/** A still has changed: its line takes the place of the older one. */
export function heardStill(line: StillLine) {
  const known = get().stills.some((s) => s.id === line.id);
  set({
    stills: known
      ? get().stills.map((s) => (s.id === line.id ? line : s))
      : [...get().stills, line],
  });
}

/** Takes a still away. */
export async function dropStill(id: string) {
  await calls.dropStill(id);
  set({ stills: get().stills.filter((s) => s.id !== id) });
}
