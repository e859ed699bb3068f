import { useState } from "react";
import * as calls from "../api/calls";
import { Fold } from "../controls/Fold";
import { NumberLine } from "../controls/NumberLine";
import { shown } from "../document/numbers";
import { openScene } from "../state/opening";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";

const POSTS = 1024; // of a first window along a side

/** A square of a large land as a scene of its own, with as many posts as are wished for. */
export function LandWindow() {
  const plot = usePage((s) => s.doc!.plot);
  const longer = Math.max(plot.width_m!, plot.depth_m!);
  const spacing = longer / (plot.posts! - 1);
  const side = Math.min(longer / 4, POSTS * Math.min(1, spacing));
  const [at, setAt] = useState({
    east: plot.width_m! / 2,
    north: plot.depth_m! / 2,
    side,
    apart: side / POSTS,
  });
  const [busy, setBusy] = useState(false);
  const open = async () => {
    setBusy(true);
    try {
      const made = await calls.openWindow(get().id!, {
        east_m: at.east,
        north_m: at.north,
        side_m: at.side,
        spacing_m: at.apart,
      });
      set({ dialog: null });
      await openScene(made.id);
    } catch (e) {
      tell(e);
    } finally {
      setBusy(false);
    }
  };
  const number = (label: string, key: keyof typeof at) => (
    <NumberLine label={label} value={at[key]} unit="m" onKeep={(v) => setAt({ ...at, [key]: v })} />
  );
  return (
    <Fold title="A window of it in full" note={`now ${shown(spacing)} m between posts`}>
      <p className="mb-1 text-[11.5px] text-soft">
        A square of this land as a scene of its own, as fine as it is wished for, with everything
        where it stands here.
      </p>
      <div data-window>
        {number("Middle, east", "east")}
        {number("Middle, north", "north")}
        {number("Across", "side")}
        {number("Between posts", "apart")}
        <button className="btn mt-1" data-open-window disabled={busy} onClick={() => void open()}>
          {busy ? "Growing it…" : "Open the window"}
        </button>
      </div>
    </Fold>
  );
}
