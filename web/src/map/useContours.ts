/** The contours of a map: asked of the server for a field and an interval, and kept. */
import { useEffect, useState } from "react";
import * as calls from "../api/calls";
import type { Sheet } from "../state/slices";
import type { Products } from "../view/products";
import { interval } from "./frame";

export interface Contour {
  level: number;
  /** Every fifth is drawn stronger and bears its height. */
  index: boolean;
  /** Column and row in posts, one after the other. */
  points: Float32Array;
}

export interface Contours {
  lines: Contour[];
  sheet: boolean;
}

interface Wanted {
  key: string;
  step: number;
  levels: number[];
  sheet: boolean;
}

const MOST = 60;
const CLOSE = 0.4; // the part of the plot in the map below which contours lie closer

const kept = new Map<string, Promise<Contours>>();

function wantedOf(p: Products, sheet: Sheet | null, visible: number): Wanted {
  const a = sheet?.answer;
  if (a && sheet.values?.length === p.field.values.length) {
    const step = a.log ? a.high : (a.high - a.low) / 8;
    return { key: a.key, step, levels: levelsOf(a.low, a.high, step), sheet: true };
  }
  const { lowest, highest, heights } = p.manifest;
  const step = interval((highest - lowest) * (visible < CLOSE ? 0.5 : 1));
  return { key: heights, step, levels: levelsOf(lowest, highest, step), sheet: false };
}

function levelsOf(low: number, high: number, step: number): number[] {
  const levels = [];
  for (let k = Math.ceil(low / step); k * step < high && levels.length < 400; k++)
    levels.push(k * step);
  return levels;
}

async function ask(wanted: Wanted, nx: number, ny: number): Promise<Contours> {
  const { key, step, levels, sheet } = wanted;
  const numbers = new Float32Array(await calls.isolines({ key, nx, ny, levels }));
  const lines: Contour[] = [];
  for (let i = 0; i < numbers.length;) {
    const level = numbers[i];
    const end = i + 2 + 2 * numbers[i + 1];
    const index = Math.round(level / step) % 5 === 0;
    lines.push({ level, index, points: numbers.subarray(i + 2, end) });
    i = end;
  }
  return { lines, sheet };
}

function once(wanted: Wanted, nx: number, ny: number): Promise<Contours> {
  const name = `${wanted.key} ${wanted.step}`;
  const found = kept.get(name);
  if (found) return found;
  const made = ask(wanted, nx, ny);
  kept.set(name, made);
  made.catch(() => kept.delete(name));
  while (kept.size > MOST) kept.delete(kept.keys().next().value!);
  return made;
}

/** The lines for a map; those of before stay until the new ones are there. */
export function useContours(
  products: Products | null,
  sheet: Sheet | null,
  visible: number,
): Contours | null {
  const [now, setNow] = useState<Contours | null>(null);
  useEffect(() => {
    if (!products || products.ahead) return;
    let gone = false;
    once(wantedOf(products, sheet, visible), products.field.nx, products.field.ny)
      .then((contours) => !gone && setNow(contours))
      .catch(() => {}); // the field has left the server's cache: the next build brings another
    return () => {
      gone = true;
    };
  }, [products, sheet, visible]);
  return now;
}
