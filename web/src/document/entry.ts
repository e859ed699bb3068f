/** An entry of any list, before its kind is known: what all have, and its own fields by name. */
export interface Entry {
  id: string;
  name: string;
  on: boolean;
  kind?: string;
  group?: string;
  [field: string]: unknown;
}
