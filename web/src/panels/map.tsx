/** The map: shaded relief in ink, contours, water, shots and pieces; metres east and north at its edges. */
import { useEffect, useRef } from "react";
import type { Scene } from "../api/client";
import { usePage, type Place } from "../state";
import type { Field, Products } from "../view/products";
import type { Pose } from "../view/view";

const bases = new WeakMap<Products, HTMLCanvasElement>();

/** A round interval that gives about a dozen contours. */
export function interval(relief: number): number {
  const raw = Math.max(relief, 0.1) / 12, ten = Math.pow(10, Math.floor(Math.log10(raw)));
  return [1, 2, 5, 10].map((k) => k * ten).find((v) => v >= raw)!;
}

function base(p: Products, doc: Scene): HTMLCanvasElement {
  let c = bases.get(p);
  if (c) return c;
  const f = p.field, n = Math.ceil(Math.max(f.nx, f.ny) / 513), w = Math.ceil(f.nx / n), h = Math.ceil(f.ny / n);
  c = document.createElement("canvas");
  c.width = w;
  c.height = h;
  const image = new ImageData(w, h), v = f.values, wet = doc.water.filter((x) => x.on);
  const colours = doc.ground.map((m) => p.manifest.shares[m.id] ?? 0);
  void colours;
  for (let r = 0; r < h; r++)
    for (let q = 0; q < w; q++) {
      const y = Math.min(r * n, f.ny - 1), x = Math.min(q * n, f.nx - 1), i = y * f.nx + x;
      const gx = (v[y * f.nx + Math.min(x + 1, f.nx - 1)] - v[y * f.nx + Math.max(x - 1, 0)]) / (2 * f.spacing), gy = (v[Math.max(y - 1, 0) * f.nx + x] - v[Math.min(y + 1, f.ny - 1) * f.nx + x]) / (2 * f.spacing);
      const s = 1 / Math.sqrt(1 + gx * gx + gy * gy), light = Math.max(0, (0.5 * gx - 0.5 * gy + 0.7071) * s), t = 0.38 + 0.72 * light;
      const cover = p.cover[i * 4 + 3] / 255, green = [214 - 22 * cover, 210 - 6 * cover, 184 - 30 * cover];
      let rgb = green.map((k) => Math.min(250, k * t + 18));
      if (wet.some((x_) => x_.reach === "everywhere" && v[i] < x_.level_m)) rgb = [128, 158, 172];
      image.data.set([rgb[0], rgb[1], rgb[2], 255], (r * w + q) * 4);
    }
  c.getContext("2d")!.putImageData(image, 0, 0);
  const g = c.getContext("2d")!;
  for (const pool of p.pools) {
    const water = doc.water.find((x) => x.id === pool.id);
    if (!water?.on) continue;
    g.fillStyle = "#809eac";
    const c0 = pool.bounds[0] / f.spacing, r0 = f.ny - 1 - pool.bounds[3] / f.spacing;
    for (let r = 0; r < pool.rows; r++) for (let q = 0; q < pool.columns; q++)
      if (pool.mask[r * pool.columns + q] && v[Math.round(r0 + r) * f.nx + Math.round(c0 + q)] < water.level_m) g.fillRect((c0 + q) / n, (r0 + r) / n, 1, 1);
  }
  bases.set(p, c);
  return c;
}

