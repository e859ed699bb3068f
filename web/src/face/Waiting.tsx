import { keptPicture } from "../state/keptPicture";
import { usePage } from "../state/store";

/** What the face shows before its first picture: the last one of this scene, or a word. */
export function Waiting() {
  const id = usePage((s) => s.id);
  const pictured = usePage((s) => s.pictured);
  const lacking = usePage((s) => s.viewLacking);
  if (lacking)
    return (
      <p className="absolute inset-0 grid place-items-center p-8 text-center" data-view-lacking>
        {lacking}
      </p>
    );
  if (pictured || id === null) return null;
  const picture = keptPicture(id);
  if (!picture) return null;
  return (
    <img
      src={picture}
      alt=""
      className="pointer-events-none absolute inset-0 h-full w-full object-cover"
      data-kept-picture
    />
  );
}
