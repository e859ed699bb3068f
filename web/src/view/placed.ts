/** Pieces placed by hand as the renderer draws them. */
import type { Scene } from "../api/shapes";
import { heightAt } from "./field";
import type { PieceSpot } from "./plants";
import type { Products } from "./products";

/** The pieces that are on and not hidden by the eye, each with what it stands on. */
export function pieceSpots(doc: Scene, products: Products, hidden: Set<string>): PieceSpot[] {
  return doc.pieces
    .filter((p) => p.on && !hidden.has(p.id))
    .map((p) => {
      const line = products.manifest.pieces.find((x) => x.id === p.id);
      const dressed = line && line.kind.split("~")[0] === p.kind;
      const raised =
        line && p.stands !== "ground"
          ? heightAt(products.field, p.east_m, p.north_m) - line.up_m
          : p.sink_cm / 100;
      return {
        id: p.id,
        kind: dressed ? line.kind : p.kind,
        variant: p.variant,
        east: p.east_m,
        north: p.north_m,
        lean: p.lean!,
        bearing: p.bearing!,
        sink: raised,
        size: p.size / 100,
        turn: p.turn,
        mirrored: !!p.mirrored,
        blend: (p.blend_cm ?? 0) / 100,
      };
    });
}
