/** A grid of heights: row 0 north; `east`/`north` of its south-west corner. */
export interface Field {
  nx: number;
  ny: number;
  spacing: number;
  east: number;
  north: number;
  values: Float32Array;
}

/** A grid has as many posts as a field. */
export function fits(f: Field, grid: { nx: number; ny: number }): boolean {
  return f.nx === grid.nx && f.ny === grid.ny;
}

/** The heights of one grid as another of the same place holds them. */
export function laidOver(from: Field, onto: Field): Field {
  if (fits(from, onto)) return from;
  const { nx, ny, spacing, east, north } = onto;
  const values = new Float32Array(nx * ny);
  for (let r = 0; r < ny; r++)
    for (let c = 0; c < nx; c++)
      values[r * nx + c] = heightAt(from, east + c * spacing, north + (ny - 1 - r) * spacing);
  return { ...onto, values };
}

export function heightAt(f: Field, east: number, north: number): number {
  const c = Math.min(Math.max((east - f.east) / f.spacing, 0), f.nx - 1);
  const r = Math.min(Math.max(f.ny - 1 - (north - f.north) / f.spacing, 0), f.ny - 1);
  const ix = Math.min(Math.floor(c), f.nx - 2);
  const iy = Math.min(Math.floor(r), f.ny - 2);
  const fx = c - ix;
  const fy = r - iy;
  const v = f.values;
  const i = iy * f.nx + ix;
  const nw = v[i];
  const se = v[i + f.nx + 1];
  if (fx > fy) {
    const ne = v[i + 1];
    return nw + fx * (ne - nw) + fy * (se - ne);
  }
  const sw = v[i + f.nx];
  return nw + fy * (sw - nw) + fx * (se - sw);
}

/** Steepness in degrees and the way the ground faces, by central differences. */
export function slopeAt(f: Field, east: number, north: number): { slope: number; facing: number } {
  const s = f.spacing;
  const gx = (heightAt(f, east + s, north) - heightAt(f, east - s, north)) / (2 * s);
  const gy = (heightAt(f, east, north + s) - heightAt(f, east, north - s)) / (2 * s);
  return {
    slope: (Math.atan(Math.hypot(gx, gy)) * 180) / Math.PI,
    facing: ((Math.atan2(-gx, -gy) * 180) / Math.PI + 360) % 360,
  };
}
