import { useState } from "react";
import * as calls from "../api/calls";
import type { GradeTry, Scene } from "../api/shapes";
import { SheetBox } from "../controls/SheetBox";
import { freshId } from "../document/ids";
import { edit } from "../state/edits";
import { get, set, usePage } from "../state/store";
import { type Try, TryGrid, useTries } from "./TryGrid";
import { ShotChoice } from "../controls/ShotChoice";

type Mode = "ready" | "films" | "exposures" | "around";

const MODES: [Mode, string][] = [
  ["ready", "Ready grades"],
  ["films", "Films"],
  ["exposures", "Exposures"],
  ["around", "Around this one"],
];

interface Graded extends Try {
  found: GradeTry;
}

/** A document with a try's film, exposure and steps for a shot. */
function graded(doc: Scene, shot: string, found: GradeTry): Scene {
  const shots = doc.shots.map((s) =>
    s.id === shot ? { ...s, film: found.film as typeof s.film, exposure: found.exposure } : s,
  );
  return { ...doc, shots, grade: found.grade as Scene["grade"] };
}

/** Grades of one shot side by side, in true colours. */
export function GradeSheet() {
  const doc = usePage((s) => s.doc!);
  const id = usePage((s) => s.id!);
  const seenAs = usePage((s) => s.seenAs);
  const [mode, setMode] = useState<Mode>("ready");
  const [shot, setShot] = useState(seenAs ?? doc.shots[0]?.id ?? "");
  const find = async (signal: AbortSignal): Promise<Graded[]> => {
    const found = await calls.gradeTries(id, { document: get().doc!, shot, mode }, signal);
    return found.map((one) => ({
      label: one.label,
      document: graded(get().doc!, shot, one),
      found: one,
    }));
  };
  const { tries, made } = useTries(find, shot, mode);
  const take = ({ found }: Graded) => {
    set({ dialog: null, seenAs: shot });
    void edit(`Grade: ${found.label}`, (d) => {
      const known = new Set(get().doc!.grade.map((e) => e.id));
      d.grade = found.grade.map((e) =>
        known.has(e.id as string) ? e : { ...e, id: freshId("grade") },
      ) as Scene["grade"];
      const own = d.shots.find((s) => s.id === shot)!;
      own.film = found.film as typeof own.film;
      own.exposure = found.exposure;
    });
  };
  return (
    <SheetBox title="Grades compared" wide={1080}>
      <div className="mb-2 flex flex-wrap items-center gap-3">
        <div className="flex gap-1">
          {MODES.map(([name, label]) => (
            <button
              key={name}
              className={`btn ${mode === name ? "on" : ""}`}
              data-mode={name}
              onClick={() => setMode(name)}
            >
              {label}
            </button>
          ))}
        </div>
        <label>
          of <ShotChoice label="Of the shot" shots={doc.shots} value={shot} choose={setShot} />
        </label>
        <span className="text-soft">
          {made.length < tries.length ? `${made.length} of ${tries.length}` : "Take one."}
        </span>
      </div>
      <TryGrid tries={tries} made={made} take={take} />
    </SheetBox>
  );
}
