import { useEffect, useState } from "react";
import { stepInto } from "../actions/shots";
import { doWork } from "../actions/work";
import * as calls from "../api/calls";
import type { FaultAnswer, Shot } from "../api/shapes";
import { SheetBox } from "../controls/SheetBox";
import { engine } from "../state/engine";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";
import { heightAt } from "../view/field";

type Fault = FaultAnswer["faults"][number];

const FAULT_WORDS: Record<string, string> = {
  floats: "float",
  deep: "sink too deep",
  drowned: "stand under water",
  cross: "stand in one another",
  twin: "are alike side by side in a shot",
  sun: "shots have the sun in them",
  dark: "shots are black",
  bright: "shots are blown",
  outside: "shots stand where none can",
  edge: "shots show the edge of the world",
  empty: "shots have an empty middle distance",
  repeat: "shots show ground that repeats itself",
};

export function Faults() {
  const id = usePage((s) => s.id);
  const revision = usePage((s) => s.state?.revision);
  const [found, setFound] = useState<FaultAnswer | null>(null);
  useEffect(() => {
    const halt = new AbortController();
    setFound(null);
    calls
      .findFaults(id!, { document: get().doc }, halt.signal)
      .then(setFound)
      .catch((e) => {
        if (!halt.signal.aborted) tell(e);
      });
    return () => halt.abort();
  }, [revision, id]);
  const go = (f: Fault) => {
    const v = engine.view!;
    const shot = get().doc!.shots.find((s) => s.id === f.id);
    if (shot) {
      set({ chosen: f.id, open: "shots", dialog: null });
      stepInto(shot as Shot);
      return;
    }
    const field = v.products!.field;
    const b = (v.pose.bearing * Math.PI) / 180;
    const back = 8;
    const east = f.east - Math.sin(b) * back;
    const north = f.north - Math.cos(b) * back;
    const up = heightAt(field, east, north) + 2.2;
    v.pose = {
      ...v.pose,
      east,
      north,
      up,
      tilt: (Math.atan2(heightAt(field, f.east, f.north) + 0.5 - up, back) * 180) / Math.PI,
    };
    v.changed(true);
    set({ pose: v.pose, chosen: f.id, open: "planting", dialog: null });
  };
  const mendable = found?.faults.some((f) => f.mend_cm !== null || f.what === "floats");
  const mendAll = () => void doWork("mend faults", {});
  return (
    <SheetBox title="Faults in planting and shots" wide={520}>
      {!found ? (
        <p className="text-soft">Looking at every foot…</p>
      ) : (
        <>
          <p className="mb-2" data-faults={Object.values(found.count).reduce((a, b) => a + b, 0)}>
            {Object.entries(found.count).some(([, n]) => n)
              ? Object.entries(found.count)
                  .filter(([, n]) => n)
                  .map(([k, n]) => `${n.toLocaleString("en")} ${FAULT_WORDS[k]}`)
                  .join("; ") + "."
              : "None: nothing floats, sinks too deep, stands in another, or repeats side " +
                "by side in a shot, and no shot shows what it should not."}
          </p>
          <div className="max-h-[330px] overflow-y-auto">
            {found.faults.slice(0, 120).map((f, i) => (
              <button
                key={i}
                className={
                  "flex w-full justify-between gap-3 border-t border-rule/60 py-[2px] " +
                  "text-left hover:bg-paper2"
                }
                onClick={() => go(f)}
                title="Go there"
              >
                <span>
                  <b>{f.name}</b> {f.told}
                </span>
                {["dark", "bright"].includes(f.what) && (
                  <span
                    role="button"
                    tabIndex={0}
                    className="whitespace-nowrap underline"
                    onClick={(e) => {
                      e.stopPropagation();
                      void doWork("meter a shot", { shot: f.id });
                    }}
                  >
                    meter it
                  </span>
                )}
                <span className="whitespace-nowrap text-soft">
                  E {Math.round(f.east)} N {Math.round(f.north)}
                </span>
              </button>
            ))}
          </div>
          <div className="mt-3 flex justify-end gap-2">
            <button className="btn" onClick={() => set({ dialog: null })}>
              Leave
            </button>
            {(mendable || found.count.twin > 0) && (
              <button className="btn do" data-mend onClick={mendAll}>
                Mend what can be mended
              </button>
            )}
          </div>
        </>
      )}
    </SheetBox>
  );
}
