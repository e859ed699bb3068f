import { edit } from "../../state/edits";
import { usePage } from "../../state/store";

export function SeasonLine() {
  const seasons = usePage((s) => s.catalogue!.seasons);
  const season = usePage((s) => s.doc!.season ?? "summer");
  return (
    <div
      className="mb-1 flex items-center justify-between"
      title={
        "Leaves, flowers and snow on all that is of the season; each kind of a mix " +
        "may have a look of its own"
      }
    >
      <span>Season</span>
      <span className="flex">
        {seasons.map((k) => (
          <button
            key={k}
            className={`btn -ml-px px-[5px]! ${season === k ? "on" : ""}`}
            data-season={k}
            aria-pressed={season === k}
            onClick={() =>
              void edit(`Season: ${k}`, (d) => {
                d.season = k as typeof d.season;
              })
            }
          >
            {k}
          </button>
        ))}
      </span>
    </div>
  );
}
