import { chooseFiles, watch } from "../actions/watchFiles";
import * as calls from "../api/calls";
import type { KindFacts, KindLine, OwnKind } from "../api/shapes";
import { shown } from "../document/numbers";
import { refreshCabinet } from "../state/catalogue";
import { edit } from "../state/edits";
import { get, set } from "../state/store";
import { tell } from "../state/trouble";

/** One line of what reading a model again replaced. */
export interface Replaced {
  what: string;
  before: string;
  now: string;
}

/** A kind takes the place of another wherever the open scene uses that. */
export async function replaceKind(before: string, now: string, label: string) {
  if (before === now || !JSON.stringify(get().doc).includes(`"${before}"`)) return;
  await edit(label, (d) => {
    for (const sowing of d.planting)
      for (const part of sowing.mix) if (part.kind === before) part.kind = now;
    for (const piece of d.pieces) if (piece.kind === before) piece.kind = now;
  });
}

/** The settings of a kind for a model whose surfaces may be others now: those of a name stay. */
function settingsFor(
  old: OwnKind,
  names: string[],
  model: { surfaces: string[]; settings: OwnKind },
): OwnKind {
  const surfaces = model.surfaces.map((name, i) => {
    const was = names.indexOf(name);
    return was >= 0
      ? (old.surfaces![was] ?? model.settings.surfaces![i])
      : model.settings.surfaces![i];
  });
  return { ...old, surfaces };
}

function differences(
  was: KindLine,
  now: KindLine,
  triangles: [number, number],
  names: string[],
): Replaced[] {
  const rows: Replaced[] = [
    {
      what: "triangles",
      before: triangles[0].toLocaleString("en"),
      now: triangles[1].toLocaleString("en"),
    },
    { what: "height", before: `${shown(was.height_m)} m`, now: `${shown(now.height_m)} m` },
    { what: "across", before: `${shown(2 * was.reach_m)} m`, now: `${shown(2 * now.reach_m)} m` },
  ];
  const every = [...new Set([...was.surfaces, ...names])];
  for (const name of every)
    rows.push({
      what: name,
      before: was.surfaces.includes(name) ? "there" : "none",
      now: !names.includes(name) ? "gone" : was.surfaces.includes(name) ? "as it was set" : "new",
    });
  return rows;
}

/**
 * Reads the file of a kind again: what was set stays, by the names of its surfaces. Gives the new
 * kind's name.
 */
async function readAgain(line: KindLine, facts: KindFacts, files: File[]): Promise<string> {
  const model = await calls.readModel(files);
  const old = facts.settings as unknown as OwnKind;
  const guess = model.settings as unknown as OwnKind;
  const settings = settingsFor(old, line.surfaces, { surfaces: model.surfaces, settings: guess });
  const made = await calls.makeKind(model.source, { settings, part: line.part });
  await refreshCabinet();
  await replaceKind(line.name, made.kind.name, `${line.label}: read again`);
  const replaced = differences(
    line,
    made.kind as KindLine,
    [facts.triangles[0], model.triangles],
    model.surfaces,
  );
  const open = get().cabinetAt;
  if (open) set({ cabinetAt: { drawer: "own", kind: made.kind.name, replaced } });
  return made.kind.name;
}

/** Lets the person choose the file anew; where the browser can, it is read again when saved. */
export async function chooseAgain(line: KindLine, facts: KindFacts): Promise<boolean> {
  const found = await chooseFiles(true);
  if (!found) return false;
  if (!found.files.length) return true;
  try {
    let name = await readAgain(line, facts, found.files);
    watch(`model ${line.part}`, found.files, found.handles, async (files) => {
      const now = get().cabinet?.kinds.find((k) => k.name === name);
      if (!now) return false;
      name = await readAgain(now, await calls.kindFacts(name), files);
      return true;
    });
  } catch (e) {
    tell(e);
  }
  return true;
}

/** The files that an input gave, where the browser gives no handles. */
export function giveAgain(line: KindLine, facts: KindFacts, files: File[]) {
  if (files.length) void readAgain(line, facts, files).catch(tell);
}
