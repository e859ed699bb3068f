import { engine } from "../state/engine";
import { get, set } from "../state/store";

export const INK = "#23302b";

/** A rectangle of new values while a brush works on a mask. */
export function patchMask(
  r0: number,
  c0: number,
  rows: number,
  columns: number,
  values: Float32Array,
) {
  const m = get().mask;
  const mark = get().doc?.marks.find((x) => x.id === m?.id) as { invert?: boolean } | undefined;
  if (!m) return;
  for (let r = 0; r < rows; r++)
    for (let c = 0; c < columns; c++) {
      const v = Math.round(values[r * columns + c] * 255);
      m.values[(r0 + r) * m.nx + c0 + c] = mark?.invert ? 255 - v : v;
    }
  let sum = 0;
  for (const v of m.values) sum += v;
  set({ mask: { ...m, share: sum / 255 / m.values.length } });
  engine.view?.wash(m.values, INK);
}
