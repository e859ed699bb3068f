import { Eye, EyeOff } from "lucide-react";
import { toggleHidden } from "../state/hiding";
import { usePage } from "../state/store";

/** Hides an entry in the view only; stills and files hold it all the same. */
export function EyeButton({ id, name }: { id: string; name: string }) {
  const hidden = usePage((s) => s.hidden.has(id));
  return (
    <button
      className="icon"
      title={
        hidden
          ? "Hidden in the view only; stills and files hold it"
          : "Hide in the view, not in stills"
      }
      aria-label={`Hide ${name} in the view`}
      aria-pressed={hidden}
      onClick={(e) => {
        e.stopPropagation();
        toggleHidden(id);
      }}
    >
      {hidden ? <EyeOff size={13} /> : <Eye size={13} />}
    </button>
  );
}
