import { useKept } from "../state/kept";

/** Whether small pictures are drawn again by following the light; this browser keeps it. */
export const useFollows = () => useKept("small pictures follow the light", false);

/** Switches it; where `able` is false there is nothing to follow it for. */
export function Follows({
  follows,
  onFollows,
  able = true,
}: {
  follows: boolean;
  onFollows: (follows: boolean) => void;
  able?: boolean;
}) {
  return (
    <label
      className={`flex items-center gap-1 whitespace-nowrap ${able ? "" : "text-soft"}`}
      title="Each picture again as a still would have it; slower, and not from above"
    >
      <input
        type="checkbox"
        className="accent-moss"
        data-follows
        disabled={!able}
        checked={follows}
        onChange={(e) => onFollows(e.target.checked)}
      />
      by following the light
    </label>
  );
}
