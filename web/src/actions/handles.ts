import type { Scene, Shot } from "../api/shapes";
import { find, listOf } from "../document/lists";
import { drag, nudge } from "../state/edits";
import { get } from "../state/store";
import { carried } from "./farLand";

/** A grip on the map; those with `outline` only draw the shape's edge. */
export interface Handle {
  name: string;
  east: number;
  north: number;
  owner: string;
  index: number;
  outline?: boolean;
  piece?: boolean;
  /** The list that its entry stands in, if it is not the land. */
  list?: "land" | "far" | "air" | "shots";
}

interface Lamp {
  name: string;
  east_m: number;
  north_m: number;
  aim_east_m: number;
  aim_north_m: number;
  spread: number;
}

/** Grips of a lamp: where it stands and what it is aimed at, with its cone. */
function handlesOfLamp(lamp: Lamp, index: number): Handle[] {
  const grip = (name: string, east: number, north: number, outline = false): Handle => ({
    name,
    east,
    north,
    owner: lamp.name,
    index,
    list: "air",
    outline,
  });
  const turn = Math.atan2(lamp.aim_east_m - lamp.east_m, lamp.aim_north_m - lamp.north_m);
  const away = Math.hypot(lamp.aim_east_m - lamp.east_m, lamp.aim_north_m - lamp.north_m);
  const half = (Math.min(lamp.spread, 179) * Math.PI) / 180;
  const edge = Array.from({ length: 25 }, (_, k) => {
    const a = turn + half * (k / 12 - 1);
    const [x, y] = [Math.sin(a) * away, Math.cos(a) * away];
    return grip("outline", lamp.east_m + x, lamp.north_m + y, true);
  });
  return [
    grip("outline", lamp.east_m, lamp.north_m, true),
    ...edge,
    grip("centre", lamp.east_m, lamp.north_m),
    grip("aim", lamp.aim_east_m, lamp.aim_north_m),
  ];
}

const AIM_SHARE = 0.08; // of the plot, from an eye to the grip of its bearing

/** Grips of a shot: its eye, and what it is aimed at or where it looks. */
function handlesOfShot(doc: Scene, index: number): Handle[] {
  const shot = doc.shots[index] as Shot;
  const grip = (name: string, east: number, north: number): Handle => ({
    name,
    east,
    north,
    owner: shot.name,
    index,
    list: "shots",
  });
  const away = Math.max(doc.plot.width_m, doc.plot.depth_m) * AIM_SHARE;
  const b = (shot.bearing * Math.PI) / 180;
  const [east, north] =
    shot.aim_by === "place"
      ? [shot.aim_east_m, shot.aim_north_m]
      : [shot.east_m + away * Math.sin(b), shot.north_m + away * Math.cos(b)];
  return [grip("centre", shot.east_m, shot.north_m), grip("aim", east, north)];
}

/** A shot's eye or aim is moved. */
function moveShot(shot: Shot, name: string, east: number, north: number) {
  if (name === "centre") {
    shot.east_m = +east.toFixed(2);
    shot.north_m = +north.toFixed(2);
  } else if (shot.aim_by === "place") {
    shot.aim_east_m = +east.toFixed(2);
    shot.aim_north_m = +north.toFixed(2);
  } else {
    const turn = (Math.atan2(east - shot.east_m, north - shot.north_m) * 180) / Math.PI;
    shot.bearing = +((turn + 360) % 360).toFixed(1);
  }
}

interface Framed {
  east_m: number;
  north_m: number;
  turn?: number;
  length_m?: number;
  breadth_m?: number;
  width_m?: number;
  depth_m?: number;
  area?: string;
  kind: string;
  name: string;
}

/** The fields that the grips of a kind of landform change, from the server's register. */
const gripsOf = (kind: string) => get().catalogue?.entries[kind]?.handles ?? null;

/** Grips of the chosen piece: where it stands, its turn. */
function handlesOfPiece(doc: Scene, chosen: string | null): Handle[] {
  const index = doc.pieces.findIndex((p) => p.id === chosen);
  const p = doc.pieces[index];
  const facts = get().cabinet?.kinds.find((k) => k.name === p?.kind);
  if (!p || !facts) return [];
  const r = Math.max(
    facts.reach_m * (p.size! / 100) * (Math.max(p.wide!, p.deep!) / 100) * 1.12,
    Math.max(doc.plot.width_m, doc.plot.depth_m) * 0.012,
  );
  const a = (p.turn! * Math.PI) / 180;
  const one = (name: string, east: number, north: number, outline = false): Handle => ({
    name,
    east,
    north,
    owner: p.name,
    index,
    piece: true,
    outline,
  });
  return [
    ...Array.from({ length: 32 }, (_, k) =>
      one(
        "outline",
        p.east_m! + r * Math.sin((k / 32) * 2 * Math.PI),
        p.north_m! + r * Math.cos((k / 32) * 2 * Math.PI),
        true,
      ),
    ),
    one("centre", p.east_m!, p.north_m!),
    one("turn", p.east_m! + r * Math.sin(a), p.north_m! + r * Math.cos(a)),
  ];
}

