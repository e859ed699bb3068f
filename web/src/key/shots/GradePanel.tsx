import { doWork } from "../../actions/work";
import * as urls from "../../api/urls";
import { set, usePage } from "../../state/store";
import { EntryList } from "../EntryList";
import { ShotChoice } from "../../controls/ShotChoice";

/** What is done to the shots' pictures, step by step, and through which shot the face is seen. */
export function GradePanel() {
  const shots = usePage((s) => s.doc!.shots);
  const seenAs = usePage((s) => s.seenAs);
  const id = usePage((s) => s.id!);
  const grades = usePage((s) => s.catalogue!.grades);
  if (!shots.length) return null;
  return (
    <div className="mt-3">
      <div className="flex items-baseline justify-between border-b border-rule text-soft">
        <span>Film and grade</span>
        <label className="text-[11.5px]">
          the face is seen as{" "}
          <ShotChoice
            label="The face is seen as"
            shots={shots}
            value={seenAs ?? ""}
            choose={(id) => set({ seenAs: id || null })}
            before={{ "": "no shot" }}
          />
        </label>
      </div>
      <div className="my-1 flex gap-1">
        <select
          className="text min-w-0 flex-1"
          aria-label="Ready grade"
          value=""
          onChange={(e) => void doWork("ready grade", { name: e.target.value, shot: seenAs ?? "" })}
        >
          <option value="">a ready grade…</option>
          {grades.map((g) => (
            <option key={g.name} value={g.name}>
              {g.label}
            </option>
          ))}
        </select>
        <button className="btn" data-grades onClick={() => set({ dialog: "grades" })}>
          compare
        </button>
        {seenAs && (
          <a
            className="btn"
            href={urls.gradeCube(id, seenAs)}
            download
            title="Film and grade as a look-up table, from ACEScct to sRGB"
          >
            .cube
          </a>
        )}
        {seenAs && (
          <a
            className="btn"
            href={urls.gradeCdl(id, seenAs)}
            download
            title="What acts on light alone, as a colour decision list to be taken on ACEScct"
          >
            CDL
          </a>
        )}
      </div>
      {seenAs && shots.length > 1 && (
        <ShotChoice
          label="Carry film and grade to"
          shots={shots.filter((s) => s.id !== seenAs)}
          value=""
          choose={(id) => void doWork("copy grade", { from_shot: seenAs, to_shot: id })}
          before={{ "": "carry film and grade to…" }}
          className="text mb-1 w-full"
        />
      )}
      <EntryList
        list="grade"
        add="step of grading"
        empty="Shown as the film has it. Steps act one after another, on one shot or on all."
      />
    </div>
  );
}
