import { useState } from "react";
import { SheetBox } from "../controls/SheetBox";
import { set, usePage } from "../state/store";

/** A file of raw posts says nothing of its layout: it is asked for, with a guess. */
export function RawPosts() {
  const raw = usePage((s) => s.raw)!;
  const [layout, setLayout] = useState(raw.guess);
  const bytes = layout.columns * layout.rows * (layout.type === "uint16" ? 2 : 4);
  const fits = bytes === raw.bytes;
  const number = (k: "columns" | "rows") => (
    <input
      className="text w-20"
      type="number"
      aria-label={k}
      value={layout[k] || ""}
      onChange={(e) => setLayout({ ...layout, [k]: Math.max(0, Math.round(+e.target.value)) })}
    />
  );
  return (
    <SheetBox title="How is this file laid out?" onLeave={() => set({ raw: null })}>
      <p className="mb-2 text-soft">
        “{raw.name}”, {raw.bytes.toLocaleString("en")} bytes.{" "}
        {raw.guess.columns
          ? "A likely layout is filled in."
          : "Its size fits no square of 16 or 32 bit posts: give columns and rows."}
      </p>
      <div className="flex items-center justify-between">
        <span>Columns and rows</span>
        <span>
          {number("columns")} × {number("rows")}
        </span>
      </div>
      <div className="mt-1 flex items-center justify-between">
        <span>Posts</span>
        <select
          className="text"
          aria-label="Type of posts"
          value={layout.type}
          onChange={(e) => setLayout({ ...layout, type: e.target.value })}
        >
          <option value="uint16">16 bit whole numbers</option>
          <option value="float32">32 bit floats, metres</option>
        </select>
      </div>
      <div className="mt-1 flex items-center justify-between">
        <span>Byte order</span>
        <select
          className="text"
          aria-label="Byte order"
          value={layout.order}
          onChange={(e) => setLayout({ ...layout, order: e.target.value })}
        >
          <option value="little">little-endian</option>
          <option value="big">big-endian</option>
        </select>
      </div>
      {!fits && layout.columns > 0 && (
        <p className="mt-1 text-rust">
          {layout.columns} × {layout.rows} such posts are {bytes.toLocaleString("en")} bytes.
        </p>
      )}
      <div className="mt-3 flex justify-end gap-2">
        <button className="btn" onClick={() => set({ raw: null })}>
          Leave
        </button>
        <button
          className="btn do"
          disabled={!fits}
          onClick={() => {
            set({ raw: null });
            raw.take(layout);
          }}
        >
          Bring it in
        </button>
      </div>
    </SheetBox>
  );
}
