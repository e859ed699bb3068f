import { stripLasts } from "../actions/time";
import type { StillOrder } from "../api/shapes";
import { usePage } from "../state/store";
import { Pixels } from "./Pixels";

type Clip = NonNullable<StillOrder["clip"]>;

const FORMS: Record<Clip["form"], string> = {
  mp4: "a clip (MP4, H.264)",
  webm: "a clip (WebM, VP9)",
  frames: "frames (PNG)",
};

/** Many pictures: each is small and quick until one wishes otherwise. */
export const FIRST = { width_px: 960, height_px: 540, quality: "look", region: null } as const;

/** A moving picture as long as what moves. */
export function clipOfStrip(): Clip {
  return {
    from_s: 0,
    to_s: Math.round(stripLasts() * 10) / 10,
    fps: 24,
    form: "mp4",
    light: false,
  };
}

/** Whether it is a still or a moving picture, and of which seconds. */
export function ClipFields({
  order,
  change,
}: {
  order: StillOrder;
  change: (values: Partial<StillOrder>) => void;
}) {
  const moves = usePage((s) => s.doc!.moves.length);
  const clip = order.clip;
  const put = (values: Partial<Clip>) => clip && change({ clip: { ...clip, ...values } });
  const seconds = (label: string, value: number, keep: (s: number) => void) => (
    <input
      className="text w-[60px]"
      type="number"
      min={0}
      step={0.1}
      aria-label={label}
      value={value}
      onChange={(e) => keep(Math.max(0, +e.target.value))}
    />
  );
  return (
    <>
      <span>Moves</span>
      <div>
        <label className="flex items-baseline gap-1">
          <input
            type="checkbox"
            checked={!!clip}
            aria-label="A moving picture"
            onChange={(e) =>
              change(e.target.checked ? { ...FIRST, clip: clipOfStrip() } : { clip: null })
            }
          />
          {moves
            ? "a moving picture"
            : "a moving picture (nothing moves yet: see the strip of time)"}
        </label>
        {clip && (
          <div className="mt-1 flex flex-wrap items-baseline gap-x-2 gap-y-1">
            <span>
              from {seconds("From second", clip.from_s, (from_s) => put({ from_s }))} to{" "}
              {seconds("To second", clip.to_s, (to_s) => put({ to_s }))} s
            </span>
            <span>
              <Pixels
                label="Pictures a second"
                value={clip.fps}
                least={1}
                most={120}
                keep={(fps) => put({ fps })}
              />{" "}
              a second
            </span>
            <select
              className="text"
              aria-label="Written as"
              value={clip.form}
              onChange={(e) => put({ form: e.target.value as Clip["form"] })}
            >
              {Object.entries(FORMS).map(([name, words]) => (
                <option key={name} value={name}>
                  {words}
                </option>
              ))}
            </select>
            <label className="flex items-baseline gap-1">
              <input
                type="checkbox"
                checked={clip.light}
                onChange={(e) => put({ light: e.target.checked })}
              />
              light of each frame (EXR)
            </label>
          </div>
        )}
      </div>
    </>
  );
}
