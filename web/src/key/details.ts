import type { ReactNode } from "react";
import type { Entry } from "../document/entry";
import type { ListName } from "../document/lists";
import type { Path } from "../document/path";

/** What the details of an entry are given. `settings` are its plain fields. */
export interface DetailsProps {
  list: ListName;
  index: number;
  entry: Entry;
  path: Path;
  settings: ReactNode;
}
