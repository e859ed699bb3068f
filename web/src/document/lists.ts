import type { Scene } from "../api/shapes";
import type { Entry } from "./entry";

const LISTS = [
  "land",
  "far",
  "water",
  "ground",
  "far ground",
  "planting",
  "pieces",
  "air",
  "grade",
  "moves",
  "shots",
  "marks",
] as const;

export type ListName = (typeof LISTS)[number];

/** The far land's own lists, which lie with what is beyond the plot. */
const BEYOND = { far: "land", "far ground": "ground" } as const;

const isFar = (list: ListName): list is keyof typeof BEYOND => list in BEYOND;

/** The list of a section in a document. */
export function listOf(doc: Scene, list: ListName): Entry[] {
  return (isFar(list) ? doc.beyond[BEYOND[list]] : doc[list]) as unknown as Entry[];
}

export const pathOf = (list: ListName, index: number): (string | number)[] =>
  isFar(list) ? ["beyond", BEYOND[list], index] : [list, index];

/** Every entry of a document, list by list. */
export const everyEntry = (doc: Scene): Entry[] => LISTS.flatMap((list) => listOf(doc, list));

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
