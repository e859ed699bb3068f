import { draws } from "../actions/tools";
import { useEffect, useRef } from "react";
import { endStroke, moveStroke, startStroke } from "../actions/brush";
import { addContourPoint, endContour } from "../actions/contour";
import { type Handle, handlesOf, moveHandle } from "../actions/handles";
import { chosenMark, insertPoint, movePoint, removePoint, turnCorner } from "../actions/lines";
import { edit } from "../state/edits";
import { readPlace } from "../state/place";
import type { MapAt } from "../state/slices";
import { get, set, usePage } from "../state/store";
import { drawMap } from "./drawMap";
import { frameOf } from "./frame";
import { useContours } from "./useContours";

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
  const hidden = usePage((s) => s.hidden);
  const at = big ? mapAt : null;
  const visible = big && at && doc ? Math.min(1, width / (at.scale * doc.plot.width_m)) : 1;
  const contours = useContours(products, big ? sheet : null, visible);
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
  // drawn in a task of its own: it need not hold up what changed the page
  useEffect(() => {
    if (!products || !doc || width <= 20) return;
    const shown = {
      doc,
      products,
      pose,
      place: pinned ? place : null,
      chosen,
      big,
      at,
      hidden,
      sheet,
      line: transect?.line ?? null,
      drawing: big ? drawing : [],
      handles,
      contours,
      mask,
    };
    const later = setTimeout(() => {
      if (ref.current) drawMap(ref.current, shown);
    });
    return () => clearTimeout(later);
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
    const far = get().products?.rings.at(-1)?.field;
    const wide = far ? far.nx * far.spacing : doc.plot.width_m;
    const deep = far ? far.ny * far.spacing : doc.plot.depth_m;
    const least = 0.4 * Math.min(width / wide, height / deep);
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
    if (draws(get().tool)) addContourPoint(p);
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
