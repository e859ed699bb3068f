import type { Scene } from "../api/shapes";
import type { Sheet } from "../state/slices";
import type { Field } from "../view/field";
import type { Products } from "../view/products";
import { PAPER, SLATE } from "./inks";

interface Drawn {
  relief: HTMLCanvasElement;
  sheet: Float32Array | null;
}

const bases = new WeakMap<Products, Drawn>();

function shade(f: Field, x: number, y: number): number {
  const v = f.values;
  const gx =
    (v[y * f.nx + Math.min(x + 1, f.nx - 1)] - v[y * f.nx + Math.max(x - 1, 0)]) / (2 * f.spacing);
  const gy =
    (v[Math.max(y - 1, 0) * f.nx + x] - v[Math.min(y + 1, f.ny - 1) * f.nx + x]) / (2 * f.spacing);
  return Math.max(0, (0.5 * gx - 0.5 * gy + 0.7071) / Math.sqrt(1 + gx * gx + gy * gy));
}

/**
 * The relief at a pixel a post, with plants, water or a sheet of the survey laid over it as a wash.
 */
export function reliefOf(p: Products, doc: Scene, sheet: Sheet | null): HTMLCanvasElement {
  const old = bases.get(p);
  const values = sheet?.values?.length === p.field.values.length ? sheet.values : null;
  if (old && old.sheet === values) return old.relief;
  const f = p.field;
  const w = f.nx;
  const h = f.ny;
  const c = document.createElement("canvas");
  c.width = w;
  c.height = h;
  const image = new ImageData(w, h);
  const v = f.values;
  const sea = doc.water.filter((x) => x.on && x.reach === "everywhere").map((x) => x.level_m);
  const a = sheet?.answer;
  const log = (t: number) => Math.log(Math.max(t, 1e-4));
  for (let y = 0; y < h; y++)
    for (let x = 0; x < w; x++) {
      const i = y * w + x;
      const t = 0.38 + 0.72 * shade(f, x, y);
      let r: number;
      let g: number;
      let b: number;
      if (values && a) {
        const k = Math.min(
          1,
          Math.max(
            0,
            a.log
              ? (log(values[i]) - log(a.low)) / (log(a.high) - log(a.low))
              : (values[i] - a.low) / (a.high - a.low),
          ),
        );
        [r, g, b] = [0, 1, 2].map((n) =>
          Math.min(255, (PAPER[n] + (SLATE[n] - PAPER[n]) * k) * (0.55 + 0.5 * t)),
        );
      } else if (sea.some((level) => v[i] < level)) [r, g, b] = [128, 158, 172];
      else {
        const cover = p.cover[i * 4 + 3] / 255;
        [r, g, b] = [214 - 22 * cover, 210 - 6 * cover, 184 - 30 * cover].map((k) =>
          Math.min(250, k * t + 18),
        );
      }
      image.data.set([r, g, b, 255], i * 4);
    }
  const ctx = c.getContext("2d")!;
  ctx.putImageData(image, 0, 0);
  if (!values)
    for (const stream of p.streams) {
      const water = doc.water.find((x) => x.id === stream.id);
      if (!water?.on) continue;
      ctx.strokeStyle = "#5f8496";
      ctx.lineWidth = Math.max(0.9, (water.width_m ?? 1) / f.spacing);
      ctx.lineCap = "round";
      ctx.beginPath();
      for (let i = 0; i < stream.points.length; i += 3)
        ctx[i ? "lineTo" : "moveTo"](
          stream.points[i] / f.spacing,
          f.ny - 1 - stream.points[i + 1] / f.spacing,
        );
      ctx.stroke();
    }
  if (!values)
    for (const pool of p.pools) {
      const water = doc.water.find((x) => x.id === pool.id);
      if (!water?.on) continue;
      ctx.fillStyle = "#809eac";
      const c0 = pool.bounds[0] / f.spacing;
      const r0 = f.ny - 1 - pool.bounds[3] / f.spacing;
      for (let r = 0; r < pool.rows; r++)
        for (let q = 0; q < pool.columns; q++)
          if (
            pool.mask[r * pool.columns + q] &&
            v[Math.round(r0 + r) * f.nx + Math.round(c0 + q)] < water.level_m
          )
            ctx.fillRect(c0 + q, r0 + r, 1, 1);
    }
  bases.set(p, { relief: c, sheet: values });
  return c;
}
