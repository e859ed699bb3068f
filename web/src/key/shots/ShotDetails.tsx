import type { Shot } from "../../api/shapes";
import { round } from "../../document/numbers";
import { edit } from "../../state/edits";
import { engine } from "../../state/engine";
import { set, usePage } from "../../state/store";
import type { DetailsProps } from "../details";
import { LensRule } from "./LensRule";

const LEAST_EYE_M = 0.05;

/** A shot: its settings, and what is done with it. */
export function ShotDetails({ index, entry, settings }: DetailsProps) {
  const inset = usePage((s) => s.insetShot === entry.id);
  const takeView = () => {
    const view = engine.view!;
    const { east, north, up, bearing, tilt } = view.pose;
    const foot = { ...(entry as unknown as Shot), east_m: east, north_m: north, eye_m: 0 };
    void edit(`${entry.name}: view taken`, (d) =>
      Object.assign(d.shots[index], {
        east_m: round(east, 2),
        north_m: round(north, 2),
        eye_m: round(Math.max(LEAST_EYE_M, up - view.poseOf(foot).up), 2),
        bearing: round(bearing, 2),
        tilt: round(tilt, 2),
      }),
    );
  };
  return (
    <>
      <LensRule shot={entry as unknown as Shot} index={index} />
      {settings}
      <div className="mt-2 flex gap-2">
        <button className="btn" onClick={takeView}>
          Take this view
        </button>
        <button
          className={`btn ${inset ? "on" : ""}`}
          aria-pressed={inset}
          onClick={() => set({ insetShot: inset ? null : entry.id })}
        >
          In the inset
        </button>
        <button className="btn" onClick={() => set({ dialog: "still" })}>
          Take a still…
        </button>
      </div>
    </>
  );
}
