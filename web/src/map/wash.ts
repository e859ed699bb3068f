import type { Shown } from "./drawMap";
import { type Frame, interval } from "./frame";
import { farReliefOf, reliefOf } from "./relief";
import type { Contours } from "./useContours";

/** Ink hatching where a mask lies. */
export function hatch(
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

function drawLines(g: CanvasRenderingContext2D, contours: Contours, k: number) {
  for (const index of [false, true]) {
    g.strokeStyle = contours.sheet ? "#24404e99" : index ? "#6f5a2b" : "#7d6b3ecc";
    g.lineWidth = (index ? 1.1 : 0.6) / k;
    g.beginPath();
    for (const { index: own, points } of contours.lines) {
      if (own !== index) continue;
      g.moveTo(points[0], points[1]);
      for (let i = 2; i < points.length; i += 2) g.lineTo(points[i], points[i + 1]);
    }
    g.stroke();
  }
}

const FIRST_LABEL = 60; // points from a line's beginning, then every so many
const NEXT_LABEL = 260;
const LEAST_POINTS = 30; // of a line that bears its height

/** The heights of every fifth contour, along it. */
function labelLines(
  g: CanvasRenderingContext2D,
  contours: Contours,
  m: Frame,
  k: number,
  width: number,
  height: number,
) {
  g.font = "11px 'Source Sans 3 Variable'";
  g.textAlign = "center";
  g.textBaseline = "middle";
  for (const { level, index, points } of contours.lines) {
    const count = points.length / 2;
    if (!index || count < LEAST_POINTS) continue;
    for (let i = Math.min(FIRST_LABEL, count >> 1); i + 1 < count; i += NEXT_LABEL) {
      const [c0, r0, c1, r1] = points.subarray(2 * i, 2 * i + 4);
      const x = m.x0 + c0 * k;
      const y = m.y0 + r0 * k;
      if (x < 10 || y < 10 || x > width - 10 || y > height - 10) continue;
      const turn = Math.atan2(r1 - r0, c1 - c0);
      label(g, String(+level.toFixed(2)), x, y, turn);
    }
  }
  g.textAlign = "left";
  g.textBaseline = "alphabetic";
}

function label(g: CanvasRenderingContext2D, text: string, x: number, y: number, turn: number) {
  g.save();
  g.translate(x, y);
  g.rotate(Math.abs(turn) > Math.PI / 2 ? turn + Math.PI : turn);
  const half = g.measureText(text).width / 2 + 2;
  g.fillStyle = "#d8d3bdcc";
  g.fillRect(-half, -6, 2 * half, 12);
  g.fillStyle = "#5b4820";
  g.fillText(text, 0, 0);
  g.restore();
}

/**
 * The ground, its contours and the metre lines: kept as a picture of its own, drawn again only when
 * one of them changes.
 */
export function sheetOf(canvas: HTMLCanvasElement, s: Shown, m: Frame): HTMLCanvasElement {
  const { doc, products: p, big } = s;
  const { width, height } = canvas;
  const f = p.field;
  const inputs = [p, s.contours, doc, big ? s.sheet : null, m.x0, m.y0, m.scale, width, height];
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
  for (const ring of [...p.rings].reverse()) {
    const wide = ring.field.spacing * m.scale;
    const x = px(ring.field.east) - wide / 2;
    const y = py(ring.field.north + (ring.field.ny - 1) * ring.field.spacing) - wide / 2;
    g.drawImage(farReliefOf(ring), x, y, ring.field.nx * wide, ring.field.ny * wide);
  }
  g.drawImage(
    reliefOf(p, doc, big ? s.sheet : null),
    m.x0 - k / 2,
    m.y0 - k / 2,
    f.nx * k,
    f.ny * k,
  );
  if (s.contours) {
    g.save();
    g.translate(m.x0, m.y0);
    g.scale(k, k);
    drawLines(g, s.contours, k);
    g.restore();
    if (big && !s.contours.sheet) labelLines(g, s.contours, m, k, width, height);
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
