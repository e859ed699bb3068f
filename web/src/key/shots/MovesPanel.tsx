import { closeTime, openTime } from "../../actions/time";
import { usePage } from "../../state/store";
import { EntryList } from "../EntryList";

/** What moves in a moving picture, and the strip of time on which it is set. */
export function MovesPanel() {
  const shots = usePage((s) => s.doc!.shots.length);
  const open = usePage((s) => !!s.time);
  if (!shots) return null;
  return (
    <div className="mt-3">
      <div className="mb-1 flex items-baseline justify-between border-b border-rule text-soft">
        <span>Moving pictures</span>
        <button
          className={`btn ${open ? "on" : ""}`}
          data-strip-of-time
          onClick={() => (open ? closeTime() : openTime())}
        >
          strip of time
        </button>
      </div>
      <EntryList
        list="moves"
        add="move"
        empty="Nothing moves. Sun, clouds, eye, focus, wind, waves and pieces can, each in its time."
      />
    </div>
  );
}