/** Grips of the chosen landform: its centre, its turn, its two sizes; or of the chosen piece. */
export function handlesOf(doc: Scene, chosen: string | null): Handle[] {
  const pieces = handlesOfPiece(doc, chosen);
  if (pieces.length) return pieces;
  const shot = doc.shots.findIndex((s) => s.id === chosen);
  if (shot >= 0) return handlesOfShot(doc, shot);
  const found = find(doc, chosen);
  const list = found?.list;
  if (list !== "air" && list !== "land" && list !== "far") return [];
  const index = found!.index;
  const e = found!.entry as unknown as Framed;
  if (e.kind === "lamp") return handlesOfLamp(e as unknown as Lamp, index);
  const grips = gripsOf(e.kind);
  if (!grips || e.area === "plot" || (list === "air" && e.area)) return [];
  const sizes = e as unknown as Record<string, number>;
  const across = sizes[grips.across] / 2;
  const along = sizes[grips.along] / 2;
  const a = ((e.turn ?? 0) * Math.PI) / 180;
  const to = list === "far" ? carried(doc).to : (...place: [number, number]) => place;
  const at = (x: number, y: number): { east: number; north: number } => {
    const [east, north] = to(
      e.east_m + x * Math.cos(a) + y * Math.sin(a),
      e.north_m - x * Math.sin(a) + y * Math.cos(a),
    );
    return { east, north };
  };
  const grip = (name: string, x: number, y: number): Handle => ({
    name,
    ...at(x, y),
    owner: e.name,
    index,
    list,
  });
  const round = grips.round;
  const edge = Array.from({ length: 48 }, (_, k) => {
    const t = (k / 48) * 2 * Math.PI;
    return {
      ...grip("outline", 0, 0),
      ...(round
        ? at(across * Math.cos(t), along * Math.sin(t))
        : at(
            across * [1, -1, -1, 1][Math.floor(k / 12)],
            along * [1, 1, -1, -1][Math.floor(k / 12)],
          )),
      outline: true,
    };
  });
  return [
    ...edge,
    grip("centre", 0, 0),
    grip("turn", 0, along * 1.22),
    grip("breadth", across, 0),
    grip("length", 0, along),
  ];
}

/** The grip follows the pointer; with `snap` a turn keeps to 15 degrees. */
export function moveHandle(h: Handle, east: number, north: number, snap: boolean) {
  if (h.piece) {
    nudge((d) => {
      const p = d.pieces[h.index];
      const t = (Math.atan2(east - p.east_m!, north - p.north_m!) * 180) / Math.PI + 360;
      if (h.name === "centre") {
        p.east_m = +east.toFixed(3);
        p.north_m = +north.toFixed(3);
      } else p.turn = +((snap ? Math.round(t / 15) * 15 : t) % 360).toFixed(1);
    });
    return;
  }
  if (h.list === "shots") {
    drag((d) => moveShot(d.shots[h.index] as Shot, h.name, east, north));
    return;
  }
  drag((d) => {
    const e = listOf(d, h.list ?? "land")[h.index] as unknown as Record<string, number> & {
      kind: string;
    };
    if (h.list === "far") [east, north] = carried(d).from(east, north);
    if (h.name === "aim") {
      e.aim_east_m = +east.toFixed(2);
      e.aim_north_m = +north.toFixed(2);
      return;
    }
    if (e.kind === "lamp") {
      e.east_m = +east.toFixed(2);
      e.north_m = +north.toFixed(2);
      return;
    }
    const a = ((e.turn ?? 0) * Math.PI) / 180;
    const dx = east - e.east_m;
    const dy = north - e.north_m;
    const { across, along } = gripsOf(e.kind)!;
    if (h.name === "centre") {
      e.east_m = +east.toFixed(2);
      e.north_m = +north.toFixed(2);
    } else if (h.name === "turn") {
      const t = (Math.atan2(dx, dy) * 180) / Math.PI + 360;
      e.turn = +((snap ? Math.round(t / 15) * 15 : t) % 360).toFixed(1);
    } else if (h.name === "breadth")
      e[across] = +Math.max(1, 2 * Math.abs(dx * Math.cos(a) - dy * Math.sin(a))).toFixed(2);
    else e[along] = +Math.max(1, 2 * Math.abs(dx * Math.sin(a) + dy * Math.cos(a))).toFixed(2);
  });
}
