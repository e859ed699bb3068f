import * as calls from "../../api/calls";
import type { StillLine } from "../../api/shapes";
import * as urls from "../../api/urls";
import { lasting } from "../../document/numbers";
import { dropStill, heardStill } from "../../state/stills";
import { set, usePage } from "../../state/store";
import { tell } from "../../state/trouble";

const ENDED = ["done", "stopped", "failed"];

/** How far a still is, in words. */
export function howFar(s: StillLine): string {
  if (s.doing === "waiting") return "waits for its turn";
  if (s.doing === "failed") return s.trouble;
  const noise = s.noise === null ? "" : `, noise ${(100 * s.noise).toFixed(1)} %`;
  const percent = `${Math.round(100 * s.share)} %`;
  if (s.doing === "done") return `${lasting(s.seconds)}${noise}`;
  if (s.doing !== "running") return `${s.doing} at ${percent}${noise}`;
  if (!s.share || s.order.clip) return `${s.step}${left(s)}`;
  return `${percent}${left(s)}${noise}`;
}

const left = (s: StillLine) => (s.left === null ? "" : `, ${lasting(s.left)} left`);

const wish = (id: string, what: "run" | "pause" | "stop") =>
  void calls.wishStill(id, what).then(heardStill).catch(tell);

/** The stills of the scene, each with its picture so far and what can be done with it. */
export function StillList() {
  const stills = usePage((s) => s.stills);
  if (!stills.length) return null;
  return (
    <div className="mt-3" data-stills={stills.length}>
      <div className="border-b border-rule text-soft">Stills</div>
      {[...stills].reverse().map((s) => (
        <Row key={s.id} still={s} />
      ))}
    </div>
  );
}

function Row({ still: s }: { still: StillLine }) {
  const open = () => set({ dialog: "still-sheet", stillAt: s.id });
  return (
    <div className="flex gap-2 border-b border-rule py-[5px]" data-doing={s.doing}>
      <button
        className="h-[45px] w-[80px] shrink-0 overflow-hidden border border-rule bg-[#8a8a86]"
        aria-label={`Look at ${s.name}`}
        onClick={open}
      >
        {s.shown ? (
          <img src={urls.stillSoFar(s.id, s.shown)} alt="" className="h-full w-full object-cover" />
        ) : null}
      </button>
      <div className="min-w-0 flex-1 leading-[1.25]">
        <div className="flex justify-between gap-1">
          <span className="truncate">{s.name}</span>
          <span className="shrink-0 text-[11.5px] text-soft">
            {s.order.width_px} × {s.order.height_px}
          </span>
        </div>
        <div className={`text-[11.5px] ${s.doing === "failed" ? "text-rust" : "text-soft"}`}>
          {howFar(s)}
        </div>
        {!ENDED.includes(s.doing) && (
          <div className="my-[2px] h-[3px] bg-rule">
            <div className="h-full bg-moss" style={{ width: `${100 * s.share}%` }} />
          </div>
        )}
        {s.note && <div className="text-[11.5px] text-rust">{s.note}</div>}
        <div className="flex gap-2 text-[11.5px]">
          <Deeds still={s} />
        </div>
      </div>
    </div>
  );
}

/** What can be done with a still as it is. */
export function Deeds({ still: s }: { still: StillLine }) {
  return (
    <>
      {(s.doing === "running" || s.doing === "waiting") && (
        <button className="underline" onClick={() => wish(s.id, "pause")}>
          pause
        </button>
      )}
      {(s.doing === "paused" || s.doing === "stopped" || s.doing === "failed") && (
        <button className="underline" onClick={() => wish(s.id, "run")}>
          go on
        </button>
      )}
      {!ENDED.includes(s.doing) && (
        <button className="underline" onClick={() => wish(s.id, "stop")}>
          stop
        </button>
      )}
      {s.doing === "done" && (
        <a className="underline" href={urls.stillFiles(s.id)} download data-still-files>
          files
        </a>
      )}
      {ENDED.includes(s.doing) && (
        <button
          className="underline"
          onClick={() =>
            set({
              confirm: {
                text: `Take the still “${s.name}” away, with its files?`,
                yes: () => void dropStill(s.id).catch(tell),
              },
            })
          }
        >
          take away
        </button>
      )}
    </>
  );
}
