import { shown } from "../../document/numbers";
import { usePage } from "../../state/store";

/** The finest detail that the octaves make, beside what each grid can hold. */
export function Finest({
  entry,
}: {
  entry: { feature_m: number; lacunarity: number; octaves: number };
}) {
  const plot = usePage((s) => s.doc!.plot);
  const reach = Math.max(plot.width_m, plot.depth_m);
  const finest = entry.feature_m / Math.pow(entry.lacunarity, entry.octaves - 1);
  return (
    <div className="text-[11.5px] text-soft">
      finest detail {shown(finest)} m; the view holds{" "}
      {shown((2 * reach) / (Math.min(plot.posts, 513) - 1))} m, the full grid{" "}
      {shown((2 * reach) / (plot.posts - 1))} m
    </div>
  );
}
