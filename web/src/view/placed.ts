/** Pieces placed by hand as the renderer draws them. */
import type { Scene } from "../api/shapes";
import { heightAt } from "./field";
import { sparedBy } from "./inAir";
import type { PieceSpot } from "./plants";
import type { Products } from "./products";
import { groundAt } from "./world";

/** Where a piece stands at a moment, in m and degrees. */
export interface PieceStands {
  id: string;
  east_m: number;
  north_m: number;
  up_m: number;
  turn: number;
}

/**
 * The pieces that are on and not hidden by the eye, each with what it stands on, or where it stands
 * at a moment.
 */
export function pieceSpots(
  doc: Scene,
  products: Products,
  hidden: Set<string>,
  moved?: Map<string, PieceStands>,
): PieceSpot[] {
  return doc.pieces
    .filter((p) => p.on && !hidden.has(p.id))
    .map((p) => {
      const at = moved?.get(p.id);
      const sizes: [number, number, number] = [p.wide! / 100, p.deep! / 100, p.tall! / 100];
      const line = products.manifest.pieces.find((x) => x.id === p.id);
      const dressed = line && line.kind.split(/[~@]/)[0] === p.kind;
      // what is drawn stands on the plot's own field, whose edge goes on beyond it
      const beyond =
        heightAt(products.field, p.east_m, p.north_m) - groundAt(products, p.east_m, p.north_m);
      const raised = at
        ? heightAt(products.field, at.east_m, at.north_m) - at.up_m
        : line && p.stands !== "ground"
          ? heightAt(products.field, p.east_m, p.north_m) - line.up_m
          : p.sink_cm / 100 + beyond;
      return {
        id: p.id,
        kind: dressed ? line.kind : p.kind,
        variant: p.variant,
        east: at?.east_m ?? p.east_m,
        north: at?.north_m ?? p.north_m,
        lean: p.lean!,
        bearing: p.bearing!,
        sink: raised,
        size: p.size / 100,
        turn: at?.turn ?? p.turn,
        mirrored: !!p.mirrored,
        spared: sparedBy(products.manifest.lamps, p.id),
        blend: (p.blend_cm ?? 0) / 100,
        // a bent kind has its three sizes already
        form: dressed && line.kind.includes("@") ? [1, 1, 1] : sizes,
      };
    });
}
