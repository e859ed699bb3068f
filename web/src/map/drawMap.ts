import type { Handle } from "../actions/handles";
import type { Scene, Shot } from "../api/shapes";
import type { MapAt, Place, Sheet } from "../state/slices";
import { type Pose, poseOf } from "../view/pose";
import type { Products } from "../view/products";
import { frameOf, interval } from "./frame";
import type { Contours } from "./useContours";
import { hatch, sheetOf } from "./wash";

export interface Shown {
  doc: Scene;
  products: Products;
  pose: Pose;
  place: Place | null;
  chosen: string | null;
  big: boolean;
  at: MapAt | null;
  hidden: Set<string>;
  sheet: Sheet | null;
  line: number[] | null;
  drawing: number[][];
  handles: Handle[];
  contours: Contours | null;
  mask: { nx: number; ny: number; values: Uint8Array } | null;
}

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
    if (!piece.on || s.hidden.has(piece.id)) continue;
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
    if (shot.on && !s.hidden.has(shot.id))
      cone(
        shot.east_m,
        shot.north_m,
        poseOf(shot as Shot, s.products.field).bearing,
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
    if (mark.kind === "mask" || !mark.points?.length || !mark.on || s.hidden.has(mark.id)) continue;
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