function contours(g: CanvasRenderingContext2D, f: Field, low: number, high: number, scale: number, x0: number, y0: number, labels: boolean) {
  const step = interval(high - low), n = Math.max(1, Math.floor(Math.max(f.nx, f.ny) / 220)), v = f.values;
  for (let level = Math.ceil(low / step) * step; level < high; level += step) {
    const index = Math.round(level / step) % 5 === 0;
    g.beginPath();
    let mark: [number, number] | null = null, seen = 0;
    for (let r = 0; r + n < f.ny; r += n)
      for (let c = 0; c + n < f.nx; c += n) {
        const a = v[r * f.nx + c] - level, b = v[r * f.nx + c + n] - level, d = v[(r + n) * f.nx + c] - level, e = v[(r + n) * f.nx + c + n] - level;
        const cuts: number[] = [];
        if (a < 0 !== b < 0) cuts.push(c + (n * a) / (a - b), r);
        if (b < 0 !== e < 0) cuts.push(c + n, r + (n * b) / (b - e));
        if (d < 0 !== e < 0) cuts.push(c + (n * d) / (d - e), r + n);
        if (a < 0 !== d < 0) cuts.push(c, r + (n * a) / (a - d));
        for (let k = 0; k + 3 < cuts.length; k += 4) {
          g.moveTo(x0 + cuts[k] * scale, y0 + cuts[k + 1] * scale);
          g.lineTo(x0 + cuts[k + 2] * scale, y0 + cuts[k + 3] * scale);
          if (++seen === 60) mark = [x0 + cuts[k] * scale, y0 + cuts[k + 1] * scale];
        }
      }
    g.strokeStyle = index ? "#6f5a2b" : "#7d6b3ecc";
    g.lineWidth = index ? 1.1 : 0.6;
    g.stroke();
    if (labels && index && mark) { g.fillStyle = "#5b4820"; g.font = "11px 'Source Sans 3 Variable'"; g.fillText(`${Math.round(level)}`, mark[0] + 2, mark[1] - 2); }
  }
}

export interface Frame { x0: number; y0: number; scale: number; metres: number }

/** Where the plot lies on a map of this size: the left upper corner in px and px per metre. */
export function frameOf(doc: Scene, width: number, height: number, pad: number): Frame {
  const k = Math.min((width - 2 * pad) / doc.plot.width_m, (height - 2 * pad) / doc.plot.depth_m);
  return { x0: (width - doc.plot.width_m * k) / 2, y0: (height - doc.plot.depth_m * k) / 2, scale: k, metres: k };
}

