import { Plus } from "lucide-react";
import { DropdownMenu as Menu } from "radix-ui";
import { Fragment, useState } from "react";

/** One line of a menu; lines of one group stand under its heading, a picture before the label. */
export interface MenuLine {
  key: string;
  label: string;
  note?: string;
  group?: string;
  picture?: string;
}

/** Groups in the order in which they first appear. */
function grouped(items: MenuLine[]): [string, MenuLine[]][] {
  const groups = new Map<string, MenuLine[]>();
  for (const item of items) {
    const group = item.group ?? "";
    groups.set(group, [...(groups.get(group) ?? []), item]);
  }
  return [...groups];
}

/** A button that opens a menu of things to add. */
export function AddMenu({
  label,
  items,
  onPick,
}: {
  label: string;
  items: MenuLine[];
  onPick: (key: string) => void;
}) {
  const [open, setOpen] = useState(false);
  const pictured = items.some((i) => i.picture);
  return (
    <Menu.Root modal={false} open={open} onOpenChange={setOpen}>
      <Menu.Trigger asChild>
        <button
          className="btn"
          aria-label={`Add ${label}`}
          // opened by the whole click: on a slow machine the release would pick an entry
          onPointerDown={(e) => e.preventDefault()}
          onClick={(e) => {
            e.stopPropagation();
            setOpen(!open);
          }}
        >
          <Plus size={12} />
          {label}
        </button>
      </Menu.Trigger>
      <Menu.Portal>
        <Menu.Content
          className={`menu ${items.length > 16 ? "long" : ""} ${pictured ? "pictured" : ""}`}
          side={pictured ? "left" : "bottom"}
          align="end"
          sideOffset={pictured ? 12 : 3}
          collisionPadding={8}
        >
          {grouped(items).map(([group, lines]) => (
            <Fragment key={group}>
              {group && <Menu.Label className="menu-head">{group}</Menu.Label>}
              {lines.map((line) => (
                <Line key={line.key} line={line} onPick={onPick} />
              ))}
            </Fragment>
          ))}
        </Menu.Content>
      </Menu.Portal>
    </Menu.Root>
  );
}

function Line({ line, onPick }: { line: MenuLine; onPick: (key: string) => void }) {
  return (
    <Menu.Item onSelect={() => onPick(line.key)} data-add={line.key}>
      {line.picture && <img src={line.picture} alt="" loading="lazy" className="menu-picture" />}
      <span className="grow">
        {line.label}
        {line.picture && line.note && <small className="block text-soft">{line.note}</small>}
      </span>
      {!line.picture && line.note && <span className="text-soft">{line.note}</span>}
    </Menu.Item>
  );
}
