import { useEffect, useState } from "react";
import * as calls from "../api/calls";
import type { PlotCost } from "../api/shapes";
import { Range } from "../controls/Range";
import { shown } from "../document/numbers";

/** A plot's sizes in m and the posts along its longer side. */
export interface PlotSize {
  width_m: number;
  depth_m: number;
  posts: number;
}

/** Sliders of a plot's size and grid, with what it costs. */
export function PlotFields({
  plot,
  onChange,
}: {
  plot: PlotSize;
  onChange: (plot: PlotSize) => void;
}) {
  const put = (name: keyof PlotSize) => (v: number) =>
    onChange({ ...plot, [name]: name === "posts" ? Math.round(v) : v });
  const size = { unit: "m", min: 2, max: 64000, low: 10, high: 20000, log: true };
  return (
    <>
      <Range
        label="Width, west to east"
        value={plot.width_m}
        {...size}
        onDrag={put("width_m")}
        onKeep={put("width_m")}
      />
      <Range
        label="Depth, south to north"
        value={plot.depth_m}
        {...size}
        onDrag={put("depth_m")}
        onKeep={put("depth_m")}
      />
      <Range
        label="Full grid"
        value={plot.posts}
        unit="posts"
        min={33}
        max={4097}
        low={129}
        high={4097}
        log
        step={1}
        onDrag={put("posts")}
        onKeep={put("posts")}
      />
      <Cost plot={plot} />
    </>
  );
}

function Cost({ plot }: { plot: PlotSize }) {
  const [cost, setCost] = useState<PlotCost | null>(null);
  const { width_m, depth_m, posts } = plot;
  useEffect(() => {
    const halt = new AbortController();
    calls
      .plotCost({ width_m, depth_m, posts }, halt.signal)
      .then(setCost)
      .catch(() => {
        /* a newer size is on its way */
      });
    return () => halt.abort();
  }, [width_m, depth_m, posts]);
  if (!cost) return <p className="mt-1 h-[54px] text-soft">…</p>;
  const millions = shown(cost.triangles / 1e6);
  return (
    <p className="mt-1 text-soft" data-plot-cost={cost.megabytes}>
      {shown(cost.spacing_m)} m between posts · {millions} M triangles, about{" "}
      {shown(cost.megabytes)} MB and {shown(cost.seconds)} s in full. Most pictures need less land
      than one thinks: a walk across takes {shown(cost.walk_minutes)} minutes.
    </p>
  );
}
