import * as calls from "../api/calls";
import { SheetBox } from "../controls/SheetBox";
import { get, set, usePage } from "../state/store";
import { tell } from "../state/trouble";

/** Strokes that were kept but could not be applied when the scene was opened. */
export function Asides() {
  const aside = usePage((s) => s.state?.aside) ?? [];
  const leave = () => set({ dialog: null });
  const drop = (session: string) =>
    void calls
      .dropStroke(get().id!, session)
      .then(() => {
        const left = aside.filter((x) => x.session !== session);
        set((s) => ({ state: s.state && { ...s.state, aside: left } }));
        if (!left.length) leave();
      })
      .catch(tell);
  return (
    <SheetBox title="Strokes set aside" onLeave={leave}>
      <p className="mb-2">
        These strokes were kept, but cannot be applied to the scene as it is now. Nothing else is
        touched by them; they are tried again each time that the scene is opened.
      </p>
      {aside.map((x) => (
        <div key={x.session} data-aside={x.session} className="border-t border-rule py-2">
          <div className="mb-1 flex items-baseline gap-2">
            <b className="grow">
              {x.tool}, {x.points} {x.points === 1 ? "point" : "points"}
            </b>
            <button className="btn" data-drop-aside onClick={() => drop(x.session)}>
              Throw it away
            </button>
          </div>
          <p className="text-soft">{x.why}</p>
        </div>
      ))}
      <div className="mt-3 flex justify-end">
        <button className="btn do" autoFocus onClick={leave}>
          Keep them aside
        </button>
      </div>
    </SheetBox>
  );
}
