import { useState } from "react";

/** A value that this browser keeps under a name, as it was when the page was last open. */
export function useKept<T>(name: string, first: T): [T, (value: T) => void] {
  const [value, setValue] = useState<T>(() => {
    try {
      const kept = localStorage.getItem(name);
      return kept === null ? first : (JSON.parse(kept) as T);
    } catch {
      return first;
    }
  });
  const keep = (next: T) => {
    setValue(next);
    try {
      localStorage.setItem(name, JSON.stringify(next));
    } catch {
      // a browser that keeps nothing asks again next time
    }
  };
  return [value, keep];
}
