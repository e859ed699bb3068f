import type { Scene } from "../api/shapes";

// ---- edits
export function labelled(doc: Scene, change: (d: Scene) => void): Scene {
  const next = structuredClone(doc);
  change(next);
  return next;
}

export const same = (a: unknown, b: unknown) => JSON.stringify(a) === JSON.stringify(b);

const bare = (d: Scene) => ({ ...d, light: 0, shots: 0, grade: 0, moves: 0 });

export const lightOnly = (a: Scene, b: Scene) => same(bare(a), bare(b));
