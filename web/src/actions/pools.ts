import { doWork } from "./work";

/** A pool filled to just below the rim of the hollow at a place, or to the next rim above it. */
export const fillHollow = (
  water: string,
  east: number,
  north: number,
  above: number | null = null,
) => doWork("fill a hollow", { water, east, north, above });
