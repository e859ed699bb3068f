import { useRef, useState } from "react";
import * as calls from "../api/calls";
import type { ZoneLine } from "../api/shapes";
import { Range } from "../controls/Range";
import { SheetBox } from "../controls/SheetBox";
import { freshId } from "../document/ids";
import { shown } from "../document/numbers";
import { complete } from "../document/schema";
import { edit } from "../state/edits";
import { get, set } from "../state/store";
import { tell } from "../state/trouble";

/**
 * A picture in which each colour is a zone: its colours with their shares, each to become a mask.
 */
export function ZoneMap() {
  const [file, setFile] = useState<File | null>(null);
  const [tolerance, setTolerance] = useState(12);
  const [list, setList] = useState<ZoneLine[]>([]);
  const [names, setNames] = useState<Record<string, string>>({});
  const [off, setOff] = useState<Set<string>>(new Set());
  const [busy, setBusy] = useState(false);
  const input = useRef<HTMLInputElement>(null);
  const read = async (f: File, t: number) => {
    setBusy(true);
    try {
      setList(await calls.readZones(f, t));
    } catch (e) {
      setList([]);
      set({ dialog: null });
      tell(e);
    }
    setBusy(false);
  };
  const make = () => {
    const schema = get().catalogue!.scene;
    const chosen = list.filter((z) => !off.has(z.colour));
    void edit(`${chosen.length} zones of ${file!.name}`.slice(0, 120), (d) =>
      chosen.forEach((z) =>
        d.marks.push(
          complete(schema, schema.$defs.Mask, {
            id: freshId("zone"),
            name: (names[z.colour] || `Zone ${list.indexOf(z) + 1}`).slice(0, 80),
            kind: "mask",
            on: true,
            raster: z.raster,
          }),
        ),
      ),
    );
    set({ dialog: null, open: "marks" });
  };
  return (
    <SheetBox title="Zone map" wide={460}>
      <p className="mb-2 text-soft">
        A picture laid over the plot in which each colour is a zone. Each becomes a mask.
      </p>
      <div className="flex items-center gap-2">
        <button className="btn" onClick={() => input.current?.click()}>
          {file ? "Another picture…" : "Choose a picture…"}
        </button>
        <span className="truncate text-soft">{file?.name}</span>
        <input
          ref={input}
          type="file"
          accept=".png,.jpg,.jpeg,.webp,.tif,.tiff"
          className="hidden"
          data-zone-file
          onChange={(e) => {
            const f = e.target.files?.[0];
            if (f) {
              setFile(f);
              void read(f, tolerance);
            }
            e.target.value = "";
          }}
        />
      </div>
      {file && (
        <Range
          label="Colours count as one within"
          value={tolerance}
          unit="ΔE"
          min={1}
          max={60}
          low={1}
          high={60}
          log={false}
          step={1}
          help="Difference in L*a*b*: raise it when a soft edge makes zones of its own."
          onDrag={setTolerance}
          onKeep={(v) => {
            setTolerance(v);
            void read(file, v);
          }}
        />
      )}
      <div className="mt-2 max-h-[40vh] overflow-auto" data-zones={busy ? "" : list.length}>
        {list.map((z, i) => (
          <div key={z.colour} className="flex items-center gap-2 border-b border-rule/60 py-[3px]">
            <input
              type="checkbox"
              className="accent-moss"
              aria-label={`Use ${z.colour}`}
              checked={!off.has(z.colour)}
              onChange={() =>
                setOff((o) => {
                  const n = new Set(o);
                  if (n.has(z.colour)) n.delete(z.colour);
                  else n.add(z.colour);
                  return n;
                })
              }
            />
            <i className="h-[20px] w-[30px] border border-ink" style={{ background: z.colour }} />
            <span className="w-[52px] text-right">{shown(z.share * 100)} %</span>
            <input
              className="text grow"
              placeholder={`Zone ${i + 1}`}
              aria-label={`Name of ${z.colour}`}
              value={names[z.colour] ?? ""}
              maxLength={80}
              onChange={(e) => setNames({ ...names, [z.colour]: e.target.value })}
            />
          </div>
        ))}
      </div>
      <div className="mt-3 flex justify-end gap-2">
        <button className="btn" onClick={() => set({ dialog: null })}>
          Leave
        </button>
        <button
          className="btn do"
          data-make-zones
          disabled={!list.length || off.size >= list.length}
          onClick={make}
        >
          Make {list.length - off.size} masks
        </button>
      </div>
    </SheetBox>
  );
}
