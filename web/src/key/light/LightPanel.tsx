import { useEffect, useState } from "react";
import { doWork } from "../../actions/work";
import * as calls from "../../api/calls";
import { Settings } from "../../settings/Settings";
import { set, usePage } from "../../state/store";
import { MOST_LAMPS, MOST_MISTS } from "../../view/inAir";
import { EntryList } from "../EntryList";
import { AirSection } from "./AirSection";
import { SunDial } from "./SunDial";

/** The light as instruments of the sheet, its numbers below them. */
export function LightPanel() {
  const catalogue = usePage((s) => s.catalogue!);
  const sunHeld = usePage((s) => s.tool === "sun");
  return (
    <div>
      <div className="mb-1 flex items-center gap-1">
        <select
          className="text min-w-0 flex-1"
          aria-label="Ready light"
          value=""
          onChange={(e) => void doWork("ready light", { name: e.target.value })}
        >
          <option value="">a ready light…</option>
          {catalogue.lights.map((l) => (
            <option key={l.name} value={l.name}>
              {l.label}
            </option>
          ))}
        </select>
        <button className="btn" data-lights onClick={() => set({ dialog: "lights" })}>
          compare
        </button>
        <button className="btn" onClick={() => set({ dialog: "parts" })}>
          drawer
        </button>
      </div>
      <MadeFrom />
      <SunDial />
      <div className="mb-1 text-center">
        <button
          className={`btn ${sunHeld ? "on" : ""}`}
          data-sun-tool
          onClick={() => set({ tool: sunHeld ? null : "sun", mapOnFace: false })}
        >
          drag it in the picture
        </button>
      </div>
      <AirSection />
      <EntryList
        list="air"
        add="mist, lamp or card"
        empty={
          "Nothing stands in the air. Mist lies in hollows or in a bank; lamps shine; " +
          "cards show what is far."
        }
      />
      <Beyond />
      <Settings
        path={["light"]}
        model={catalogue.scene.$defs.Light}
        owner="Light"
        skip={["ready"]}
      />
    </div>
  );
}

/** Told when more stands in the air than the view draws. */
function Beyond() {
  const lamps = usePage((s) => s.manifest?.lamps.length ?? 0);
  const mists = usePage((s) => s.manifest?.mists.length ?? 0);
  const over = [
    lamps > MOST_LAMPS && `the ${MOST_LAMPS} strongest of ${lamps} lamps`,
    mists > MOST_MISTS && `the first ${MOST_MISTS} of ${mists} mists`,
  ].filter(Boolean);
  if (!over.length) return null;
  return (
    <p className="mt-1 text-soft">
      The view draws {over.join(" and ")}: each costs every pixel. Files hold them all.
    </p>
  );
}

/** What the light was made from, in what it differs, and the way back. */
function MadeFrom() {
  const light = usePage((s) => s.doc!.light);
  const [told, setTold] = useState<{ label: string; differs: string[] } | null>(null);
  useEffect(() => {
    if (!light.ready) {
      setTold(null);
      return;
    }
    const later = setTimeout(() => void calls.lightTold(light).then(setTold, () => {}), 200);
    return () => clearTimeout(later);
  }, [light]);
  if (!told?.label) return null;
  const words = told.differs.map((w) => w.toLowerCase());
  return (
    <p className="mb-1 text-soft" data-made-from>
      {told.label}
      {words.length > 0 && `, but for ${words.slice(0, 4).join(", ")}`}
      {words.length > 4 && ` and ${words.length - 4} more`}
      {words.length > 0 && (
        <button
          className="ml-1 underline"
          onClick={() => void doWork("ready light", { name: light.ready })}
        >
          put back
        </button>
      )}
    </p>
  );
}
