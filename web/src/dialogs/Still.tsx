import { useState } from "react";
import { saveFile } from "../api/client";
import type { Scene } from "../api/shapes";
import { Range } from "../controls/Range";
import { SheetBox } from "../controls/SheetBox";
import { shown } from "../document/numbers";
import { engine } from "../state/engine";
import { set, usePage } from "../state/store";
import { tell } from "../state/trouble";

const STILL_SIZES: [string, number, number][] = [
  ["Small proof", 640, 360],
  ["Wide", 1920, 1080],
  ["Square", 1600, 1600],
  ["Tall", 1200, 1600],
  ["4K", 3840, 2160],
];

export function Still() {
  const doc = usePage((s) => s.doc) as Scene;
  const chosen = usePage((s) => s.chosen);
  const [shot, setShot] = useState(doc.shots.find((s) => s.id === chosen)?.id ?? "");
  const picked = doc.shots.find((s) => s.id === shot);
  const [size, setSize] = useState<[number, number]>([
    picked?.width_px ?? 1920,
    picked?.height_px ?? 1080,
  ]);
  const [frames, setFrames] = useState(16);
  const megapixels = (size[0] * size[1] * frames) / 1e6;
  const seconds = Math.max(1, megapixels * (engine.view?.stillPace ?? 1));
  const make = async () => {
    const view = engine.view!;
    const pose = picked ? view.poseOf(picked as never) : view.pose;
    let stop = false;
    set({
      dialog: null,
      still: {
        share: 0,
        stop: () => {
          stop = true;
        },
      },
    });
    try {
      const blob = await view.still(
        pose,
        size[0],
        size[1],
        frames,
        (share) =>
          set({
            still: {
              share,
              stop: () => {
                stop = true;
              },
            },
          }),
        () => stop,
      );
      if (blob) {
        saveFile(
          blob,
          `${doc.name.replace(/[^\p{L}\p{N}]+/gu, "-").toLowerCase()}-${size[0]}x${size[1]}.png`,
        );
      }
    } catch (e) {
      tell(e);
    } finally {
      set({ still: null });
    }
  };
  const number = (i: 0 | 1, label: string) => (
    <input
      className="text w-[72px]"
      type="number"
      aria-label={label}
      min={64}
      max={8192}
      value={size[i]}
      onChange={(e) => {
        const v = Math.min(8192, Math.max(1, Math.round(+e.target.value)));
        setSize(i ? [size[0], v] : [v, size[1]]);
      }}
    />
  );
  return (
    <SheetBox title="Save a still">
      <label className="flex items-center justify-between">
        From
        <select
          className="text w-56"
          value={shot}
          onChange={(e) => {
            setShot(e.target.value);
            const s = doc.shots.find((x) => x.id === e.target.value);
            if (s) setSize([s.width_px!, s.height_px!]);
          }}
        >
          <option value="">the view as it is</option>
          {doc.shots.map((s) => (
            <option key={s.id} value={s.id}>
              {s.name}
            </option>
          ))}
        </select>
      </label>
      <div className="mt-2 flex items-center justify-between">
        <span>Size</span>
        <span className="flex items-center gap-1">
          {number(0, "Still width in px")} × {number(1, "Still height in px")} px
        </span>
      </div>
      <div className="mt-1 flex flex-wrap gap-1">
        {STILL_SIZES.map(([n, w, h]) => (
          <button
            key={n}
            className={`btn ${size[0] === w && size[1] === h ? "on" : ""}`}
            onClick={() => setSize([w, h])}
          >
            {n}
          </button>
        ))}
      </div>
      <Range
        label="Frames summed"
        value={frames}
        unit="frames"
        min={1}
        max={128}
        low={1}
        high={64}
        log={false}
        step={1}
        onDrag={(v) => setFrames(Math.round(v))}
        onKeep={(v) => setFrames(Math.round(v))}
        help="More frames give smoother edges."
      />
      <p className="mt-1 text-soft">
        Holds every plant. About {shown(seconds)} s here; it can be stopped.
      </p>
      <div className="mt-3 flex justify-end gap-2">
        <button className="btn" onClick={() => set({ dialog: null })}>
          Leave
        </button>
        <button
          className="btn do"
          data-still
          disabled={size[0] < 64 || size[1] < 64}
          onClick={() => void make()}
        >
          Save still
        </button>
      </div>
    </SheetBox>
  );
}
