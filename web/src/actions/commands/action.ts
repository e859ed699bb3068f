import type { LucideIcon } from "lucide-react";

/** One thing that a person can do: found by name, reached by a key, shown as a button. */
export interface Action {
  id: string;
  name: string;
  keys?: string;
  icon?: LucideIcon;
  can?: () => boolean;
  run: () => void;
}