export function drawMap(canvas: HTMLCanvasElement, doc: Scene, p: Products, pose: Pose, place: Place | null, chosen: string | null, big: boolean) {
  const g = canvas.getContext("2d")!, { width, height } = canvas, m = frameOf(doc, width, height, big ? 26 : 4), f = p.field;
  const px = (e: number) => m.x0 + e * m.scale, py = (n: number) => m.y0 + (doc.plot.depth_m - n) * m.scale;
  g.fillStyle = "#ddd8c6";
  g.fillRect(0, 0, width, height);
  g.imageSmoothingEnabled = true;
  g.drawImage(base(p, doc), m.x0, m.y0, doc.plot.width_m * m.scale, doc.plot.depth_m * m.scale);
  contours(g, f, p.manifest.lowest, p.manifest.highest, f.spacing * m.scale, m.x0, m.y0, big);
  if (big) {
    g.strokeStyle = "#23302b22";
    g.lineWidth = 1;
    const step = interval(Math.max(doc.plot.width_m, doc.plot.depth_m));
    for (let e = step; e < doc.plot.width_m; e += step) { g.beginPath(); g.moveTo(px(e), m.y0); g.lineTo(px(e), py(0)); g.stroke(); }
    for (let n = step; n < doc.plot.depth_m; n += step) { g.beginPath(); g.moveTo(m.x0, py(n)); g.lineTo(px(doc.plot.width_m), py(n)); g.stroke(); }
  }
  g.strokeStyle = "#23302b";
  g.lineWidth = 1.2;
  g.strokeRect(m.x0, m.y0, doc.plot.width_m * m.scale, doc.plot.depth_m * m.scale);
  for (const piece of doc.pieces) { if (!piece.on) continue; g.fillStyle = piece.id === chosen ? "#b9812a" : "#23302b"; g.fillRect(px(piece.east_m) - 1.5, py(piece.north_m) - 1.5, 3, 3); }
  const cone = (east: number, north: number, bearing: number, focal: number, colour: string, length: number) => {
    const half = Math.atan(18 / focal), b = (bearing * Math.PI) / 180;
    g.beginPath();
    g.moveTo(px(east), py(north));
    for (const a of [b - half, b + half]) g.lineTo(px(east) + Math.sin(a) * length, py(north) - Math.cos(a) * length);
    g.closePath();
    g.fillStyle = colour + "33"; g.strokeStyle = colour; g.fill(); g.stroke();
    g.beginPath(); g.arc(px(east), py(north), 2.4, 0, 7); g.fillStyle = colour; g.fill();
  };
  for (const s of doc.shots) if (s.on) cone(s.east_m, s.north_m, s.bearing, s.focal_mm, "#a3432a", s.id === chosen ? 46 : 26);
  cone(pose.east, pose.north, pose.bearing, pose.focal, "#4d6a3a", 34);
  if (place) { g.strokeStyle = "#7c520f"; g.lineWidth = 1.6; g.beginPath(); g.arc(px(place.east), py(place.north), 5, 0, 7); g.stroke(); }
  if (!big) return;
  // scale bar and north
  const bar = interval(((width * 0.16) / m.scale) * 12 * 0.8), x = width - 40 - bar * m.scale, y = height - 40;
  g.fillStyle = "#f4efe4e6"; g.fillRect(x - 12, y - 20, bar * m.scale + 44, 34);
  g.strokeStyle = "#23302b"; g.lineWidth = 2; g.beginPath(); g.moveTo(x, y); g.lineTo(x + bar * m.scale, y); g.stroke();
  g.lineWidth = 1; g.beginPath(); for (let k = 0; k <= 4; k++) { g.moveTo(x + (bar * m.scale * k) / 4, y - 4); g.lineTo(x + (bar * m.scale * k) / 4, y + 4); } g.stroke();
  g.fillStyle = "#23302b"; g.font = "600 12px 'Source Sans 3 Variable'"; g.fillText(`${bar.toLocaleString("en")} m`, x, y - 7);
  g.beginPath(); g.moveTo(x + bar * m.scale + 20, y - 16); g.lineTo(x + bar * m.scale + 15, y + 6); g.lineTo(x + bar * m.scale + 20, y + 1); g.lineTo(x + bar * m.scale + 25, y + 6); g.closePath(); g.fill();
}

/** A map in its box. `onPlace` hears of a click in metres. */
export function MapCanvas({ width, height, big, onPlace, onHover }: { width: number; height: number; big: boolean; onPlace: (east: number, north: number, e: React.MouseEvent) => void; onHover?: (east: number, north: number) => void }) {
  const ref = useRef<HTMLCanvasElement>(null), products = usePage((s) => s.products), doc = usePage((s) => s.doc), pose = usePage((s) => s.pose), place = usePage((s) => s.place), chosen = usePage((s) => s.chosen), pinned = usePage((s) => s.pinned);
  useEffect(() => { if (ref.current && products && doc && width > 20) drawMap(ref.current, doc, products, pose, pinned ? place : null, chosen, big); });
  const metres = (e: React.MouseEvent): [number, number] => {
    const r = ref.current!.getBoundingClientRect(), m = frameOf(doc!, width, height, big ? 26 : 4);
    return [(e.clientX - r.left - m.x0) / m.scale, doc!.plot.depth_m - (e.clientY - r.top - m.y0) / m.scale];
  };
  const inside = ([e, n]: [number, number]) => !!doc && e >= 0 && n >= 0 && e <= doc.plot.width_m && n <= doc.plot.depth_m;
  return <canvas ref={ref} width={width} height={height} className="block" data-map
    onClick={(e) => { if (!doc) return; const p = metres(e); if (inside(p)) onPlace(...p, e); }} onMouseMove={(e) => { if (!doc || !onHover) return; const p = metres(e); if (inside(p)) onHover(...p); }} />;
}
