import type { ComponentType } from "react";
import { SheetBox } from "../controls/SheetBox";
import type { DialogName } from "../state/slices";
import { set, usePage } from "../state/store";
import { Asides } from "./Asides";
import { BroughtIn } from "./BroughtIn";
import { Commands } from "./Commands";
import { Faults } from "./Faults";
import { GradeSheet } from "./GradeSheet";
import { GroundPresets } from "./GroundPresets";
import { HistorySheet } from "./HistorySheet";
import { LightSheet } from "./LightSheet";
import { NewScene } from "./NewScene";
import { PartsDrawer } from "./PartsDrawer";
import { PlotSheet } from "./PlotSheet";
import { ProofSheet } from "./ProofSheet";
import { RawPosts } from "./RawPosts";
import { ReadyLands } from "./ReadyLands";
import { ReadyMixes } from "./ReadyMixes";
import { RealityCheck } from "./RealityCheck";
import { Scenes } from "./Scenes";
import { ShortcutSheet } from "./ShortcutSheet";
import { Still } from "./Still";
import { StillSheet } from "./StillSheet";
import { TextureSizes } from "./TextureSizes";
import { ZoneMap } from "./ZoneMap";

/** Every dialog by its name. */
const DIALOGS: Record<DialogName, ComponentType> = {
  new: NewScene,
  plot: PlotSheet,
  scenes: Scenes,
  commands: Commands,
  keys: ShortcutSheet,
  history: HistorySheet,
  parts: PartsDrawer,
  zones: ZoneMap,
  still: Still,
  "still-sheet": StillSheet,
  proof: ProofSheet,
  lights: LightSheet,
  grades: GradeSheet,
  reality: RealityCheck,
  lands: ReadyLands,
  "ground-presets": GroundPresets,
  mixes: ReadyMixes,
  faults: Faults,
  "texture-sizes": TextureSizes,
  asides: Asides,
  "brought-in": BroughtIn,
};

/** The dialog that is open; a question that waits for an answer goes before it. */
export function Dialogs() {
  const dialog = usePage((s) => s.dialog);
  const confirm = usePage((s) => s.confirm);
  const raw = usePage((s) => s.raw);
  if (raw) return <RawPosts key={raw.name} />;
  if (confirm) return <Confirm text={confirm.text} onYes={confirm.yes} />;
  const Body = dialog && DIALOGS[dialog];
  return Body ? <Body /> : null;
}

function Confirm({ text, onYes }: { text: string; onYes: () => void }) {
  return (
    <SheetBox title="Before it is made" onLeave={() => set({ confirm: null })}>
      <p>{text}</p>
      <div className="mt-3 flex justify-end gap-2">
        <button className="btn" onClick={() => set({ confirm: null })}>
          No, leave it
        </button>
        <button
          className="btn do"
          onClick={() => {
            set({ confirm: null });
            onYes();
          }}
        >
          Yes, go on
        </button>
      </div>
    </SheetBox>
  );
}
