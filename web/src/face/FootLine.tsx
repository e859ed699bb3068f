import { shown } from "../document/numbers";
import { stopBuild } from "../state/builds";
import { set, usePage } from "../state/store";

const percent = (share: number) => `${Math.round(share * 100)} %`;

export function FootLine() {
  const place = usePage((s) => s.place);
  const building = usePage((s) => s.building);
  const progress = usePage((s) => s.progress);
  const m = usePage((s) => s.manifest);
  const pinned = usePage((s) => s.pinned);
  const still = usePage((s) => s.stills.find((x) => x.doing === "running"));
  const refining = usePage((s) => s.pictured && !s.settled && !s.playing);
  const speed = usePage((s) => s.speed);
  const points = ["N", "NE", "E", "SE", "S", "SW", "W", "NW"];
  const b = (t: React.ReactNode) => <b className="font-semibold text-ink">{t}</b>;
  return (
    <div
      className={
        "flex items-center gap-5 overflow-hidden pl-1 text-[12px] " + "whitespace-nowrap text-soft"
      }
      data-foot
    >
      {speed !== null ? (
        <span data-speed>The eye travels at {b(`${shown(speed)} m/s`)}</span>
      ) : place ? (
        <>
          <span data-place>
            E {b(place.east.toFixed(1))} N {b(place.north.toFixed(1))} ·{" "}
            {b(`${place.up.toFixed(1)} m`)} · slope {b(`${place.slope.toFixed(0)}°`)} facing{" "}
            {b(points[Math.round(place.facing / 45) % 8])}
          </span>
          <span className="truncate">{place.ground}</span>
          {place.plant && (
            <span className="truncate" data-plant={place.plant.sowing}>
              {place.plant.label},{" "}
              {pinned ? (
                <button
                  className="underline"
                  onClick={() => set({ chosen: place.plant!.sowing, open: "planting" })}
                >
                  {place.plant.name}
                </button>
              ) : (
                place.plant.name
              )}
            </span>
          )}
          {pinned && (
            <button className="underline" onClick={() => set({ pinned: false, place: null })}>
              let go
            </button>
          )}
        </>
      ) : (
        <span>
          Drag to look round, right drag to go round, wheel to come nearer, arrow keys to walk (Alt
          and wheel: how fast). Click the ground to read it.
        </span>
      )}
      <span className="ml-auto pr-1">
        {still ? (
          <button
            className="mr-3 underline"
            data-still-share={still.share}
            onClick={() => set({ dialog: "still-sheet", stillAt: still.id })}
          >
            still {percent(still.share)}
          </button>
        ) : null}
        {building ? (
          <>
            {progress ? `${progress.step} ${percent(progress.share)}` : "drawing up"} ·{" "}
            <button className="underline" onClick={stopBuild}>
              stop
            </button>
          </>
        ) : progress ? (
          <span data-refining>{`${progress.step} ${percent(progress.share)}`}</span>
        ) : refining ? (
          <span data-refining>drawing finer…</span>
        ) : m ? (
          `${m.draft ? "draft" : "view"} ${m.grid.nx} × ${m.grid.ny}, ${shown(m.grid.spacing)} m`
        ) : (
          ""
        )}
      </span>
    </div>
  );
}
