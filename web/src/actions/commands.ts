import type { Action } from "./commands/action";
import { ENTRIES } from "./commands/entries";
import { HISTORY } from "./commands/history";
import { LOOKING } from "./commands/looking";
import { SHEETS } from "./commands/sheets";

export type { Action };

/** Everything that a person can do by a key, a button or the list of commands. */
export const ACTIONS: Action[] = [...HISTORY, ...LOOKING, ...ENTRIES, ...SHEETS];

/** An action by its id, which must be one of those above. */
export const action = (id: string) => ACTIONS.find((a) => a.id === id)!;
