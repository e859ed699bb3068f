import { useEffect, useState } from "react";
import * as calls from "../../api/calls";
import type { Borrowed, SceneLine } from "../../api/shapes";
import { at } from "../../document/path";
import { edit } from "../../state/edits";
import { usePage } from "../../state/store";
import { tell } from "../../state/trouble";

export function BorrowFrom({ path, entry }: { path: (string | number)[]; entry: Borrowed }) {
  const [list, setList] = useState<SceneLine[]>([]);
  const id = usePage((s) => s.id);
  useEffect(() => {
    calls
      .listScenes()
      .then((l) => setList(l.filter((x) => x.id !== id)))
      .catch(tell);
  }, [id]);
  const take = (source: number) =>
    calls
      .borrowLand(id!, { source })
      .then((b) =>
        edit(`${entry.name}: land of ${b.name}`, (d) =>
          Object.assign(at<Borrowed>(d, path), {
            raster: b.raster,
            source: b.source,
            area: "own",
            width_m: b.width_m,
            depth_m: b.depth_m,
          }),
        ),
      )
      .catch(tell);
  return (
    <label className="mt-1 flex items-center justify-between gap-2">
      Take the land of
      <select
        className="text max-w-[170px]"
        aria-label="Scene whose land is taken"
        value=""
        onChange={(e) => void take(+e.target.value)}
      >
        <option value="">{list.length ? "choose a scene…" : "no other scene"}</option>
        {list.map((s) => (
          <option key={s.id} value={s.id}>
            {s.name}
          </option>
        ))}
      </select>
    </label>
  );
}
