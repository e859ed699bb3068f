import type { Scene, SurveyAnswer } from "../api/shapes";
import type { Sheet } from "../state/slices";
import type { Field } from "../view/field";
import type { Products } from "../view/products";
import { PAPER, SLATE } from "./inks";

const FAR_PAPER = [214, 210, 184];

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

function paintLand(image: ImageData, f: Field, covers: Uint8Array, sea: number) {
  const out = image.data;
  for (let y = 0; y < f.ny; y++)
    for (let x = 0; x < f.nx; x++) {
      const i = y * f.nx + x;
      const at = i * 4;
      out[at + 3] = 255;
      if (f.values[i] < sea) {
        out[at] = 128;
        out[at + 1] = 158;
        out[at + 2] = 172;
        continue;
      }
      const t = 0.38 + 0.72 * shade(f, x, y);
      const cover = covers[at + 3] / 255;
      out[at] = Math.min(250, (214 - 22 * cover) * t + 18);
      out[at + 1] = Math.min(250, (210 - 6 * cover) * t + 18);
      out[at + 2] = Math.min(250, (184 - 30 * cover) * t + 18);
    }
}

function paintSheet(image: ImageData, f: Field, values: Float32Array, a: SurveyAnswer) {
  const out = image.data;
  const log = (t: number) => Math.log(Math.max(t, 1e-4));
  const low = a.log ? log(a.low) : a.low;
  const span = (a.log ? log(a.high) : a.high) - low;
  for (let y = 0; y < f.ny; y++)
    for (let x = 0; x < f.nx; x++) {
      const i = y * f.nx + x;
      const t = 0.55 + 0.5 * (0.38 + 0.72 * shade(f, x, y));
      const value = a.log ? log(values[i]) : values[i];
      const k = Math.min(1, Math.max(0, (value - low) / span));
      for (let n = 0; n < 3; n++)
        out[i * 4 + n] = Math.min(255, (PAPER[n] + (SLATE[n] - PAPER[n]) * k) * t);
      out[i * 4 + 3] = 255;
    }
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
  if (values && sheet?.answer) paintSheet(image, f, values, sheet.answer);
  else {
    const sea = doc.water.filter((x) => x.on && x.reach === "everywhere").map((x) => x.level_m);
    paintLand(image, f, p.cover, Math.max(-Infinity, ...sea));
  }
  const ctx = c.getContext("2d")!;
  ctx.putImageData(image, 0, 0);
  if (!values) paintWaters(ctx, doc, p);
  bases.set(p, { relief: c, sheet: values });
  return c;
}

const farReliefs = new WeakMap<Products["rings"][number], HTMLCanvasElement>();

/** The relief of a ring of far land under a wash of what clothes it, at a pixel a post. */
export function farReliefOf(ring: Products["rings"][number]): HTMLCanvasElement {
  const old = farReliefs.get(ring);
  if (old) return old;
  const { field, colour } = ring;
  const c = document.createElement("canvas");
  [c.width, c.height] = [field.nx, field.ny];
  const image = new ImageData(field.nx, field.ny);
  for (let y = 0; y < field.ny; y++)
    for (let x = 0; x < field.nx; x++) {
      const at = (y * field.nx + x) * 4;
      const t = 0.38 + 0.72 * shade(field, x, y);
      for (let n = 0; n < 3; n++) {
        const washed = FAR_PAPER[n] * 0.6 + colour[at + n] * 0.4;
        image.data[at + n] = Math.min(250, washed * t + 18);
      }
      image.data[at + 3] = 255;
    }
  c.getContext("2d")!.putImageData(image, 0, 0);
  farReliefs.set(ring, c);
  return c;
}

/** Streams along their lines, and pools where they lie. */
function paintWaters(ctx: CanvasRenderingContext2D, doc: Scene, p: Products) {
  const f = p.field;
  for (const made of p.waters) {
    const water = doc.water.find((x) => x.id === made.id);
    if (!water?.on) continue;
    if (made.points) {
      ctx.strokeStyle = "#5f8496";
      ctx.lineWidth = Math.max(0.9, (water.width_m ?? 1) / f.spacing);
      ctx.lineCap = "round";
      ctx.beginPath();
      for (let i = 0; i < made.points.length; i += 5) {
        const row = f.ny - 1 - made.points[i + 1] / f.spacing;
        ctx[i ? "lineTo" : "moveTo"](made.points[i] / f.spacing, row);
      }
      ctx.stroke();
    } else if (water.reach === "pool" && made.field) {
      ctx.fillStyle = "#809eac";
      for (let i = 0; i < f.values.length; i++)
        if (made.field[i * 4 + 1] && f.values[i] < water.level_m)
          ctx.fillRect(i % f.nx, Math.floor(i / f.nx), 1, 1);
    }
  }
}
