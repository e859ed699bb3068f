import { keepShot } from "../../actions/camera";

/** The view as it is becomes a shot. */
export function KeepShot() {
  return (
    <button className="btn" onClick={keepShot}>
      Keep this view
    </button>
  );
}
