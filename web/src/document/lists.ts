import type { Scene } from "../api/shapes";
import type { Entry } from "./entry";

const LISTS = [
  "land",
  "far",
  "water",
  "ground",
  "planting",
  "pieces",
  "air",
  "grade",
  "moves",
  "shots",
  "marks",
] as const;

export type ListName = (typeof LISTS)[number];

/**
 * The list of a section in a document; the far land's own entries lie with what is beyond the plot.
 */
export function listOf(doc: Scene, list: ListName): Entry[] {
  return (list === "far" ? doc.beyond.land : doc[list]) as unknown as Entry[];
}

export const pathOf = (list: ListName, index: number): (string | number)[] =>
  list === "far" ? ["beyond", "land", index] : [list, index];

/** Where an entry stands. */
export interface Found {
  list: ListName;
  index: number;
  entry: Entry;
}

export function find(doc: Scene | null, id: string | null): Found | null {
  if (!doc || !id) return null;
  for (const list of LISTS) {
    const index = listOf(doc, list).findIndex((e) => e.id === id);
    if (index >= 0) return { list, index, entry: listOf(doc, list)[index] };
  }
  return null;
}
