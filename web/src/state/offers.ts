/** What the lists of a scene and the where-lists offer; asked of the server once. */
import { useEffect, useState } from "react";
import * as calls from "../api/calls";
import type { OfferLine } from "../api/shapes";
import { tell } from "./trouble";

const ASK = { list: calls.listOffers, rules: calls.listRules };
const kept = new Map<string, Promise<OfferLine[]>>();

function once(what: keyof typeof ASK, name: string): Promise<OfferLine[]> {
  const key = `${what} ${name}`;
  let found = kept.get(key);
  if (!found) {
    found = ASK[what](name);
    found.catch(() => kept.delete(key));
    kept.set(key, found);
  }
  return found;
}

function useLines(what: keyof typeof ASK, name: string): OfferLine[] {
  const [lines, setLines] = useState<OfferLine[]>([]);
  useEffect(() => {
    let over = false;
    once(what, name)
      .then((found) => !over && setLines(found))
      .catch(tell);
    return () => {
      over = true;
    };
  }, [what, name]);
  return lines;
}

/** What a list offers to add. */
export const useOffers = (list: string) => useLines("list", list);

/** The rules that a where-list of a stage may take. */
export const useRules = (stage: string) => useLines("rules", stage);
