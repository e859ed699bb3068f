import { ChevronDown, ChevronUp, Copy, Trash2 } from "lucide-react";
import { useEffect, useState } from "react";
import { action } from "../actions/commands";
import type { Entry } from "../document/entry";
import { type ListName, listOf } from "../document/lists";
import { type Path, put } from "../document/path";
import { edit } from "../state/edits";
import { usePage } from "../state/store";

/** The chosen entry's name and switch, and what is done with it as a whole. */
export function EntryHead({
  list,
  index,
  entry,
  path,
}: {
  list: ListName;
  index: number;
  entry: Entry;
  path: Path;
}) {
  const count = usePage((s) => listOf(s.doc!, list).length);
  return (
    <div className="flex items-center gap-1">
      <NameField entry={entry} path={path} />
      <label
        className="flex items-center gap-1 px-1 text-soft"
        title="Off leaves it out of the scene"
      >
        <input
          type="checkbox"
          className="accent-moss"
          aria-label={`${entry.name} on`}
          checked={entry.on}
          onChange={(e) =>
            void edit(`${entry.name}: ${e.target.checked ? "on" : "off"}`, (d) =>
              put(d, [...path, "on"], e.target.checked),
            )
          }
        />
        on
      </label>
      <button
        className="icon"
        disabled={index === 0}
        title="Earlier (Alt+↑)"
        aria-label="Move earlier"
        onClick={action("earlier").run}
      >
        <ChevronUp size={14} />
      </button>
      <button
        className="icon"
        disabled={index === count - 1}
        title="Later (Alt+↓)"
        aria-label="Move later"
        onClick={action("later").run}
      >
        <ChevronDown size={14} />
      </button>
      <button
        className="icon"
        title="Duplicate with a new seed (Ctrl+D)"
        aria-label="Duplicate"
        onClick={action("duplicate").run}
      >
        <Copy size={13} />
      </button>
      <button
        className="icon"
        title="Remove (Delete)"
        aria-label="Remove"
        onClick={action("remove").run}
      >
        <Trash2 size={13} />
      </button>
    </div>
  );
}

function NameField({ entry, path }: { entry: Entry; path: Path }) {
  const [name, setName] = useState(entry.name);
  useEffect(() => setName(entry.name), [entry.name]);
  const keep = () => {
    if (name.trim() && name !== entry.name)
      void edit(`${entry.name}: renamed`, (d) => put(d, [...path, "name"], name.trim()));
  };
  return (
    <input
      className="text grow"
      aria-label="Name"
      value={name}
      maxLength={80}
      onChange={(e) => setName(e.target.value)}
      onBlur={keep}
      onKeyDown={(e) => {
        if (e.key === "Enter") (e.target as HTMLInputElement).blur();
        e.stopPropagation();
      }}
    />
  );
}
