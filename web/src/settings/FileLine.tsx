import { useRef } from "react";
import { dropRaster, RASTERS } from "../actions/bringIn";
import { Labelled } from "../controls/Labelled";
import type { Path } from "../document/path";

export function FileLine({
  value,
  label,
  path,
  help,
}: {
  value: string;
  label: string;
  path: Path;
  help?: string;
}) {
  const input = useRef<HTMLInputElement>(null);
  return (
    <Labelled label={label} help={help}>
      <span className="flex items-center gap-2">
        <span className="text-soft">{value ? "kept" : "none yet"}</span>
        <button className="btn" onClick={() => input.current?.click()}>
          {value ? "Replace…" : "Choose file…"}
        </button>
        <input
          ref={input}
          type="file"
          accept={RASTERS}
          className="hidden"
          onChange={(e) => {
            const f = e.target.files?.[0];
            if (f) void dropRaster(f, path);
            e.target.value = "";
          }}
        />
      </span>
    </Labelled>
  );
}
