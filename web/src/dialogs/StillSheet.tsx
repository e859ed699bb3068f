import * as urls from "../api/urls";
import { SheetBox } from "../controls/SheetBox";
import { Deeds, howFar } from "../key/shots/StillList";
import { usePage } from "../state/store";

/** One still at its largest: as far as it has come, or finished. */
export function StillSheet() {
  const still = usePage((s) => s.stills.find((x) => x.id === s.stillAt));
  if (!still) return null;
  const film = still.files.find((f) => /\.(mp4|webm)$/.test(f));
  const picture =
    still.files.find((f) => f.endsWith("-cross.png")) ??
    still.files.find((f) => f.endsWith(".png"));
  return (
    <SheetBox title={still.name} wide={1100}>
      <div className="grid min-h-[300px] place-items-center bg-[#8a8a86]">
        {film ? (
          <video
            src={urls.stillFile(still.id, film)}
            controls
            autoPlay
            loop
            muted
            aria-label={still.name}
            data-film={film}
            className="max-h-[600px] w-full object-contain"
          />
        ) : still.shown || picture ? (
          <img
            src={
              picture ? urls.stillFile(still.id, picture) : urls.stillSoFar(still.id, still.shown)
            }
            alt={still.name}
            data-still-picture={still.doing}
            className="max-h-[600px] w-full object-contain"
          />
        ) : (
          <span>{still.step || "It waits for its turn."}</span>
        )}
      </div>
      <div className="mt-2 flex items-baseline gap-4">
        <span>
          {still.order.width_px} × {still.order.height_px} px, {still.order.quality}
        </span>
        <span className={still.doing === "failed" ? "text-rust" : "text-soft"}>
          {howFar(still)} {still.advice}
        </span>
        <span className="ml-auto flex gap-3">
          <Deeds still={still} />
        </span>
      </div>
    </SheetBox>
  );
}
