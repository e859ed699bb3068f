import { get } from "../state/store";
import { ACTIONS } from "./commands";

/** The action whose keys were pressed, unless the person is typing. */
export function onKey(e: KeyboardEvent) {
  const typing = (e.target as HTMLElement).closest?.(
    "input:not([type=checkbox]):not([type=color]), textarea, select, [role=menu]",
  );
  const name = [
    e.ctrlKey || e.metaKey ? "Ctrl" : "",
    e.altKey ? "Alt" : "",
    e.shiftKey && e.key !== "?" ? "Shift" : "",
    e.key.length === 1 ? e.key.toUpperCase() : e.key,
  ]
    .filter(Boolean)
    .join("+");
  const found = ACTIONS.find((a) => a.keys === name);
  if (!found || (typing && found.id !== "escape" && !name.startsWith("Ctrl"))) return;
  if (typing && (name === "Ctrl+Z" || name === "Ctrl+Shift+Z")) return;
  if (get().dialog && !["escape", "undo", "redo"].includes(found.id)) return;
  e.preventDefault();
  if (!found.can || found.can()) found.run();
}
