import { ACTIONS } from "../actions/commands";
import { SheetBox } from "../controls/SheetBox";

const MOVES = [
  ["Drag", "look round"],
  ["Right drag, or Alt and drag", "go round the place under the pointer"],
  ["Shift and drag", "move sideways"],
  ["Wheel", "come nearer to the pointer"],
  ["Arrow keys, Page up and down", "walk, rise and sink; Shift is faster"],
  ["Click the ground", "read its height, slope and material"],
];

/** Every key, then the moves of the mouse, in two columns of one length. */
export function ShortcutSheet() {
  const keyed = ACTIONS.filter((a) => a.keys && !a.id.startsWith("section"));
  return (
    <SheetBox title="Keys and moves" wide={720}>
      <div className="columns-2 gap-8">
        {keyed.map((a) => (
          <Key key={a.id} name={a.name} keys={a.keys!} />
        ))}
        <Key name="Unfold a section of the key" keys="1 to 8" />
        {MOVES.map(([move, does]) => (
          <p key={move} className="break-inside-avoid border-b border-rule/60 py-[2px]">
            <b>{move}</b> <span className="text-soft">{does}</span>
          </p>
        ))}
      </div>
    </SheetBox>
  );
}

function Key({ name, keys }: { name: string; keys: string }) {
  return (
    <div className="flex break-inside-avoid justify-between border-b border-rule/60 py-[2px]">
      <span>{name}</span>
      <b>{keys}</b>
    </div>
  );
}
