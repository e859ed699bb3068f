/** The title block and the foot line. */
import { History, Redo2, Search, Undo2 } from "lucide-react";
import { action } from "../actions/actions";
import { set, stopBuild, usePage } from "../state";
import { shown } from "./settings";

export function TitleBlock() {
  const state = usePage((s) => s.state);
  const doc = usePage((s) => s.doc);
  const m = usePage((s) => s.manifest);
  const lost = usePage((s) => s.lost);
  if (!state || !doc) return null;
  const time = new Date(state.kept).toLocaleTimeString("en-GB", {
    hour: "2-digit",
    minute: "2-digit",
  });
  const spacing = Math.max(doc.plot.width_m, doc.plot.depth_m) / (doc.plot.posts - 1);
  const icon = (id: string, Icon: typeof Undo2) => (
    <button
      className="icon"
      disabled={!action(id).can?.() && id !== "commands"}
      aria-label={action(id).name}
      title={`${action(id).name}${id === "undo" && state.undo ? `: ${state.undo}` : id === "redo" && state.redo ? `: ${state.redo}` : ""} (${action(id).keys})`}
      onClick={action(id).run}
      data-action={id}
    >
      <Icon size={15} />
    </button>
  );
  return (
    <div className="mt-2 grid shrink-0 grid-cols-2 border-[1.5px] border-ink text-[12.5px]">
      <div className="col-span-2 flex items-baseline justify-between gap-2 px-2 py-1">
        <button
          className="truncate font-show text-[15px] font-semibold hover:underline"
          title="Open another scene (Ctrl+O)"
          onClick={action("scenes").run}
        >
          {doc.name}
        </button>
        <span className={lost ? "text-rust" : "text-moss"} data-kept={state.revision}>
          {lost ? "waiting for the server" : `kept ${time}`}
        </span>
      </div>
      <Cell label="plot">
        {shown(doc.plot.width_m)} × {shown(doc.plot.depth_m)} m
      </Cell>
      <Cell label="full grid" right>
        {doc.plot.posts} posts, {shown(spacing)} m
      </Cell>
      <Cell label="cost in full">
        {m ? `${shown(m.cost.full_triangles / 1e6)} M triangles` : "…"}
      </Cell>
      <Cell label={`history · ${state.steps}`} right>
        <span className="flex items-center gap-1">
          {icon("undo", Undo2)}
          {icon("redo", Redo2)}
          {icon("history", History)}
          {icon("commands", Search)}
        </span>
      </Cell>
    </div>
  );
}

function Cell({
  label,
  right,
  children,
}: {
  label: string;
  right?: boolean;
  children: React.ReactNode;
}) {
  return (
    <div className={`border-t border-rule px-2 py-[3px] ${right ? "border-l" : ""}`}>
      <small className="block text-[10.5px] leading-none text-soft">{label}</small>
      <div className="truncate">{children}</div>
    </div>
  );
}

export function FootLine() {
  const place = usePage((s) => s.place);
  const building = usePage((s) => s.building);
  const progress = usePage((s) => s.progress);
  const m = usePage((s) => s.manifest);
  const pinned = usePage((s) => s.pinned);
  const still = usePage((s) => s.still);
  const points = ["N", "NE", "E", "SE", "S", "SW", "W", "NW"];
  const b = (t: React.ReactNode) => <b className="font-semibold text-ink">{t}</b>;
  return (
    <div
      className="flex items-center gap-5 overflow-hidden pl-1 text-[12px] whitespace-nowrap text-soft"
      data-foot
    >
      {place ? (
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
          Drag to look round, right drag to go round, wheel to come nearer, arrow keys to walk.
          Click the ground to read it.
        </span>
      )}
      <span className="ml-auto pr-1">
        {still ? (
          <>
            still {Math.round(still.share * 100)} % ·{" "}
            <button className="underline" onClick={still.stop}>
              stop
            </button>
          </>
        ) : building ? (
          <>
            {progress ? `${progress.step} ${Math.round(progress.share * 100)} %` : "drawing up"} ·{" "}
            <button className="underline" onClick={stopBuild}>
              stop
            </button>
          </>
        ) : m ? (
          `${m.draft ? "draft" : "view"} ${m.grid.nx} × ${m.grid.ny}, ${shown(m.grid.spacing)} m`
        ) : (
          ""
        )}
      </span>
    </div>
  );
}
