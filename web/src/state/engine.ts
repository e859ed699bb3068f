import type { View } from "../view/view";

/** The engine, once the face has made it. */
export const engine: { view: View | null } = { view: null };
