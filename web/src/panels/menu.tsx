import { DropdownMenu as Menu } from "radix-ui";
import { Plus } from "lucide-react";
import { useState } from "react";

export function AddMenu({
  label,
  items,
  onPick,
}: {
  label: string;
  items: { key: string; label: string; note?: string }[];
  onPick: (key: string) => void;
}) {
  const [open, setOpen] = useState(false);
  return (
    <Menu.Root modal={false} open={open} onOpenChange={setOpen}>
      <Menu.Trigger asChild>
        <button
          className="btn"
          aria-label={`Add ${label}`}
          onPointerDown={
            (e) =>
              e.preventDefault() /* opened by the whole click: on a slow machine the release would pick an entry */
          }
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
          className={`menu ${items.length > 16 ? "long" : ""}`}
          align="end"
          sideOffset={3}
          collisionPadding={8}
        >
          {items.map((i) => (
            <Menu.Item key={i.key} onSelect={() => onPick(i.key)} data-add={i.key}>
              <span className="grow">{i.label}</span>
              {i.note && <span className="text-soft">{i.note}</span>}
            </Menu.Item>
          ))}
        </Menu.Content>
      </Menu.Portal>
    </Menu.Root>
  );
}
