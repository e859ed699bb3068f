import { useEffect, useRef, useState } from "react";
import { doWork } from "../actions/work";
import * as calls from "../api/calls";
import { Labelled } from "../controls/Labelled";
import { set } from "../state/store";
import { tell } from "../state/trouble";
import type { WidgetProps } from "./widget";

const SKIES = ".exr,.hdr,.png,.jpg,.jpeg,.tif,.tiff,.webp";

/** A panorama for the sky: none, one that ships, or one from a file; its brightest spot as the sun. */
export function PanoramaLine({ label, value, prop, onKeep }: WidgetProps<string>) {
  const [ready, setReady] = useState<{ name: string; label: string }[]>([]);
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    calls.panoramas().then(setReady, tell);
  }, []);
  const bring = async (file: File) => {
    try {
      const found = await calls.newPanorama(file);
      if (found.told.length) set({ told: found.told.join(" ") });
      onKeep(found.raster);
    } catch (e) {
      tell(e);
    }
  };
  const own = value && !ready.some((r) => r.name === value);
  return (
    <Labelled label={label} help={prop.description}>
      <span className="flex flex-wrap items-center justify-end gap-1">
        <select
          className="text max-w-[150px]"
          aria-label={label}
          value={value}
          onChange={(e) =>
            e.target.value === "file" ? input.current?.click() : onKeep(e.target.value)
          }
        >
          <option value="">none: air and clouds</option>
          {ready.map((r) => (
            <option key={r.name} value={r.name}>
              {r.label}
            </option>
          ))}
          {own && <option value={value}>from a file</option>}
          <option value="file">another file…</option>
        </select>
        {value && (
          <button className="btn" onClick={() => void doWork("sun of the panorama", {})}>
            its sun
          </button>
        )}
        <input
          ref={input}
          type="file"
          accept={SKIES}
          className="hidden"
          data-panorama
          onChange={(e) => {
            const file = e.target.files?.[0];
            if (file) void bring(file);
            e.target.value = "";
          }}
        />
      </span>
    </Labelled>
  );
}
