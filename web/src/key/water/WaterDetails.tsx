import { fillHollow } from "../../actions/pools";
import { doWork } from "../../actions/work";
import { edit } from "../../state/edits";
import { set, usePage } from "../../state/store";
import type { DetailsProps } from "../details";

interface Standing {
  id: string;
  reach: string;
  east_m: number;
  north_m: number;
  level_m: number;
}

const STEPS_CM = [-50, -10, -1, 1, 10, 50];

const told = (x: number) =>
  x.toLocaleString("en-GB", { maximumSignificantDigits: 3, useGrouping: true });

/** How much lies under a water, and its level by centimetres. */
function Level({ water }: { water: Standing }) {
  const line = usePage((s) => s.products?.manifest.water.find((w) => w.id === water.id));
  const raise = (cm: number) =>
    void edit("Level", (d) => {
      const own = d.water.find((w) => w.id === water.id);
      if (own) own.level_m = Math.round((own.level_m ?? 0) * 100 + cm) / 100;
    });
  return (
    <div className="mb-1">
      {water.reach !== "stream" && (
        <div className="mt-1 mb-1 flex items-center gap-1" data-raise>
          <span className="mr-1 text-[12px]" title="Raises or lowers the level">
            cm
          </span>
          {STEPS_CM.map((cm) => (
            <button
              key={cm}
              className="btn px-1.5"
              onClick={() => raise(cm)}
              aria-label={`${cm > 0 ? "Raise" : "Lower"} by ${Math.abs(cm)} cm`}
            >
              {cm > 0 ? `+${cm}` : `−${-cm}`}
            </button>
          ))}
        </div>
      )}
      {line && (
        <p className="text-[12px]" data-flooded>
          {line.wet_m2 > 0
            ? `${told(line.wet_m2 / 1e4)} ha under water, ${told(line.wet_m3)} m³`
            : "dry: no ground lies below it"}
        </p>
      )}
      {line?.told.map((words) => (
        <p key={words} className="text-[12px] text-rust" data-water-told>
          {words}
        </p>
      ))}
    </div>
  );
}

/** A ready water or a ready shore, taken by a work of that name. */
function Ready({ id, what }: { id: string; what: "water" | "shore" }) {
  const kinds = usePage((s) => (what === "water" ? s.catalogue!.waters : s.catalogue!.shores));
  return (
    <select
      className="text mb-1 min-w-0 flex-1"
      aria-label={`Ready ${what}`}
      value=""
      onChange={(e) => void doWork(`ready ${what}`, { water: id, name: e.target.value })}
    >
      <option value="">{`a ready ${what}…`}</option>
      {kinds.map((k) => (
        <option key={k.name} value={k.name}>
          {k.label}
        </option>
      ))}
    </select>
  );
}

/** A water: its settings, and a pool placed by a click or filled to a rim. */
export function WaterDetails({ entry, settings }: DetailsProps) {
  const pool = entry as unknown as Standing;
  const higher = () => void fillHollow(pool.id, pool.east_m, pool.north_m, pool.level_m + 0.06);
  return (
    <>
      <Level water={pool} />
      <div className="flex gap-1">
        <Ready id={pool.id} what="water" />
        <Ready id={pool.id} what="shore" />
      </div>
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
