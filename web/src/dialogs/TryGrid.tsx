import { useEffect, useRef, useState } from "react";
import * as calls from "../api/calls";
import type { Scene } from "../api/shapes";
import { engine } from "../state/engine";
import { get } from "../state/store";
import { tell } from "../state/trouble";

const WIDE_PX = 330;
const HIGH_PX = 186;

/** One thing to try: its label, and the document with it. */
export interface Try {
  label: string;
  document: Scene;
}

/** The eye of a shot, or of the view. */
export function eyeOf(shots: Scene["shots"], chosen: string) {
  const shot = shots.find((s) => s.id === chosen);
  if (!shot) {
    const { east, north, up, bearing, tilt, focal } = engine.view?.pose ?? get().pose;
    return { east, north, up, bearing, tilt, focal };
  }
  const { east_m, north_m, eye_m, bearing, tilt, focal_mm } = shot;
  return { east: east_m, north: north_m, eye: eye_m, bearing, tilt, focal: focal_mm };
}

/**
 * The tries that `find` gives and their pictures as they come, from a shot's eye; both anew when
 * `key` changes.
 */
export function useTries<T extends Try>(
  find: (signal: AbortSignal) => Promise<T[]>,
  shot: string,
  key: string,
) {
  const [tries, setTries] = useState<T[]>([]);
  const [made, setMade] = useState<string[]>([]);
  const urls = useRef<string[]>([]);
  const asked = useRef(find);
  useEffect(() => {
    asked.current = find;
  });
  useEffect(() => {
    const halt = new AbortController();
    setMade([]);
    setTries([]);
    const draw = async () => {
      const found = await asked.current(halt.signal);
      if (halt.signal.aborted) return;
      setTries(found);
      const { id, doc } = get();
      const pose = eyeOf(doc!.shots, shot);
      for (const { document } of found) {
        const size = { width_px: WIDE_PX, height_px: HIGH_PX, fine: true, followed: true };
        const picture = await calls.drawProof(id!, { document, pose, shot, ...size }, halt.signal);
        if (halt.signal.aborted) return;
        const url = URL.createObjectURL(picture);
        urls.current.push(url);
        setMade((all) => [...all, url]);
      }
    };
    draw().catch((e) => !halt.signal.aborted && tell(e));
    return () => halt.abort();
  }, [shot, key]);
  useEffect(() => {
    const kept = urls.current;
    return () => kept.forEach((u) => URL.revokeObjectURL(u));
  }, []);
  return { tries, made };
}

/** Pictures of tries, each to be taken; `more` stands beside each label. */
export function TryGrid<T extends Try>({
  tries,
  made,
  take,
  more,
}: {
  tries: T[];
  made: string[];
  take: (one: T) => void;
  more?: (one: T) => React.ReactNode;
}) {
  return (
    <div className="grid grid-cols-4 gap-2" data-tries={made.length}>
      {tries.map((one, i) => (
        <div key={`${one.label} ${i}`} className="border border-rule p-[3px]">
          {made[i] ? (
            <button
              className="block w-full"
              aria-label={`Take ${one.label}`}
              onClick={() => take(one)}
            >
              <img src={made[i]} alt="" className="h-[142px] w-full object-cover" />
            </button>
          ) : (
            <div className="grid h-[142px] place-items-center text-soft">…</div>
          )}
          <div className="flex justify-between text-[11.5px]">
            <span className="truncate">{one.label}</span>
            {more?.(one)}
          </div>
        </div>
      ))}
    </div>
  );
}
