export const shownBytes = (n: number) =>
  n > 1e9 ? `${shown(n / 1e9)} GB` : n > 1e6 ? `${shown(n / 1e6)} MB` : `${shown(n / 1e3)} kB`;

export const round = (v: number, digits = 0) => +v.toFixed(digits);

export function shown(value: number): string {
  const a = Math.abs(value);
  return a >= 10000
    ? Math.round(value).toLocaleString("en")
    : a >= 100
      ? String(Math.round(value))
      : a >= 10
        ? value.toFixed(1).replace(/\.0$/, "")
        : value.toFixed(2).replace(/\.?0+$/, "");
}

/** How long something takes, in words. */
export function lasting(seconds: number): string {
  if (seconds < 90) return `${Math.max(1, Math.round(seconds))} s`;
  if (seconds < 5400) return `${round(seconds / 60, 1)} min`;
  return `${round(seconds / 3600, 1)} h`;
}
