import { useEffect, useState } from "react";
import * as calls from "../../api/calls";
import type { Heightmap } from "../../api/shapes";
import { shown } from "../../document/numbers";
import { usePage } from "../../state/store";

/** A heightmap's own resolution beside the plot's. */
export function OwnPosts({ entry }: { entry: Heightmap }) {
  const plot = usePage((s) => s.doc!.plot);
  const [info, setInfo] = useState<{ rows: number; columns: number; dtype: string } | null>(null);
  useEffect(() => {
    setInfo(null);
    if (entry.raster)
      calls
        .rasterFacts(entry.raster)
        .then(setInfo)
        .catch(() => {});
  }, [entry.raster]);
  const columns = entry.raster ? info?.columns : entry.ready ? 513 : 0;
  if (!columns) return null;
  return (
    <div className="text-[11.5px] text-soft">
      {info ? `${info.columns} × ${info.rows} posts, ${info.dtype}; ` : ""}one every{" "}
      {shown((entry.area === "own" ? entry.width_m : plot.width_m) / (columns - 1))} m, the plot's
      every {shown(Math.max(plot.width_m, plot.depth_m) / (plot.posts - 1))} m
      {info?.dtype === "uint8" ? "; its 256 steps are smoothed away" : ""}
    </div>
  );
}
