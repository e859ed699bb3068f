import { useState } from "react";
import * as calls from "../../api/calls";
import type { Body } from "../../api/client";
import type { MaskMark } from "../../api/shapes";
import { freshId } from "../../document/ids";
import type { Path } from "../../document/path";
import { at } from "../../document/path";
import { complete } from "../../document/schema";
import { edit } from "../../state/edits";
import { get, set, usePage } from "../../state/store";
import { tell } from "../../state/trouble";
import { Where } from "../where/Where";

/** Whole-mask work in the key. */
export function MaskPanel({ path, entry }: { path: Path; entry: MaskMark }) {
  const marks = usePage((s) => s.doc!.marks);
  const others = marks.filter((m) => m.kind === "mask" && m.id !== entry.id);
  const [other, setOther] = useState("");
  const second = other || others[0]?.id || "";
  const put = async (
    how: Body<"/api/scenes/{scene}/masks">["how"],
    more: Record<string, unknown>,
    label: string,
  ) => {
    try {
      const info = await calls.fillMask(get().id!, {
        document: get().doc,
        mark: entry.id,
        how,
        ...more,
      });
      await edit(`${entry.name}: ${label}`, (d) => {
        const e = at<MaskMark>(d, path);
        e.raster = info.raster;
        if (how === "where" || how === "full" || how === "empty")
          Object.assign(e, { invert: false, widen_m: 0, blur_m: 0 });
      });
    } catch (e) {
      tell(e);
    }
  };
  return (
    <div className="mt-1" data-mask-panel>
      <p className="text-[11.5px] text-soft">
        Choose a brush on the face and paint on the land, in the view or on the map.
      </p>
      <div className="mt-1 flex flex-wrap gap-1">
        <button
          className="btn"
          data-fill="full"
          onClick={() => void put("full", {}, "all of the plot")}
        >
          All
        </button>
        <button
          className="btn"
          data-fill="empty"
          onClick={() => void put("empty", {}, "none of the plot")}
        >
          None
        </button>
        {entry.where?.length > 0 && (
          <button
            className="btn do"
            data-fill="where"
            onClick={() => void put("where", {}, "filled from its rule")}
          >
            Fill from its rule
          </button>
        )}
      </div>
      <Where
        path={path}
        stage="planting"
        owner={entry.name}
        title="Rule to fill it from"
        none=": none"
      />
      {others.length > 0 && (
        <div className="mt-1 flex flex-wrap items-center gap-1">
          With
          <select
            className="text max-w-[120px]"
            aria-label="Other mask"
            value={second}
            onChange={(e) => setOther(e.target.value)}
          >
            {others.map((m) => (
              <option key={m.id} value={m.id}>
                {m.name}
              </option>
            ))}
          </select>
          {(
            [
              ["union", "join"],
              ["common", "what both have"],
              ["without", "take it away"],
            ] as const
          ).map(([k, label]) => (
            <button
              key={k}
              className="btn"
              data-combine={k}
              onClick={() =>
                void put(
                  k,
                  { other: second },
                  `${label}: ${others.find((m) => m.id === second)?.name}`,
                )
              }
            >
              {label}
            </button>
          ))}
        </div>
      )}
    </div>
  );
}

/** A new, empty mask to paint on. */
export function newMask() {
  const id = freshId("mask");
  const { doc } = get();
  const schema = get().catalogue!.scene;
  const name = `Mask ${doc!.marks.filter((m) => m.kind === "mask").length + 1}`;
  void edit(`${name} begun`, (d) =>
    d.marks.push(
      complete(schema, schema.$defs.Mask, {
        id,
        name,
        kind: "mask",
        on: true,
        posts: Math.min(2049, Math.max(1025, d.plot.posts)),
      }),
    ),
  );
  set({ chosen: id, open: "marks", tool: "brush", sheet: null });
}
