import { useState } from "react";
import { doWork } from "../actions/work";
import { SheetBox } from "../controls/SheetBox";
import { set, usePage } from "../state/store";
import { LandWindow } from "./LandWindow";
import { PlotFields } from "./PlotFields";

/** The plot of this scene set anew: its size and grid; the south-west corner stays. */
export function PlotSheet() {
  const now = usePage((s) => s.doc!.plot);
  const [plot, setPlot] = useState({
    width_m: now.width_m,
    depth_m: now.depth_m,
    posts: now.posts,
  });
  const keep = async () => {
    const done = await doWork("set the plot", plot);
    if (done) set({ dialog: null, mapAt: null });
  };
  return (
    <SheetBox title="The plot">
      <p className="mb-1 text-soft">
        The south-west corner stays where it is, and with it every place: land, marks, pieces and
        shots keep their metres.
      </p>
      <PlotFields plot={plot} onChange={setPlot} />
      <LandWindow />
      <div className="mt-3 flex justify-end gap-2">
        <button className="btn" onClick={() => set({ dialog: null })}>
          Leave
        </button>
        <button className="btn do" data-set-plot onClick={() => void keep()}>
          Set the plot
        </button>
      </div>
    </SheetBox>
  );
}
