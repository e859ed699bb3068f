import { useEffect, useState } from "react";
import * as calls from "../api/calls";
import type { Supply, SupplyLine } from "../api/shapes";
import { Range } from "../controls/Range";
import { freshId } from "../document/ids";
import { complete } from "../document/schema";
import { refreshCabinet } from "../state/catalogue";
import { edit } from "../state/edits";
import { get, set } from "../state/store";
import { tell } from "../state/trouble";

/**
 * A small simulated outside library: what it has, at a chosen size, fetched with progress; a fetch
 * that breaks off can be tried again.
 */
export function SupplierDrawer() {
  const [list, setList] = useState<SupplyLine[]>([]);
  const [jobs, setJobs] = useState<Record<string, Supply>>({});
  const [px, setPx] = useState(512);
  const [detail, setDetail] = useState(50);
  useEffect(() => {
    calls.supplierListing().then(setList).catch(tell);
  }, []);
  const count = (i: SupplyLine) =>
    Math.round(i.triangles[0] * Math.pow(i.triangles[1] / i.triangles[0], detail / 100));
  const fetchIt = async (i: SupplyLine) => {
    try {
      let job = await calls.fetchSupply(i.name, {
        texture_px: px,
        triangles: i.sort === "kind" ? count(i) : 2,
      });
      for (;;) {
        setJobs((j) => ({ ...j, [i.name]: job }));
        if (job.state !== "running") break;
        await new Promise((r) => setTimeout(r, 120));
        job = await calls.supplyJob(job.id);
      }
      if (job.kind) {
        await refreshCabinet();
        set((s) => ({ cabinetAt: s.cabinetAt && { ...s.cabinetAt, kind: job.kind } }));
      }
    } catch (e) {
      tell(e);
    }
  };
  const wear = (i: SupplyLine) => {
    const id = freshId("ground");
    const schema = get().catalogue!.scene;
    void edit(`${i.label} laid`, (d) =>
      d.ground.push(
        complete(schema, schema.$defs.Material, {
          id,
          on: true,
          name: i.label,
          ground: "turf",
          texture: jobs[i.name].texture,
          size_m: 2,
          where: [{ kind: "slope", low: 0, high: 12, soft: 3 }],
        }) as never,
      ),
    );
    set({ cabinetAt: null, open: "ground", chosen: id });
  };
  return (
    <div className="min-h-0 overflow-y-auto px-3 py-2" data-supplier>
      <p className="text-soft">
        A library outside, as it would be on a network; it ships with Sow and needs none. What is
        fetched is kept in the own drawer.
      </p>
      <div className="my-2 grid grid-cols-2 gap-x-6">
        <label className="flex items-center justify-between">
          Pictures
          <select
            className="text"
            aria-label="Size of pictures"
            value={px}
            onChange={(e) => setPx(+e.target.value)}
          >
            {(list[0]?.texture_px ?? [512]).map((v) => (
              <option key={v} value={v}>
                {v} px
              </option>
            ))}
          </select>
        </label>
        <Range
          label="Detail"
          value={detail}
          unit="%"
          min={0}
          max={100}
          low={0}
          high={100}
          log={false}
          step={1}
          onDrag={setDetail}
          onKeep={setDetail}
        />
      </div>
      {list.map((i) => {
        const job = jobs[i.name];
        return (
          <div
            key={i.name}
            className="flex items-center gap-3 border-t border-rule/70 py-[5px]"
            data-supply={i.name}
            data-state={job?.state ?? ""}
          >
            <span className="w-[212px] shrink-0">
              <b>{i.label}</b>{" "}
              <span className="text-soft">
                {i.sort === "kind" ? "" : "texture, "}
                {i.note}
              </span>
            </span>
            <span className="w-[92px] shrink-0 text-soft">
              {i.sort === "kind" ? `${count(i).toLocaleString("en")} triangles` : `${px} px`}
            </span>
            <span className="min-w-0 grow text-[12px]">
              {job?.state === "running" ? (
                <span className="block h-[7px] w-full border border-ink">
                  <i className="block h-full bg-moss" style={{ width: `${job.share * 100}%` }} />
                </span>
              ) : job?.state === "failed" ? (
                <span className="text-rust">{job.told}</span>
              ) : job?.state === "done" ? (
                <span className="text-moss">
                  fetched, {Math.round(job.bytes / 1024).toLocaleString("en")} kB
                </span>
              ) : (
                ""
              )}
            </span>
            {job?.state === "done" && job.texture && (
              <button className="btn" onClick={() => wear(i)}>
                Lay it
              </button>
            )}
            {job?.state === "done" && job.kind && (
              <button
                className="btn"
                onClick={() => set({ cabinetAt: { drawer: "supplier", kind: job.kind } })}
              >
                See it
              </button>
            )}
            <button
              className="btn"
              data-fetch
              disabled={job?.state === "running"}
              onClick={() => void fetchIt(i)}
            >
              {job?.state === "failed"
                ? "Try again"
                : job?.state === "done"
                  ? "Fetch anew"
                  : "Fetch"}
            </button>
          </div>
        );
      })}
    </div>
  );
}
