import { useEffect, useRef, useState } from "react";
import { doWork } from "../actions/work";
import * as calls from "../api/calls";
import type { KeptPicture } from "../api/shapes";
import { Labelled } from "../controls/Labelled";
import { set } from "../state/store";
import { tell } from "../state/trouble";
import type { WidgetProps } from "./widget";

interface Shelf {
  ready: () => Promise<{ name: string; label: string }[]>;
  bring: (file: File) => Promise<KeptPicture>;
  none?: string;
  accept: string;
}

const PANORAMAS: Shelf = {
  ready: calls.panoramas,
  bring: calls.newPanorama,
  none: "none: air and clouds",
  accept: ".exr,.hdr,.png,.jpg,.jpeg,.tif,.tiff,.webp",
};
const CARDS: Shelf = { ready: calls.cards, bring: calls.newCard, accept: ".png,.webp,.tif,.tiff" };

const REFERENCES: Shelf = {
  ready: () => Promise.resolve([]),
  bring: calls.newCard,
  none: "none",
  accept: ".jpg,.jpeg,.png,.webp,.tif,.tiff",
};
const LUTS: Shelf = {
  ready: () => Promise.resolve([]),
  bring: calls.newLut,
  none: "none yet",
  accept: ".cube,.3dl,.clf,.ctf,.csp,.spi1d,.spi3d,.cc,.ccc,.cdl",
};

/** A panorama for the sky; its brightest spot may be taken as the sun. */
export function PanoramaLine(props: WidgetProps<string>) {
  return (
    <PictureChoice {...props} shelf={PANORAMAS}>
      {props.value && (
        <button className="btn" onClick={() => void doWork("sun of the panorama", {})}>
          its sun
        </button>
      )}
    </PictureChoice>
  );
}

/** A card's picture. */
export function CardLine(props: WidgetProps<string>) {
  return <PictureChoice {...props} shelf={CARDS} />;
}

/** A picture to compare a shot with. */
export function ReferenceLine(props: WidgetProps<string>) {
  return <PictureChoice {...props} shelf={REFERENCES} />;
}

/** A look-up table of colours. */
export function LutLine(props: WidgetProps<string>) {
  return <PictureChoice {...props} shelf={LUTS} />;
}

/** One that ships, or one from a file. */
function PictureChoice({
  label,
  value,
  prop,
  onKeep,
  shelf,
  children,
}: WidgetProps<string> & { shelf: Shelf; children?: React.ReactNode }) {
  const [ready, setReady] = useState<{ name: string; label: string }[]>([]);
  const input = useRef<HTMLInputElement>(null);
  useEffect(() => {
    shelf.ready().then(setReady, tell);
  }, [shelf]);
  const bring = async (file: File) => {
    try {
      const found = await shelf.bring(file);
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
          {shelf.none && <option value="">{shelf.none}</option>}
          {ready.map((r) => (
            <option key={r.name} value={r.name}>
              {r.label}
            </option>
          ))}
          {own && <option value={value}>from a file</option>}
          <option value="file">another file…</option>
        </select>
        {children}
        <input
          ref={input}
          type="file"
          accept={shelf.accept}
          className="hidden"
          data-picture={label}
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
