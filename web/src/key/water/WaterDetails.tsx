import { fillHollow } from "../../actions/pools";
import { set } from "../../state/store";
import type { DetailsProps } from "../details";

interface Pool {
  id: string;
  reach: string;
  east_m: number;
  north_m: number;
  level_m: number;
}

/** A water: its settings, and a pool placed by a click or filled to a rim. */
export function WaterDetails({ entry, settings }: DetailsProps) {
  const pool = entry as unknown as Pool;
  const higher = () => void fillHollow(pool.id, pool.east_m, pool.north_m, pool.level_m + 0.06);
  return (
    <>
      {settings}
      {pool.reach !== "stream" && (
        <button
          className="btn mt-1"
          onClick={() => set((s) => ({ tool: s.tool === "pool" ? null : "pool" }))}
        >
          Place the pool by a click
        </button>
      )}
      {pool.reach === "pool" && (
        <button
          className="btn mt-1 ml-1"
          onClick={higher}
          title="Up to where it runs over into lower ground; again, to the next rim out"
        >
          Fill to the next rim
        </button>
      )}
    </>
  );
}
