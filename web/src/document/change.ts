import type { Scene } from "../api/shapes";

// ---- edits
export function labelled(doc: Scene, change: (d: Scene) => void): Scene {
  const next = structuredClone(doc);
  change(next);
  return next;
}

export const lightOnly = (a: Scene, b: Scene) =>
  JSON.stringify({ ...a, light: 0, shots: 0 }) === JSON.stringify({ ...b, light: 0, shots: 0 });
