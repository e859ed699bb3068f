import type { Prop } from "../api/shapes";
import type { Path } from "../document/path";

/** What every widget is given: a model's field, its value, how a change is dragged or kept. */
export interface WidgetProps<T = unknown> {
  prop: Prop;
  name: string;
  label: string;
  value: T;
  owner: string;
  path: Path;
  onDrag: (value: T) => void;
  onKeep: (value: T) => void;
}
