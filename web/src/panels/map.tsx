/**
 * The map: shaded relief in ink, contours, water, shots and pieces; it is panned, zoomed, and the
 * chosen landform has handles on it.
 */
import { useEffect, useRef } from "react";
import type { Scene } from "../api/client";
import {
  addContourPoint,
  chosenMark,
  endContour,
  handlesOf,
  insertPoint,
  moveHandle,
  movePoint,
  removePoint,
  turnCorner,
  type Handle,
} from "../actions/place";
import { endStroke, moveStroke, startStroke } from "../actions/brush";
import { edit, get, readPlace, set, usePage, type MapAt, type Sheet, type Place } from "../state";
import type { Field, Products } from "../view/products";
import type { Pose } from "../view/view";

const PAPER = [232, 224, 205];
const SLATE = [36, 64, 78];

/** A round interval that gives about a dozen contours. */
export function interval(relief: number): number {
  const raw = Math.max(relief, 1e-3) / 12;
  const ten = Math.pow(10, Math.floor(Math.log10(raw)));
  return [1, 2, 5, 10].map((k) => k * ten).find((v) => v >= raw)!;
}

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
function base(p: Products, doc: Scene, sheet: Sheet | null): HTMLCanvasElement {
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

interface Isoline {
  level: number;
  index: boolean;
  path: Path2D;
  marks: [number, number, number][];
}
const lines = new WeakMap<Float32Array, Map<string, Isoline[]>>();

/** Isolines of a field in posts, cut square by square, kept for as long as the field is. */
function isolines(
  values: Float32Array,
  f: Field,
  low: number,
  high: number,
  step: number,
  posts: number,
): Isoline[] {
  let of = lines.get(values);
  if (!of) lines.set(values, (of = new Map()));
  const key = `${step} ${posts} ${low} ${high}`;
  const found = of.get(key);
  if (found) return found;
  const out: Isoline[] = [];
  const n = posts;
  for (let k = Math.ceil(low / step); k * step < high; k++) {
    const level = k * step;
    const path = new Path2D();
    const marks: [number, number, number][] = [];
    let seen = 0;
    for (let r = 0; r + n < f.ny; r += n)
      for (let c = 0; c + n < f.nx; c += n) {
        const i = r * f.nx + c;
        const a = values[i] - level;
        const b = values[i + n] - level;
        const d = values[i + n * f.nx] - level;
        const e = values[i + n * f.nx + n] - level;
        if (a < 0 === b < 0 && a < 0 === d < 0 && a < 0 === e < 0) continue;
        const cuts: number[] = [];
        if (a < 0 !== b < 0) cuts.push(c + (n * a) / (a - b), r);
        if (b < 0 !== e < 0) cuts.push(c + n, r + (n * b) / (b - e));
        if (d < 0 !== e < 0) cuts.push(c + (n * d) / (d - e), r + n);
        if (a < 0 !== d < 0) cuts.push(c, r + (n * a) / (a - d));
        for (let q = 0; q + 3 < cuts.length; q += 4) {
          path.moveTo(cuts[q], cuts[q + 1]);
          path.lineTo(cuts[q + 2], cuts[q + 3]);
          if (seen++ % 260 === 60)
            marks.push([
              cuts[q],
              cuts[q + 1],
              Math.atan2(cuts[q + 3] - cuts[q + 1], cuts[q + 2] - cuts[q]),
            ]);
        }
      }
    out.push({ level, index: k % 5 === 0, path, marks });
  }
  of.set(key, out);
  return out;
}

export interface Frame {
  x0: number;
  y0: number;
  scale: number;
}

/** Where the plot lies on a map of this size: its left upper corner in px, and px per metre. */
export function frameOf(
  doc: Scene,
  width: number,
  height: number,
  pad: number,
  at: MapAt | null = null,
): Frame {
  const { width_m, depth_m } = doc.plot;
  const k = at?.scale ?? Math.min((width - 2 * pad) / width_m, (height - 2 * pad) / depth_m);
  return {
    x0: width / 2 - (at?.east ?? width_m / 2) * k,
    y0: height / 2 - (depth_m - (at?.north ?? depth_m / 2)) * k,
    scale: k,
  };
}

interface Shown {
  doc: Scene;
  products: Products;
  pose: Pose;
  place: Place | null;
  chosen: string | null;
  big: boolean;
  at: MapAt | null;
  sheet: Sheet | null;
  line: number[] | null;
  drawing: number[][];
  handles: Handle[];
  mask: { nx: number; ny: number; values: Uint8Array } | null;
}

/** Ink hatching where a mask lies. */
function hatch(
  g: CanvasRenderingContext2D,
  mask: { nx: number; ny: number; values: Uint8Array },
  x: number,
  y: number,
  k: number,
  width: number,
  height: number,
) {
  const lay = document.createElement("canvas");
  const alpha = document.createElement("canvas");
  const image = new ImageData(mask.nx, mask.ny);
  for (let i = 0; i < mask.values.length; i++) image.data[i * 4 + 3] = mask.values[i];
  [alpha.width, alpha.height, lay.width, lay.height] = [mask.nx, mask.ny, width, height];
  alpha.getContext("2d")!.putImageData(image, 0, 0);
  const c = lay.getContext("2d")!;
  c.strokeStyle = "#23302b";
  c.lineWidth = 1.2;
  c.beginPath();
  for (let a = -height; a < width; a += 6) {
    c.moveTo(a, height);
    c.lineTo(a + height, 0);
  }
  c.stroke();
  c.fillStyle = "#23302b24";
  c.fillRect(0, 0, width, height);
  c.globalCompositeOperation = "destination-in";
  c.drawImage(alpha, x, y, mask.nx * k, mask.ny * k);
  g.drawImage(lay, 0, 0);
}

/**
 * The ground, its contours and the metre lines: kept as a picture of its own, drawn again only when
 * one of them changes.
 */
function sheetOf(canvas: HTMLCanvasElement, s: Shown, m: Frame): HTMLCanvasElement {
  const { doc, products: p, big } = s;
  const { width, height } = canvas;
  const f = p.field;
  const inputs = [p, doc, big ? s.sheet : null, m.x0, m.y0, m.scale, width, height];
  const old = sheetsOf.get(canvas);
  if (old && old.inputs.every((v, i) => v === inputs[i])) return old.layer;
  const layer = old?.layer ?? document.createElement("canvas");
  const px = (e: number) => m.x0 + e * m.scale;
  const py = (n: number) => m.y0 + (doc.plot.depth_m - n) * m.scale;
  [layer.width, layer.height] = [width, height];
  const g = layer.getContext("2d")!;
  g.fillStyle = "#ddd8c6";
  g.fillRect(0, 0, width, height);
  g.imageSmoothingEnabled = true;
  const k = f.spacing * m.scale;
  g.drawImage(base(p, doc, big ? s.sheet : null), m.x0 - k / 2, m.y0 - k / 2, f.nx * k, f.ny * k);
  const relief = p.manifest.highest - p.manifest.lowest;
  const visible = Math.min(1, width / (m.scale * doc.plot.width_m));
  const step = big ? interval(relief * (visible < 0.4 ? 0.5 : 1)) : interval(relief);
  const a = s.sheet?.answer;
  const sheetLines = big && s.sheet?.values?.length === f.values.length && a;
  const found = sheetLines
    ? isolines(s.sheet!.values!, f, a!.low, a!.high, a!.log ? a!.high : (a!.high - a!.low) / 8, 2)
    : isolines(
        f.values,
        f,
        p.manifest.lowest,
        p.manifest.highest,
        step,
        big ? 1 : Math.max(1, Math.floor(Math.max(f.nx, f.ny) / 220)),
      );
  g.save();
  g.translate(m.x0, m.y0);
  g.scale(k, k);
  for (const line of found) {
    g.strokeStyle = sheetLines ? "#24404e99" : line.index ? "#6f5a2b" : "#7d6b3ecc";
    g.lineWidth = (line.index ? 1.1 : 0.6) / k;
    g.stroke(line.path);
  }
  g.restore();
  if (big && !sheetLines) {
    g.font = "11px 'Source Sans 3 Variable'";
    g.textAlign = "center";
    g.textBaseline = "middle";
    for (const line of found)
      if (line.index)
        for (const [c, r, turn] of line.marks) {
          const x = m.x0 + c * k;
          const y = m.y0 + r * k;
          if (x < 10 || y < 10 || x > width - 10 || y > height - 10) continue;
          g.save();
          g.translate(x, y);
          g.rotate(Math.abs(turn) > Math.PI / 2 ? turn + Math.PI : turn);
          const text = String(+line.level.toFixed(2));
          const half = g.measureText(text).width / 2 + 2;
          g.fillStyle = "#d8d3bdcc";
          g.fillRect(-half, -6, 2 * half, 12);
          g.fillStyle = "#5b4820";
          g.fillText(text, 0, 0);
          g.restore();
        }
    g.textAlign = "left";
    g.textBaseline = "alphabetic";
  }
  if (big) {
    g.strokeStyle = "#23302b22";
    g.lineWidth = 1;
    const grid = interval(
      Math.min(Math.max(doc.plot.width_m, doc.plot.depth_m), (width / m.scale) * 1.4),
    );
    for (let e = grid; e < doc.plot.width_m; e += grid) {
      g.beginPath();
      g.moveTo(px(e), py(doc.plot.depth_m));
      g.lineTo(px(e), py(0));
      g.stroke();
    }
    for (let n = grid; n < doc.plot.depth_m; n += grid) {
      g.beginPath();
      g.moveTo(px(0), py(n));
      g.lineTo(px(doc.plot.width_m), py(n));
      g.stroke();
    }
  }
  sheetsOf.set(canvas, { inputs, layer });
  return layer;
}
const sheetsOf = new WeakMap<HTMLCanvasElement, { inputs: unknown[]; layer: HTMLCanvasElement }>();

export function drawMap(canvas: HTMLCanvasElement, s: Shown) {
  const { doc, products: p, pose, place, chosen, big } = s;
  const g = canvas.getContext("2d")!;
  const { width, height } = canvas;
  const m = frameOf(doc, width, height, big ? 26 : 4, s.at);
  const k = p.field.spacing * m.scale;
  const px = (e: number) => m.x0 + e * m.scale;
  const py = (n: number) => m.y0 + (doc.plot.depth_m - n) * m.scale;
  g.drawImage(sheetOf(canvas, s, m), 0, 0);
  if (s.mask) hatch(g, s.mask, m.x0 - k / 2, m.y0 - k / 2, k, width, height);
  g.strokeStyle = "#23302b";
  g.lineWidth = 1.2;
  g.strokeRect(m.x0, m.y0, doc.plot.width_m * m.scale, doc.plot.depth_m * m.scale);
  for (const piece of doc.pieces) {
    if (!piece.on) continue;
    g.fillStyle = piece.id === chosen ? "#b9812a" : "#23302b";
    g.fillRect(px(piece.east_m) - 1.5, py(piece.north_m) - 1.5, 3, 3);
  }
  const cone = (
    east: number,
    north: number,
    bearing: number,
    focal: number,
    colour: string,
    length: number,
  ) => {
    const half = Math.atan(18 / focal);
    const b = (bearing * Math.PI) / 180;
    g.beginPath();
    g.moveTo(px(east), py(north));
    for (const t of [b - half, b + half])
      g.lineTo(px(east) + Math.sin(t) * length, py(north) - Math.cos(t) * length);
    g.closePath();
    g.fillStyle = colour + "33";
    g.strokeStyle = colour;
    g.fill();
    g.stroke();
    g.beginPath();
    g.arc(px(east), py(north), 2.4, 0, 7);
    g.fillStyle = colour;
    g.fill();
  };
  for (const shot of doc.shots)
    if (shot.on)
      cone(
        shot.east_m,
        shot.north_m,
        shot.bearing,
        shot.focal_mm,
        "#a3432a",
        shot.id === chosen ? 46 : 26,
      );
  cone(pose.east, pose.north, pose.bearing, pose.focal, "#4d6a3a", 34);
  const way = (points: number[][], colour: string, thick: number) => {
    g.strokeStyle = colour;
    g.lineWidth = thick;
    g.beginPath();
    points.forEach(([e, n], i) => (i ? g.lineTo(px(e), py(n)) : g.moveTo(px(e), py(n))));
    g.stroke();
  };
  if (s.line) {
    way([s.line.slice(0, 2), s.line.slice(2)], "#f4efe4", 4);
    way([s.line.slice(0, 2), s.line.slice(2)], "#7c520f", 1.8);
    if (big)
      for (const e of [s.line.slice(0, 2), s.line.slice(2)]) {
        g.beginPath();
        g.arc(px(e[0]), py(e[1]), 5, 0, 7);
        g.fillStyle = "#f4efe4";
        g.fill();
        g.strokeStyle = "#7c520f";
        g.stroke();
      }
  }
  for (const mark of doc.marks as {
    id: string;
    kind?: string;
    on?: boolean;
    points?: number[][];
  }[]) {
    if (mark.kind === "mask" || !mark.points?.length || !mark.on) continue;
    const own = mark.id === chosen;
    const points = mark.kind === "area" ? [...mark.points, mark.points[0]] : mark.points;
    if (mark.kind === "area") {
      g.beginPath();
      points.forEach(([e, n], i) => (i ? g.lineTo(px(e), py(n)) : g.moveTo(px(e), py(n))));
      g.fillStyle = own ? "#b9812a2e" : "#23302b14";
      g.fill();
    }
    way(points, own ? "#7c520f" : "#23302b", own ? 2.2 : 1.4);
    if (own && big)
      for (const [e, n, corner] of mark.points) {
        g.beginPath();
        if (corner) g.rect(px(e) - 4, py(n) - 4, 8, 8);
        else g.arc(px(e), py(n), 4.6, 0, 7);
        g.fillStyle = "#f4efe4";
        g.strokeStyle = "#7c520f";
        g.lineWidth = 2;
        g.fill();
        g.stroke();
      }
  }
  const contours =
    (
      doc.land.find((l) => l.id === chosen && l.kind === "contours") as
        { lines?: { height_m: number; points: number[][] }[] } | undefined
    )?.lines ?? [];
  if (big)
    for (const l of contours) {
      way(l.points, "#a3432a", 1.6);
      const [e, n] = l.points[Math.floor(l.points.length / 2)];
      g.fillStyle = "#f4efe4";
      g.fillRect(px(e) - 14, py(n) - 7, 28, 14);
      g.fillStyle = "#a3432a";
      g.font = "600 11px 'Source Sans 3 Variable'";
      g.textAlign = "center";
      g.fillText(String(l.height_m), px(e), py(n) + 4);
      g.textAlign = "left";
    }
  if (s.drawing.length) {
    way(s.drawing, "#a3432a", 1.8);
    for (const [e, n] of s.drawing) {
      g.beginPath();
      g.arc(px(e), py(n), 3, 0, 7);
      g.fillStyle = "#a3432a";
      g.fill();
    }
  }
  if (big && s.handles.length) {
    const ring = s.handles.filter((h) => h.outline).map((h) => [h.east, h.north]);
    if (ring.length) {
      g.setLineDash([6, 4]);
      way([...ring, ring[0]], "#9a6a1c", 1.4);
      g.setLineDash([]);
    }
    for (const h of s.handles) {
      if (h.outline) continue;
      g.beginPath();
      if (h.name === "centre") g.arc(px(h.east), py(h.north), 6, 0, 7);
      else if (h.name === "turn") {
        g.moveTo(px(h.east), py(h.north) - 6);
        g.lineTo(px(h.east) + 6, py(h.north));
        g.lineTo(px(h.east), py(h.north) + 6);
        g.lineTo(px(h.east) - 6, py(h.north));
        g.closePath();
      } else g.rect(px(h.east) - 4.5, py(h.north) - 4.5, 9, 9);
      g.fillStyle = "#f4efe4";
      g.strokeStyle = "#9a6a1c";
      g.lineWidth = 2;
      g.fill();
      g.stroke();
    }
  }
  if (place) {
    g.strokeStyle = "#7c520f";
    g.lineWidth = 1.6;
    g.beginPath();
    g.arc(px(place.east), py(place.north), 5, 0, 7);
    g.stroke();
  }
  if (!big) return;
  // scale bar and north
  const bar = interval(((width * 0.16) / m.scale) * 12 * 0.8);
  const x = width - 40 - bar * m.scale;
  const y = height - 40;
  g.fillStyle = "#f4efe4e6";
  g.fillRect(x - 12, y - 20, bar * m.scale + 44, 34);
  g.strokeStyle = "#23302b";
  g.lineWidth = 2;
  g.beginPath();
  g.moveTo(x, y);
  g.lineTo(x + bar * m.scale, y);
  g.stroke();
  g.lineWidth = 1;
  g.beginPath();
  for (let q = 0; q <= 4; q++) {
    g.moveTo(x + (bar * m.scale * q) / 4, y - 4);
    g.lineTo(x + (bar * m.scale * q) / 4, y + 4);
  }
  g.stroke();
  g.fillStyle = "#23302b";
  g.font = "600 12px 'Source Sans 3 Variable'";
  g.fillText(`${bar.toLocaleString("en")} m`, x, y - 7);
  g.beginPath();
  g.moveTo(x + bar * m.scale + 20, y - 16);
  g.lineTo(x + bar * m.scale + 15, y + 6);
  g.lineTo(x + bar * m.scale + 20, y + 1);
  g.lineTo(x + bar * m.scale + 25, y + 6);
  g.closePath();
  g.fill();
}

/**
 * A map in its box. `onPlace` hears of a click in metres. The big one is dragged to pan and zoomed
 * by the wheel.
 */
export function MapCanvas({
  width,
  height,
  big,
  onPlace,
  onHover,
}: {
  width: number;
  height: number;
  big: boolean;
  onPlace: (east: number, north: number, e: React.MouseEvent) => void;
  onHover?: (east: number, north: number) => void;
}) {
  const ref = useRef<HTMLCanvasElement>(null);
  const products = usePage((s) => s.products);
  const doc = usePage((s) => s.doc);
  const pose = usePage((s) => s.pose);
  const place = usePage((s) => s.place);
  const chosen = usePage((s) => s.chosen);
  const pinned = usePage((s) => s.pinned);
  const mapAt = usePage((s) => s.mapAt);
  const sheet = usePage((s) => s.sheet);
  const transect = usePage((s) => s.transect);
  const drawing = usePage((s) => s.drawing);
  const mask = usePage((s) => s.mask);
  const at = big ? mapAt : null;
  const held = useRef<{
    x: number;
    y: number;
    at: MapAt;
    grip: Handle | "line0" | "line1" | "line" | number | null;
    from: [number, number];
    line: number[] | null;
    moved: boolean;
  } | null>(null);
  const handles = big && doc ? handlesOf(doc, chosen) : [];
  useEffect(() => {
    if (ref.current && products && doc && width > 20)
      drawMap(ref.current, {
        doc,
        products,
        pose,
        place: pinned ? place : null,
        chosen,
        big,
        at,
        sheet,
        line: transect?.line ?? null,
        drawing: big ? drawing : [],
        handles,
        mask,
      });
  });
  const frame = () => frameOf(doc!, width, height, big ? 26 : 4, at);
  const metres = (e: { clientX: number; clientY: number }): [number, number] => {
    const r = ref.current!.getBoundingClientRect();
    const m = frame();
    return [
      (e.clientX - r.left - m.x0) / m.scale,
      doc!.plot.depth_m - (e.clientY - r.top - m.y0) / m.scale,
    ];
  };
  const now = (): MapAt => {
    const m = frame();
    return {
      east: (width / 2 - m.x0) / m.scale,
      north: doc!.plot.depth_m - (height / 2 - m.y0) / m.scale,
      scale: m.scale,
    };
  };
  const inside = ([e, n]: [number, number]) =>
    !!doc && e >= 0 && n >= 0 && e <= doc.plot.width_m && n <= doc.plot.depth_m;
  const zoom = (e: WheelEvent) => {
    if (!doc) return;
    e.preventDefault();
    const [east, north] = metres(e);
    const a = now();
    const k = Math.exp(-e.deltaY * 0.0015);
    const least = 0.4 * Math.min(width / doc.plot.width_m, height / doc.plot.depth_m);
    const scale = Math.min(Math.max(a.scale * k, least), 400);
    const q = a.scale / scale;
    set({
      mapAt: { scale, east: east + (a.east - east) * q, north: north + (a.north - north) * q },
    });
  };
  useEffect(() => {
    const c = ref.current;
    if (!big || !c) return;
    c.addEventListener("wheel", zoom, { passive: false });
    return () => c.removeEventListener("wheel", zoom);
  });
  const down = (e: React.PointerEvent) => {
    if (!doc || (!big && get().tool !== "brush")) return;
    ref.current!.setPointerCapture(e.pointerId);
    if (get().tool === "brush") {
      void startStroke(
        ...metres(e),
        e.pointerType === "pen" && e.pressure > 0 ? e.pressure * 2 : 1,
        e.clientY,
      );
      return;
    }
    const [east, north] = metres(e);
    const reach = 9 / frame().scale;
    const line = get().transect?.line ?? null;
    let grip: NonNullable<typeof held.current>["grip"] =
      handles.find((h) => !h.outline && Math.hypot(h.east - east, h.north - north) < reach) ?? null;
    if (!grip && line) {
      const near = (i: number) => Math.hypot(line[i] - east, line[i + 1] - north) < reach;
      const dx = line[2] - line[0];
      const dy = line[3] - line[1];
      const t = ((east - line[0]) * dx + (north - line[1]) * dy) / (dx * dx + dy * dy);
      const off = Math.abs((east - line[0]) * dy - (north - line[1]) * dx) / Math.hypot(dx, dy);
      grip = near(0)
        ? "line0"
        : near(2)
          ? "line1"
          : t > 0 && t < 1 && off < reach * 0.8
            ? "line"
            : null;
    }
    const mark = chosenMark(doc, chosen);
    if (grip === null && mark && !get().tool) {
      const k = mark.points.findIndex((p) => Math.hypot(p[0] - east, p[1] - north) < reach);
      grip = k >= 0 ? k : insertPoint(east, north, reach * 0.8);
      if (k >= 0 && e.shiftKey) {
        turnCorner(k);
        return;
      }
      if (k < 0 && grip !== null) {
        held.current = {
          x: e.clientX,
          y: e.clientY,
          at: now(),
          grip,
          from: [east, north],
          line,
          moved: true,
        };
        return;
      }
    }
    held.current = {
      x: e.clientX,
      y: e.clientY,
      at: now(),
      grip,
      from: [east, north],
      line,
      moved: false,
    };
  };
  const move = (e: React.PointerEvent) => {
    const h = held.current;
    const p = doc ? metres(e) : null;
    if (p && get().tool === "brush") {
      set({ place: readPlace(...p), pinned: false });
      if (
        moveStroke(...p, e.pointerType === "pen" && e.pressure > 0 ? e.pressure * 2 : 1, e.clientY)
      )
        return;
    }
    if (!h || !p) {
      if (p && onHover && inside(p)) onHover(...p);
      return;
    }
    if (!h.moved && Math.hypot(e.clientX - h.x, e.clientY - h.y) < 4) return;
    h.moved = true;
    if (typeof h.grip === "number") movePoint(h.grip, p[0], p[1]);
    else if (h.grip && typeof h.grip === "object") moveHandle(h.grip, p[0], p[1], e.shiftKey);
    else if (h.grip && h.line) {
      const l = [...h.line];
      const dx = p[0] - h.from[0];
      const dy = p[1] - h.from[1];
      if (h.grip !== "line1") {
        l[0] += dx;
        l[1] += dy;
      }
      if (h.grip !== "line0") {
        l[2] += dx;
        l[3] += dy;
      }
      set((s) => ({
        transect: s.transect && {
          ...s.transect,
          line: l.map(
            (v, i) =>
              +Math.min(Math.max(v, 0), i % 2 ? doc!.plot.depth_m : doc!.plot.width_m).toFixed(2),
          ),
        },
      }));
    } else
      set({
        mapAt: {
          ...h.at,
          east: h.at.east - (e.clientX - h.x) / h.at.scale,
          north: h.at.north + (e.clientY - h.y) / h.at.scale,
        },
      });
  };
  const up = (e: React.PointerEvent) => {
    if (endStroke()) return;
    const h = held.current;
    held.current = null;
    if (!h || !doc) return;
    if (typeof h.grip === "number") {
      if (h.moved) void edit(`${chosenMark(get().doc, chosen)?.name}: point moved`);
      return;
    }
    if (h.moved) {
      if (h.grip && typeof h.grip === "object") void edit(`${h.grip.owner}: ${h.grip.name}`);
      return;
    }
    const p = metres(e);
    if (["contour", "line", "area"].includes(get().tool ?? "")) addContourPoint(p);
    else if (inside(p)) onPlace(...p, e);
  };
  return (
    <canvas
      ref={ref}
      width={width}
      height={height}
      className="block"
      data-map
      tabIndex={big ? 0 : -1}
      style={{ touchAction: "none", outline: "none" }}
      onPointerDown={down}
      onPointerMove={move}
      onPointerUp={up}
      onDoubleClick={(e) => {
        const m = doc && chosenMark(doc, chosen);
        if (m && big && !get().tool) {
          const p = metres(e);
          const k = m.points.findIndex(
            (q) => Math.hypot(q[0] - p[0], q[1] - p[1]) < 9 / frame().scale,
          );
          if (k >= 0) {
            removePoint(k);
            return;
          }
        }
        endContour();
      }}
      onClick={(e) => {
        if (big || !doc || get().tool === "brush") return;
        const p = metres(e);
        if (inside(p)) onPlace(...p, e);
      }}
    />
  );
}
