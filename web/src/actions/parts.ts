import * as calls from "../api/calls";
import { edit } from "../state/edits";
import { get } from "../state/store";
import { tell } from "../state/trouble";

export const PARTS: [string, string][] = [
  ["land", "the land"],
  ["water", "the water"],
  ["ground", "the ground"],
  ["planting", "the planting"],
  ["pieces", "what was placed by hand"],
  ["light", "light and air"],
  ["shots", "the shots"],
  ["moves", "what moves"],
  ["marks", "the marks"],
];

/** Takes a part into the scene as one step. */
export async function takePart(from: Record<string, unknown>, what: string) {
  try {
    const made = await calls.takePart(get().id!, {
      document: get().doc,
      ...from,
    });
    await edit(what, (d) => {
      for (const k of Object.keys(d)) delete (d as Record<string, unknown>)[k];
      Object.assign(d, made);
    });
  } catch (e) {
    tell(e);
  }
}
