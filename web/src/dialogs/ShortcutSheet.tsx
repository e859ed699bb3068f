import { ACTIONS } from "../actions/commands";
import { SheetBox } from "../controls/SheetBox";

export function ShortcutSheet() {
  const moves = [
    ["Drag", "look round"],
    ["Right drag, or Alt and drag", "go round the place under the pointer"],
    ["Shift and drag", "move sideways"],
    ["Wheel", "come nearer to the pointer"],
    ["Arrow keys, Page up and down", "walk, rise and sink; Shift is faster"],
    ["Click the ground", "read its height, slope and material"],
  ];
  return (
    <SheetBox title="Keys and moves" wide={620}>
      <div className="grid grid-cols-2 gap-x-8">
        <div>
          {ACTIONS.filter((a) => a.keys && !a.id.startsWith("section")).map((a) => (
            <div key={a.id} className="flex justify-between border-b border-rule/60 py-[2px]">
              <span>{a.name}</span>
              <b>{a.keys}</b>
            </div>
          ))}
        </div>
        <div>
          <div className="flex justify-between border-b border-rule/60 py-[2px]">
            <span>Unfold a section of the key</span>
            <b>1 to 8</b>
          </div>
          {moves.map(([k, v]) => (
            <div key={k} className="border-b border-rule/60 py-[2px]">
              <b>{k}</b>
              <br />
              <span className="text-soft">{v}</span>
            </div>
          ))}
        </div>
      </div>
    </SheetBox>
  );
}
